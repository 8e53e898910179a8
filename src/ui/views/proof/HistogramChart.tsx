'use client';
import { decimal, say } from '@/texts/say';
import { useMemo } from 'react';
import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { Measurement } from '@/core/loudness/measure';
import { histogramFloorDb } from '@/core/loudness/places';
import { usePage } from '../../theme/AppTheme';
import { ChartBox, useTooltipStyle } from '../../components/ChartBox';

/**
 * How much of the part is at each level: the room is one hill, the voice another, and the gap between them is
 * what a listener hears as clean.
 */
export function HistogramChart({ measurement }: { measurement: Measurement }) {
  const page = usePage();
  const tooltip = useTooltipStyle();
  const bars = useMemo(
    () => measurement.histogram.map((share, i) => ({ db: histogramFloorDb + i, percent: share * 100 })),
    [measurement],
  );
  return (
    <ChartBox label={say`How long the part is at each level`}>
      <ResponsiveContainer width="100%" height="100%">
        <BarChart data={bars} margin={{ top: 6, right: 8, bottom: 0, left: -14 }} barCategoryGap={1}>
          <CartesianGrid stroke={page.rule} vertical={false} />
          <XAxis
            dataKey="db"
            type="number"
            domain={[histogramFloorDb, 0]}
            ticks={[-84, -72, -60, -48, -36, -24, -12, 0]}
            tickFormatter={(value: number) => `−${-value}`}
            stroke={page.faintInk}
            fontSize={11}
          />
          <YAxis tickFormatter={(value: number) => `${value} %`} stroke={page.faintInk} fontSize={11} />
          <Tooltip
            contentStyle={tooltip}
            formatter={(value) => [say`${decimal(Number(value), 1)} % of the time`, '']}
            labelFormatter={(label) => say`−${-Number(label)} to −${-Number(label) - 1} dBFS`}
            separator=""
          />
          <Bar dataKey="percent" fill={page.ink} isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </ChartBox>
  );
}
