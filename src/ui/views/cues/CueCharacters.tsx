'use client';
import { say } from '@/texts/say';
import DeleteOutlined from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMemo } from 'react';
import { cueSheetOf } from '@/core/timeline/cueEdits';
import { cueProgress } from '@/core/timeline/cueState';
import { changeCharacter, removeCharacter } from '@/state/cues/cues';
import { useProject } from '@/state/project/openProject';
import { usePart } from '@/state/sheet/part';

/** Who speaks: names, how far each is, and the track a character has, where it has one. */
export function CueCharacters({ onClose }: { onClose: () => void }) {
  const timeline = usePart((state) => state.timeline);
  const readOnly = useProject((state) => state.readOnly);
  const progress = useMemo(() => cueProgress(timeline).characters, [timeline]);
  const { characters } = cueSheetOf(timeline);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>{say`Characters`}</DialogTitle>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, pt: '8px !important' }}>
        {characters.length === 0 && (
          <Typography color="text.secondary">{say`Nobody yet: write a name into the column “Character” of a cue, and there is one.`}</Typography>
        )}
        {characters.map(({ id, name, track }) => {
          const { done = 0, all = 0 } = progress.get(id) ?? {};
          return (
            <Box key={id} sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
              <TextField
                size="small"
                label={say`Name`}
                key={name}
                defaultValue={name}
                disabled={readOnly}
                onBlur={({ target }) => {
                  const next = target.value.trim();
                  if (next !== '' && next !== name) changeCharacter(id, { name: next.slice(0, 120) });
                }}
                onKeyDown={({ key, target }) => key === 'Enter' && (target as HTMLElement).blur()}
                sx={{ flex: 1 }}
              />
              <TextField
                select
                size="small"
                label={say`Track`}
                value={timeline.tracks.some((one) => one.id === track) ? track : ''}
                disabled={readOnly}
                onChange={({ target }) => changeCharacter(id, { track: target.value || null })}
                slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
                sx={{ width: 170 }}
              >
                <MenuItem value="">{say`whichever is armed`}</MenuItem>
                {timeline.tracks.map((one) => (
                  <MenuItem key={one.id} value={one.id}>
                    {one.name}
                  </MenuItem>
                ))}
              </TextField>
              <Typography variant="body2" color="text.secondary" sx={{ width: 92 }}>
                {say`${done} of ${all} done`}
              </Typography>
              <IconButton
                size="small"
                disabled={readOnly}
                aria-label={say`Take ${name} away`}
                onClick={() => removeCharacter(id)}
              >
                <DeleteOutlined fontSize="small" />
              </IconButton>
            </Box>
          );
        })}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>{say`Close`}</Button>
      </DialogActions>
    </Dialog>
  );
}
