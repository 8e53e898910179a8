'use client';
import Box from '@mui/material/Box';
import { useCallback, useRef } from 'react';
import { formatTime } from '@/core/base/units';
import { secondsSince } from '@/state/talent/studioClock';
import { useTalent } from '@/state/talent/talent';
import { useTicks } from '../../hooks/useTicks';

/** Where in the part the studio is: it runs with what is heard here, and stands where the caret does. */
export function TalentClock() {
  const moving = useTalent((state) => state.moving);
  const text = useRef<HTMLSpanElement>(null);
  const runs = moving !== null && moving.mode !== 'idle';
  const show = useCallback(() => {
    if (!text.current || !moving) return;
    const since = runs ? Math.max(0, secondsSince(moving.at) ?? 0) : 0;
    text.current.textContent = formatTime(Math.max(0, moving.heard + since));
  }, [moving, runs]);
  useTicks(100, runs, show);
  if (!moving) return null;
  return (
    <Box
      component="span"
      ref={text}
      data-testid="talent-clock"
      sx={{ fontVariantNumeric: 'tabular-nums', fontSize: 20 }}
    />
  );
}
