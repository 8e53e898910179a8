'use client';
import { say } from '@/texts/say';
import Box from '@mui/material/Box';
import { useMemo } from 'react';
import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceArea,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import { formatDb, formatTime } from '@/core/base/units';
import type { Measurement } from '@/core/loudness/measure';
import type { Spec } from '@/core/specs/spec';
import { usePage } from '../../theme/AppTheme';
import { ChartBox, useTooltipStyle } from '../../components/ChartBox';

/** A chart has about this many points, however long the part: more cannot be seen. */
const mostPoints = 800;
const lowest = -60;

/**
 * Short-term loudness over heard time. The band is the spec's limit for loudness, or for RMS where that is
 * what it limits: the two scales differ by a few decibels for speech, so the band is where the level is
 * wanted, not a verdict.
 */
export function LoudnessChart({ measurement, spec }: { measurement: Measurement; spec: Spec }) {
  const page = usePage();
  const tooltip = useTooltipStyle();
  const points = useMemo(() => chartPoints(measurement), [measurement]);
  const limit = spec.limits.integratedLufs ?? spec.limits.rmsDbfs;
  if (points.length === 0)
    return (
      <Box sx={{ color: 'text.secondary' }}>{say`Shorter than 3 s: there is no short-term loudness.`}</Box>
    );
  return (
    <ChartBox label={say`Short-term loudness over time`}>
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={points} margin={{ top: 6, right: 8, bottom: 0, left: -14 }}>
          <CartesianGrid stroke={page.rule} vertical={false} />
          {limit && (
            <ReferenceArea
              y1={limit.min ?? lowest}
              y2={limit.max ?? 0}
              fill={page.aim}
              stroke={page.sage}
              strokeOpacity={0.8}
              ifOverflow="hidden"
            />
          )}
          <XAxis
            dataKey="seconds"
            type="number"
            domain={[0, Math.max(3, measurement.durationSeconds)]}
            tickFormatter={(value: number) => formatTime(value)}
            stroke={page.faintInk}
            fontSize={11}
          />
          <YAxis
            domain={[-48, -6]}
            ticks={[-48, -36, -30, -24, -18, -12, -6]}
            tickFormatter={(value: number) => `−${-value}`}
            stroke={page.faintInk}
            fontSize={11}
            allowDataOverflow
          />
          <Tooltip
            formatter={(value) => [formatDb(Number(value), 'LUFS'), say`Short-term`]}
            labelFormatter={(label) => formatTime(Number(label), true)}
            contentStyle={tooltip}
          />
          <Line dataKey="lufs" stroke={page.ink} strokeWidth={1.6} dot={false} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </ChartBox>
  );
}

/**
 * The loudest of each stretch, so that thinning hides no excess; entry times are the ends of their 3 s
 * windows.
 */
function chartPoints({ shortTerm }: Measurement): { seconds: number; lufs: number }[] {
  const { lufs, stepSeconds } = shortTerm;
  const stride = Math.max(1, Math.ceil(lufs.length / mostPoints));
  const points = [];
  for (let i = 0; i < lufs.length; i += stride) {
    const loudest = lufs.slice(i, i + stride).reduce((highest, value) => Math.max(highest, value), lowest);
    points.push({ seconds: 3 + i * stepSeconds, lufs: loudest });
  }
  return points;
}
