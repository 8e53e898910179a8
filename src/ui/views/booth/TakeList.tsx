'use client';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useMemo } from 'react';
import { format } from 'date-fns';
import { formatTime } from '@/core/base/units';
import { sourcesOf } from '@/core/timeline/timeline';
import { usePart } from '@/state/part';
import { useSession } from '@/state/session';
import { serif } from '../../theme/theme';

/** Every recording of this part; a take stays here whatever was done to it on the sheet. */
export function TakeList() {
  const partId = usePart((state) => state.id);
  const timeline = usePart((state) => state.timeline);
  const sources = useSession((state) => state.sources);
  const takes = useMemo(
    () => [...sources.values()].filter((source) => source.partId === partId).sort((a, b) => a.take - b.take),
    [sources, partId],
  );
  const used = useMemo(() => sourcesOf(timeline), [timeline]);
  if (takes.length === 0) {
    return (
      <Typography color="text.secondary" sx={{ p: 2.5 }}>
        No takes yet. Choose an input above, then press Enter.
      </Typography>
    );
  }
  return (
    <Box
      component="ol"
      sx={{ overflowY: 'auto', flex: 1, m: 0, p: 1.5, listStyle: 'none' }}
      aria-label="Takes"
    >
      {takes.map((take) => (
        <Box component="li" key={take.id} sx={{ py: 1, borderBottom: 1, borderColor: 'divider' }}>
          <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
            <Box component="span" sx={{ fontFamily: serif, fontWeight: 650 }}>
              {take.name}
            </Box>
            <span>{formatTime((take.frames - take.handleFrames) / take.rateHz, true)}</span>
          </Box>
          <Box sx={{ color: 'text.secondary', fontSize: 13 }}>
            {format(take.startedAt, 'd MMM yyyy, HH:mm')} · {take.input}
            {take.overrunFrames > 0 && ` · ${take.overrunFrames} frames lost`}
            {!used.has(take.id) && ' · not on the sheet now; undo brings it back'}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
