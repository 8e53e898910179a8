import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { reminderHours } from '@/core/keep/backups';
import { roughly } from '@/core/keep/space';
import { remindAfter, saveBackup, useReminding } from '@/state/keep/reminding';
import { useAgo } from './useAgo';

const hoursTold = (hours: number) =>
  hours < 1 ? say`half an hour` : hours === 1 ? say`an hour` : say`${hours} hours`;

/** Files that hold the whole project: when the last one was saved, and what is new since. */
export function BackupSection() {
  const { at, hours, hasFile, after } = useReminding();
  const ago = useAgo(at);
  const fresh =
    hours > 0 ? say`${roughly(hours * 60)} of audio ${hasFile ? say`came since` : say`is in no file`}` : '';
  return (
    <>
      <Typography>
        {ago ? say`The last one was saved ${ago}` : say`None has been saved from this browser yet`}
        {fresh ? `; ${fresh}.` : '.'}
      </Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', gap: 1, mt: 1 }}>
        <Button
          size="small"
          variant="outlined"
          color="inherit"
          onClick={() => void saveBackup(false)}
        >{say`Save the whole project`}</Button>
        {hasFile && (
          <Button
            size="small"
            variant="outlined"
            color="inherit"
            onClick={() => void saveBackup(true)}
          >{say`Save only what is new`}</Button>
        )}
        <TextField
          select
          size="small"
          label={say`Remind me`}
          value={after ?? 'never'}
          onChange={({ target }) =>
            void remindAfter(reminderHours.find((each) => String(each) === target.value) ?? null)
          }
          sx={{ minWidth: 230, ml: 'auto' }}
          helperText={say`Where no folder keeps a copy`}
        >
          {reminderHours.map((each) => (
            <MenuItem key={each} value={String(each)}>{say`after ${hoursTold(each)} of recording`}</MenuItem>
          ))}
          <MenuItem value="never">{say`never`}</MenuItem>
        </TextField>
      </Box>
    </>
  );
}
