import { useMemo } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { humSections } from '@/core/chain/chained';
import { takenOff } from '@/core/chain/even';
import type { ChainStep } from '@/core/chain/chain';
import { butterworthHighPass, responseDb } from '@/core/dsp/cookbook';
import { usePage } from '../../../theme/AppTheme';
import { ChartBox } from '../../../components/ChartBox';
import { nameHertz } from './hertz';

const height = 126;
const points = 160;

/** The curve of a step, where people would rather look: what it does over frequency, or over level. */
export function CurvePicture({ step, rateHz }: { step: ChainStep; rateHz: number }) {
  switch (step.kind) {
    case 'rumble':
    case 'hum':
      return <FilterCurve step={step} rateHz={rateHz} />;
    case 'even':
    case 'pauses':
      return <LevelCurve step={step} />;
    default:
      return null;
  }
}

function FilterCurve({
  step,
  rateHz,
}: {
  step: Extract<ChainStep, { kind: 'rumble' | 'hum' }>;
  rateHz: number;
}) {
  const page = usePage();
  const highest = step.kind === 'rumble' ? 2000 : 1500;
  const data = useMemo(() => {
    const sections =
      step.kind === 'rumble'
        ? butterworthHighPass(step.hertz, step.slopeDb / 6, rateHz)
        : humSections(step, rateHz);
    return Array.from({ length: points }, (_, i) => {
      const hertz = 15 * (highest / 15) ** (i / (points - 1));
      return { hertz, db: Math.max(-48, responseDb(sections, hertz, rateHz)) };
    });
  }, [step, rateHz, highest]);
  return (
    <ChartBox label="What passes, by frequency" height={height}>
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={data} margin={{ top: 6, right: 6, bottom: 0, left: -28 }}>
          <CartesianGrid stroke={page.rule} />
          <XAxis
            dataKey="hertz"
            type="number"
            scale="log"
            domain={[15, highest]}
            ticks={[20, 50, 100, 200, 500, 1000]}
            tickFormatter={nameHertz}
            stroke={page.faintInk}
            fontSize={10}
          />
          <YAxis domain={[-48, 6]} ticks={[-48, -24, 0]} stroke={page.faintInk} fontSize={10} />
          <Line dataKey="db" stroke={page.ink} strokeWidth={1.8} dot={false} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </ChartBox>
  );
}

/** Output over input, dB. */
function levelOut(level: number, step: Extract<ChainStep, { kind: 'even' | 'pauses' }>): number {
  if (step.kind === 'even') return level - takenOff(level, step) + step.makeUpDb;
  const under = step.thresholdDb - step.hysteresisDb - level;
  if (under <= 0) return level;
  const down =
    step.by === 'speech' && step.roomDb ? step.rangeDb : (step.thresholdDb - level) * (step.ratio - 1);
  return level - Math.min(step.rangeDb, down);
}

function LevelCurve({ step }: { step: Extract<ChainStep, { kind: 'even' | 'pauses' }> }) {
  const page = usePage();
  const lowest = step.kind === 'even' ? -60 : -90;
  const data = useMemo(
    () =>
      Array.from({ length: 121 }, (_, i) => {
        const level = lowest * (1 - i / 120);
        return { level, out: levelOut(level, step), plain: level };
      }),
    [step, lowest],
  );
  const ticks = step.kind === 'even' ? [-60, -40, -20, 0] : [-90, -60, -30, 0];
  return (
    <ChartBox label="Level out by level in" height={height}>
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={data} margin={{ top: 6, right: 6, bottom: 0, left: -28 }}>
          <CartesianGrid stroke={page.rule} />
          <XAxis
            dataKey="level"
            type="number"
            domain={[lowest, 0]}
            ticks={ticks}
            stroke={page.faintInk}
            fontSize={10}
          />
          <YAxis
            domain={[lowest - 10, 6]}
            ticks={ticks}
            stroke={page.faintInk}
            fontSize={10}
            allowDataOverflow
          />
          <ReferenceLine x={step.thresholdDb} stroke={page.blue} strokeDasharray="2 3" />
          <Line
            dataKey="plain"
            stroke={page.rule}
            strokeDasharray="3 3"
            dot={false}
            isAnimationActive={false}
          />
          <Line dataKey="out" stroke={page.ink} strokeWidth={1.8} dot={false} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </ChartBox>
  );
}
