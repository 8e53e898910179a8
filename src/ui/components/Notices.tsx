'use client';
import Alert from '@mui/material/Alert';
import Stack from '@mui/material/Stack';
import { dismiss, useNotices } from '@/state/notices';

/** Messages that belong to no field, newest last, until they are dismissed. */
export function Notices() {
  const notices = useNotices((state) => state.notices);
  return (
    <Stack
      spacing={1}
      sx={{ position: 'fixed', right: 24, bottom: 96, zIndex: 1500, width: 440, maxWidth: '90vw' }}
      role="log"
    >
      {notices.slice(-4).map(({ id, severity, text }) => (
        <Alert
          key={id}
          severity={severity}
          variant="outlined"
          onClose={() => dismiss(id)}
          sx={{ bgcolor: 'background.paper', boxShadow: 3 }}
        >
          {text}
        </Alert>
      ))}
    </Stack>
  );
}
