'use client';
import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider, useColorScheme } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { lamp, light, type InkPalette } from './palette';
import { theme } from './theme';

/** The theme follows the system until the user chooses. */
export function AppTheme({ children }: { children: ReactNode }) {
  return (
    <ThemeProvider theme={theme} defaultMode="system">
      <CssBaseline />
      {children}
    </ThemeProvider>
  );
}

/** The colours in force, for canvases, which cannot use CSS variables. */
export function usePage(): InkPalette {
  const { mode, systemMode } = useColorScheme();
  return (mode === 'system' ? systemMode : mode) === 'dark' ? lamp : light;
}
