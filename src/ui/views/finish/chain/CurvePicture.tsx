import { useMemo } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import type { ChainStep } from '@/core/chain/chain';
import { curveOf, type StepCurve } from '@/core/chain/curves';
import { usePage } from '../../../theme/AppTheme';
import { ChartBox } from '../../../components/ChartBox';
import { nameHertz } from './hertz';

const height = 126;
const namedHertz = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000];

/** Round levels from one to another, no more than five. */
function namedLevels(from: number, to: number): number[] {
  const apart = [6, 12, 15, 20, 24, 30, 40].find((step) => (to - from) / step <= 4) ?? 60;
  const first = Math.ceil(from / apart);
  return Array.from({ length: Math.floor(to / apart) - first + 1 }, (_, i) => (first + i) * apart);
}

const namesOf = ({ over, from, to }: StepCurve) =>
  over === 'level'
    ? { scale: 'linear' as const, ticks: namedLevels(from, to) }
    : {
        scale: 'log' as const,
        ticks: namedHertz.filter((hertz) => hertz >= from && hertz <= to),
        tickFormatter: nameHertz,
      };

/** The curve of a step, where people would rather look: what it does over frequency, or over level. */
export function CurvePicture({ step, rateHz }: { step: ChainStep; rateHz: number }) {
  const page = usePage();
  const curve = useMemo(() => curveOf(step, rateHz), [step, rateHz]);
  if (!curve) return null;
  const { label, from, to, lowestDb, highestDb, threshold, points } = curve;
  const axis = { stroke: page.faintInk, fontSize: 10 };
  return (
    <ChartBox label={label} height={height}>
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={[...points]} margin={{ top: 6, right: 6, bottom: 0, left: -28 }}>
          <CartesianGrid stroke={page.rule} />
          <XAxis dataKey="at" type="number" domain={[from, to]} {...namesOf(curve)} {...axis} />
          <YAxis
            domain={[lowestDb, highestDb]}
            ticks={namedLevels(lowestDb, highestDb)}
            allowDataOverflow
            {...axis}
          />
          {threshold !== undefined && (
            <ReferenceLine x={threshold} stroke={page.blue} strokeDasharray="2 3" />
          )}
          <Line
            dataKey="beforeDb"
            stroke={page.faintInk}
            strokeDasharray="3 3"
            dot={false}
            activeDot={false}
            isAnimationActive={false}
          />
          <Line
            dataKey="db"
            stroke={page.ink}
            strokeWidth={1.8}
            dot={false}
            activeDot={false}
            isAnimationActive={false}
          />
        </LineChart>
      </ResponsiveContainer>
    </ChartBox>
  );
}
