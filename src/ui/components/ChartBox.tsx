'use client';
import Box from '@mui/material/Box';
import { usePage } from '../theme/AppTheme';

interface Props {
  label: string;
  height?: number;
  children: React.ReactNode;
}

/** The place of a chart; `label` says to those who cannot see it what it shows. */
export function ChartBox({ label, height = 150, children }: Props) {
  return (
    <Box sx={{ height }} role="img" aria-label={label}>
      {children}
    </Box>
  );
}

export function useTooltipStyle() {
  const page = usePage();
  return { background: page.sheet, border: `1px solid ${page.rule}`, borderRadius: 8 };
}
