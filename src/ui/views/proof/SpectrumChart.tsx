'use client';
import { say, written } from '@/texts/say';
import Box from '@mui/material/Box';
import { useMemo } from 'react';
import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { formatDb } from '@/core/base/units';
import { thirdOctavesHz } from '@/core/dsp/longTermSpectrum';
import { usePage } from '../../theme/AppTheme';
import { ChartBox, useTooltipStyle } from '../../components/ChartBox';

const lowestDb = -110;
const nameHertz = (hertz: number) =>
  hertz >= 1000 ? `${written(Number((hertz / 1000).toPrecision(2)))} kHz` : `${Math.round(hertz)} Hz`;

/**
 * Long-term spectrum: hum stands up at the left, hiss at the right, and two parts of one voice should look
 * alike.
 */
export function SpectrumChart({ bands }: { bands: number[] | null }) {
  const page = usePage();
  const tooltip = useTooltipStyle();
  const points = useMemo(
    () =>
      (bands ?? []).map((db, band) => ({
        hertz: thirdOctavesHz[band],
        db: Number.isFinite(db) ? Math.max(lowestDb, db) : lowestDb,
      })),
    [bands],
  );
  if (!bands) return <Box sx={{ height: 150, color: 'text.secondary' }}>{say`Measuring the spectrum …`}</Box>;
  return (
    <ChartBox label={say`Long-term spectrum`}>
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={points} margin={{ top: 6, right: 8, bottom: 0, left: -14 }}>
          <CartesianGrid stroke={page.rule} vertical={false} />
          <XAxis
            dataKey="hertz"
            type="number"
            scale="log"
            domain={[45, 17_800]}
            ticks={[63, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000]}
            tickFormatter={nameHertz}
            stroke={page.faintInk}
            fontSize={11}
          />
          <YAxis
            domain={[lowestDb, -20]}
            ticks={[-110, -90, -70, -50, -30]}
            tickFormatter={(value: number) => `−${-value}`}
            stroke={page.faintInk}
            fontSize={11}
            allowDataOverflow
          />
          <Tooltip
            contentStyle={tooltip}
            formatter={(value) => [formatDb(Number(value), 'dBFS'), say`Band`]}
            labelFormatter={(label) => nameHertz(Number(label))}
          />
          <Line dataKey="db" stroke={page.ink} strokeWidth={1.6} dot={false} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </ChartBox>
  );
}
