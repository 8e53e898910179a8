'use client';
import Box from '@mui/material/Box';
import { usePage } from '../../theme/AppTheme';

/** The place of a chart in the Proof; `label` says to those who cannot see it what it shows. */
export function ChartBox({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Box sx={{ height: 150 }} role="img" aria-label={label}>
      {children}
    </Box>
  );
}

export function useTooltipStyle() {
  const page = usePage();
  return { background: page.sheet, border: `1px solid ${page.rule}`, borderRadius: 8 };
}
