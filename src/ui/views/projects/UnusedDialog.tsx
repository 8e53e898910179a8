import { say } from '@/texts/say';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import CircularProgress from '@mui/material/CircularProgress';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import List from '@mui/material/List';
import ListItem from '@mui/material/ListItem';
import ListItemButton from '@mui/material/ListItemButton';
import ListItemText from '@mui/material/ListItemText';
import Typography from '@mui/material/Typography';
import { format } from '@/texts/dates';
import { useEffect, useState } from 'react';
import { formatBytes, formatTime } from '@/core/base/units';
import { removeUnused, unusedAudio, type UnusedAudio } from '@/state/keep/browserSpace';
import { notifyError } from '@/state/page/notices';

interface Props {
  projectId: string;
  name: string;
  onClose: () => void;
}

/** Recordings of a project that are heard nowhere, and which of them are to go. */
export function UnusedDialog({ projectId, name, onClose }: Props) {
  const [unused, setUnused] = useState<UnusedAudio[] | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    unusedAudio(projectId).then(setUnused, notifyError);
  }, [projectId]);
  const toggle = (id: string) =>
    setChosen((before) => {
      const after = new Set(before);
      if (!after.delete(id)) after.add(id);
      return after;
    });
  const all = unused ?? [];
  const bytes = all
    .filter(({ id }) => chosen.has(id))
    .reduce((sum, one) => sum + (one.shared ? 0 : one.bytes), 0);
  const uncircled = all.filter(({ circled }) => !circled).map(({ id }) => id);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle>{say`Unused audio of “${name}”`}</DialogTitle>
      <DialogContent>
        {unused === null && <CircularProgress aria-label={say`Looking`} />}
        {unused?.length === 0 && (
          <Typography>{say`Every recording of this project is heard on one of its sheets.`}</Typography>
        )}
        {all.length > 0 && (
          <>
            <Typography color="text.secondary">{say`These are on no sheet. What you remove is gone for good, with the steps of undo that heard it.`}</Typography>
            <Button
              size="small"
              color="inherit"
              sx={{ mt: 1 }}
              onClick={() => setChosen(new Set(chosen.size > 0 ? [] : uncircled))}
            >
              {chosen.size > 0 ? say`Choose none` : say`Choose all that are not circled`}
            </Button>
            <List dense aria-label={say`Unused recordings`}>
              {all.map(({ id, name: take, partName, seconds, bytes: size, startedAt, circled, shared }) => (
                <ListItem key={id} disablePadding>
                  <ListItemButton dense onClick={() => toggle(id)}>
                    <Checkbox
                      edge="start"
                      checked={chosen.has(id)}
                      tabIndex={-1}
                      disableRipple
                      slotProps={{ input: { 'aria-label': say`Remove ${take}` } }}
                    />
                    <ListItemText
                      primary={`${partName ? `${partName}: ` : ''}${take}${circled ? say` (circled)` : ''}`}
                      secondary={`${formatTime(seconds)} · ${shared ? say`a copy of the project has it too` : formatBytes(size)} · ${format(startedAt, 'd MMM yyyy')}`}
                    />
                  </ListItemButton>
                </ListItem>
              ))}
            </List>
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          {all.length === 0 ? say`Close` : say`Cancel`}
        </Button>
        {all.length > 0 && (
          <Button
            color="error"
            variant="contained"
            disabled={chosen.size === 0}
            onClick={() => {
              onClose();
              removeUnused(projectId, [...chosen]).catch(notifyError);
            }}
          >{say`Remove ${chosen.size === 0 ? '' : `${chosen.size} · ${formatBytes(bytes)}`}`}</Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
