'use client';
import Paper from '@mui/material/Paper';
import Popper from '@mui/material/Popper';
import { GridEditInputCell, type GridRenderEditCellParams } from '@mui/x-data-grid';
import { useState } from 'react';
import { faultOfTyped } from '@/state/cues/cues';

/**
 * A time of a cue while it is typed: timecode, or minutes and seconds. What is wrong with it is said beside
 * it, and it cannot be taken until it is right; Esc leaves it as it was.
 */
export function TimeCell(params: GridRenderEditCellParams) {
  const [cell, setCell] = useState<HTMLElement | null>(null);
  const fault = params.error
    ? faultOfTyped(String(params.id), params.field === 'in' ? 'from' : 'to', String(params.value))
    : null;
  return (
    <span ref={setCell} style={{ display: 'flex', width: '100%', height: '100%' }}>
      <GridEditInputCell {...params} debounceMs={0} />
      <Popper
        open={fault !== null && cell !== null}
        anchorEl={cell}
        placement="bottom-start"
        role="tooltip"
        sx={{ zIndex: 'tooltip' }}
      >
        <Paper
          elevation={3}
          sx={{ mt: 0.5, px: 1.5, py: 0.75, maxWidth: 420, fontSize: 13.5, color: 'error.main' }}
        >
          {fault}
        </Paper>
      </Popper>
    </span>
  );
}
