import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import Link from 'next/link';
import { serif } from '../theme/theme';

export function Brand() {
  return (
    <Box
      component={Link}
      href="/"
      aria-label={say`Parola: all projects`}
      sx={{
        fontFamily: serif,
        fontWeight: 700,
        fontSize: 22,
        color: 'text.primary',
        textDecoration: 'none',
        letterSpacing: '-0.01em',
      }}
    >
      parola
      <Box component="span" sx={{ color: 'error.main' }}>
        .
      </Box>
    </Box>
  );
}
