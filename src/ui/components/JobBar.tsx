'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Paper from '@mui/material/Paper';
import { useJob } from '@/state/page/jobs';

/** The running export or project file: what, how far, and Cancel. */
export function JobBar() {
  const job = useJob((state) => state.job);
  if (!job) return null;
  return (
    <Paper
      elevation={4}
      role="status"
      sx={{
        position: 'fixed',
        left: '50%',
        transform: 'translateX(-50%)',
        bottom: 92,
        zIndex: 1450,
        p: 2,
        width: 440,
        maxWidth: '90vw',
      }}
    >
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', mb: 1 }}>
        <span>
          {job.title} · {Math.round(job.done * 100)} %
        </span>
        <Button size="small" color="inherit" onClick={job.cancel}>{say`Cancel`}</Button>
      </Box>
      {job.label && (
        <Box sx={{ fontSize: 13, color: 'text.secondary', mb: 0.75, overflowWrap: 'anywhere' }}>
          {job.label}
        </Box>
      )}
      <LinearProgress variant="determinate" value={job.done * 100} aria-label={job.title} />
    </Paper>
  );
}
