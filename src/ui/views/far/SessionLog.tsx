'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { format } from '@/texts/dates';
import { useFar } from '@/state/far/far';

/** Who came when, with which input; what was recorded, lost and laid. */
export function SessionLog() {
  const log = useFar((state) => state.log);
  return (
    <Box
      component="ol"
      aria-label={say`Session log`}
      sx={{ listStyle: 'none', p: 0, mt: 2, maxHeight: 220, overflowY: 'auto', fontSize: 13 }}
    >
      {[...log].reverse().map(({ at, who, what }, index) => (
        <Box component="li" key={log.length - index} sx={{ display: 'flex', gap: 1.5, py: 0.25 }}>
          <Box
            component="span"
            sx={{ color: 'text.secondary', fontVariantNumeric: 'tabular-nums', flexShrink: 0 }}
          >
            {format(at, 'd MMM HH:mm:ss')}
          </Box>
          <b>{who}</b>
          <span>{what}</span>
        </Box>
      ))}
    </Box>
  );
}
