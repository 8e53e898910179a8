'use client';
import { say } from '@/texts/say';
import DeleteOutlined from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import IconButton from '@mui/material/IconButton';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { guidesOf } from '@/core/timeline/guides';
import { removeGuide, renameGuide, setInStep } from '@/state/recording/guides';
import { usePart } from '@/state/sheet/part';

/** The guides of the open part: heard while playing and recording, in no file unless it is asked for. */
export function GuideTable() {
  const guides = usePart((state) => state.timeline.guides);
  if (!guides) return null;
  return (
    <Box component="section" aria-label={say`Guides`} sx={{ mt: 2 }}>
      <Typography variant="h3">{say`Guides`}</Typography>
      {guidesOf({ guides }).map(({ id, name, free }) => (
        <Box key={id} sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 1 }}>
          <TextField
            key={name}
            size="small"
            defaultValue={name}
            onBlur={(event) => event.target.value !== name && renameGuide(id, event.target.value)}
            slotProps={{ htmlInput: { 'aria-label': say`Name of guide ${name}`, maxLength: 60 } }}
          />
          <FormControlLabel
            control={<Switch checked={!free} onChange={(_, inStep) => setInStep(id, inStep)} />}
            label={say`In step: the part keeps its time`}
          />
          <IconButton size="small" aria-label={say`Take ${name} away`} onClick={() => removeGuide(id)}>
            <DeleteOutlined fontSize="small" />
          </IconButton>
        </Box>
      ))}
    </Box>
  );
}
