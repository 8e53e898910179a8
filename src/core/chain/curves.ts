import { say } from '../../texts/say';
import { clamp, powerToDb } from '../base/units';
import { butterworthHighPass, cookbook, responseDb } from '../dsp/cookbook';
import { humSections } from './chained';
import type { ChainStep, StepKind } from './chain';
import { takenOff } from './even';
import { speechUnderDb } from './phrases';
import { powersOfProfile } from './roomProfile';

type StepOf<Kind extends StepKind> = Extract<ChainStep, { kind: Kind }>;

/** A point of a curve: what there is and, where both are told, what there was before. */
export interface CurvePoint {
  readonly at: number;
  readonly db: number;
  readonly beforeDb?: number;
}

/** What a step does over frequency or over level, as it is drawn. */
export interface StepCurve {
  readonly over: 'frequency' | 'level';
  /** What it shows, in words. */
  readonly label: string;
  /** In hertz, or in dB. */
  readonly from: number;
  readonly to: number;
  readonly lowestDb: number;
  readonly highestDb: number;
  readonly points: readonly CurvePoint[];
  /** A level that is set, dB. */
  readonly threshold?: number;
}

const count = 160;

/** `count` frequencies, each as much further as the last. */
const frequencies = (from: number, to: number) =>
  Array.from({ length: count }, (_, i) => from * (to / from) ** (i / (count - 1)));

const levels = (from: number, to: number) =>
  Array.from({ length: 121 }, (_, i) => from + ((to - from) * i) / 120);

/** The curve of a step; null for what has none of its own. */
export function curveOf(step: ChainStep, rateHz: number): StepCurve | null {
  switch (step.kind) {
    case 'rumble':
      return passing(butterworthHighPass(step.hertz, step.slopeDb / 6, rateHz), 2000, rateHz);
    case 'hum':
      return passing(humSections(step, rateHz), 1500, rateHz);
    case 'sibilance':
      return bandCurve('highShelf', step, 20_000, rateHz);
    case 'plosives':
      return bandCurve('lowShelf', step, 2000, rateHz);
    case 'room':
      return roomCurve(step, rateHz);
    case 'even':
      return levelCurve(step.thresholdDb, -60, (level) => level - takenOff(level, step) + step.makeUpDb);
    case 'pauses':
      return levelCurve(step.thresholdDb, -90, (level) => level - pausesTakeOff(level, step));
    case 'phrases':
      return levelCurve(step.towardsDb, -60, (level) =>
        level <= step.towardsDb - speechUnderDb
          ? level
          : level + clamp(step.towardsDb - level, -step.mostDb, step.mostDb),
      );
    case 'ceiling':
      return levelCurve(step.ceilingDb, -60, (level) => Math.min(step.ceilingDb, level + step.gainDb));
    case 'equaliser':
      return null;
  }
}

type Sections = Parameters<typeof responseDb>[0];

const passing = (sections: Sections, highestHz: number, rateHz: number): StepCurve => ({
  ...{ over: 'frequency', label: say`What passes, by frequency` },
  ...{ from: 15, to: highestHz, lowestDb: -48, highestDb: 6 },
  points: frequencies(15, highestHz).map((hertz) => ({
    at: hertz,
    db: Math.max(-48, responseDb(sections, hertz, rateHz)),
  })),
});

/** A part of the spectrum at its most and, before, untouched. */
function bandCurve(
  shape: 'lowShelf' | 'highShelf',
  { hertz, mostDb }: StepOf<'sibilance' | 'plosives'>,
  highestHz: number,
  rateHz: number,
): StepCurve {
  const shelf = [cookbook({ shape, hertz, gainDb: -mostDb, q: Math.SQRT1_2 }, rateHz)];
  const from = shape === 'lowShelf' ? 15 : 1000;
  const to = Math.min(highestHz, 0.45 * rateHz);
  return {
    ...{ over: 'frequency', label: say`The most that is taken off, by frequency` },
    ...{ from, to, lowestDb: -30, highestDb: 6 },
    points: frequencies(from, to).map((at) => ({ at, db: responseDb(shelf, at, rateHz), beforeDb: 0 })),
  };
}

/** The room as it was learned, and as it is left: level of a band a bin wide. */
function roomCurve({ profile, amountDb }: StepOf<'room'>, rateHz: number): StepCurve | null {
  if (!profile) return null;
  const to = Math.min(20_000, 0.45 * rateHz);
  const { stepHz } = profile;
  const powers = powersOfProfile(profile, Math.ceil(to / stepHz) + 2, stepHz);
  const points = frequencies(50, to).map((at): CurvePoint => {
    const bin = Math.min(powers.length - 2, Math.floor(at / stepHz));
    const [below, above] = [powerToDb(powers[bin]), powerToDb(powers[bin + 1])];
    const beforeDb = below + (at / stepHz - bin) * (above - below);
    return { at, db: beforeDb - amountDb, beforeDb };
  });
  const all = points.flatMap(({ db, beforeDb = db }) => [db, beforeDb]);
  return {
    ...{ over: 'frequency', label: say`The room as it was learned and as it is left, by frequency` },
    ...{ from: 50, to, lowestDb: 10 * Math.floor(Math.min(...all) / 10) },
    highestDb: 10 * Math.ceil(Math.max(...all) / 10),
    points,
  };
}

function pausesTakeOff(level: number, step: StepOf<'pauses'>): number {
  if (level >= step.thresholdDb - step.hysteresisDb) return 0;
  const bySpeech = step.by === 'speech' && step.roomDb !== null;
  return bySpeech ? step.rangeDb : Math.min(step.rangeDb, (step.thresholdDb - level) * (step.ratio - 1));
}

const levelCurve = (threshold: number, lowest: number, out: (level: number) => number): StepCurve => ({
  ...{ over: 'level', label: say`Level out by level in` },
  ...{ from: lowest, to: 0, lowestDb: lowest - 10, highestDb: 6, threshold },
  points: levels(lowest, 0).map((level) => ({ at: level, db: out(level), beforeDb: level })),
});
