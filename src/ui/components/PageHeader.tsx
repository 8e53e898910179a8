import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import { Brand } from './Brand';
import { LanguageChoice } from './LanguageChoice';
import { ThemeToggle } from './ThemeToggle';

/** The top of a page that belongs to no project; `children` stand beside the choice of the theme. */
export function PageHeader({ children }: { children?: ReactNode }) {
  return (
    <Box
      component="header"
      sx={{
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'space-between',
        px: 2,
        height: 52,
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Brand />
      <Box sx={{ display: 'flex', gap: 1 }}>
        {children}
        <LanguageChoice />
        <ThemeToggle />
      </Box>
    </Box>
  );
}
