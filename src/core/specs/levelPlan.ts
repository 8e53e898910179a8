import { say } from '../../texts/say';
import { formatDb } from '../base/units';
import { plainOutput, type Output } from '../timeline/output';
import { isLossless, type FileFormat } from './fileFormat';
import type { Measure } from './measures';
import type { Spec } from './spec';
import { valueFor, type Judged } from './verdicts';

/** What a level fix may do. */
export interface FixOptions {
  /** The limiter is not asked for more than this, dB. */
  mostReductionDb: number;
}
export const defaultFixOptions: FixOptions = { mostReductionDb: 6 };

/**
 * How far under a peak limit a ceiling is set: coding to MP3 or Opus moves peaks, and rounding and dither
 * move them by less. *Common practice*; what the written file measures is looked at afterwards.
 */
export const peakRoomDb = ({ container }: FileFormat) => (isLossless(container) ? 0.1 : 0.6);
/**
 * Levels are brought this far inside a limit, so that a file does not stand on its edge; nearer where there
 * is no other way.
 */
const levelRoomsDb = [0.3, 0.1, 0.02];
const levelRoomDb = levelRoomsDb[0];
/** An offset over this is worth taking out; *common practice*. */
export const dcWorthDbfs = -60;

const levels: readonly Measure[] = [
  'integratedLufs',
  'rmsDbfs',
  'momentaryMaxLufs',
  'shortTermMaxLufs',
  'noiseFloorDbfs',
];
/** The level that a spec is about, and is brought to the middle of its limits. */
const aimed: readonly Measure[] = ['integratedLufs', 'rmsDbfs'];
const peaks: readonly Measure[] = ['truePeakDbtp', 'samplePeakDbfs'];

interface Span {
  low: number;
  high: number;
}

/**
 * The gains that bring all of these measures inside their limits, `room` dB away from the edges where there
 * is so much; low > high when there are none.
 */
function gainsFor(spec: Spec, judged: Judged, which: readonly Measure[], room: number): Span {
  const span = { low: -Infinity, high: Infinity };
  for (const measure of which) {
    const value = valueFor(spec, measure, judged);
    const limit = spec.limits[measure];
    if (!limit || value === undefined || !Number.isFinite(value)) continue;
    const { min, max } = limit;
    const inside = min !== null && max !== null ? Math.min(room, (max - min) / 2) : room;
    if (min !== null) span.low = Math.max(span.low, min + inside - value);
    if (max !== null) span.high = Math.min(span.high, max - inside - value);
  }
  return span;
}

const both = (a: Span, b: Span): Span => ({ low: Math.max(a.low, b.low), high: Math.min(a.high, b.high) });
const isPossible = ({ low, high }: Span) => low <= high + 1e-9;
const nearest = ({ low, high }: Span, to: number) => Math.min(Math.max(to, low), high);

export type LevelPlan =
  | {
      possible: true;
      output: Output;
      /** What the limiter is expected to take off, dB. */ reductionDb: number;
    }
  | { possible: false; why: string };

/**
 * Gain and ceiling that bring a part inside the level limits, from a measurement of the part without any of
 * them, but with `dcOffsets` taken out. A level that is outside goes to the middle of its limits; one that is
 * inside moves no further than peaks and room ask for. Peaks are limited only where no gain does.
 */
export function planLevels(
  spec: Spec,
  judged: Judged,
  { mostReductionDb }: FixOptions = defaultFixOptions,
  dcOffsets: readonly number[] = plainOutput.dcOffsets,
): LevelPlan {
  const spans = levelRoomsDb.map((room) => gainsFor(spec, judged, levels, room));
  const levelSpan = spans.find(isPossible);
  if (!levelSpan) return { possible: false, why: conflict(spec, judged) };
  const wanted = wantedGain(spec, judged);
  const room = peakRoomDb(spec.file);
  const withPeaks = both(levelSpan, gainsFor(spec, judged, peaks, room));
  const rounded = (gainDb: number) => Math.round(gainDb * 100) / 100;
  // A file that has peaks enough for its level needs gain alone; one wanted in the middle takes the middle
  // only when that is possible too.
  if (isPossible(withPeaks) && (spec.unprocessed || nearest(withPeaks, wanted) === wanted)) {
    const gainDb = rounded(nearest(withPeaks, wanted));
    return { possible: true, output: { gainDb, dcOffsets, ceiling: null }, reductionDb: 0 };
  }
  const highest = ceilingOf(spec);
  if (spec.unprocessed || !highest) {
    if (isPossible(withPeaks))
      return {
        possible: true,
        output: { gainDb: rounded(nearest(withPeaks, wanted)), dcOffsets, ceiling: null },
        reductionDb: 0,
      };
    return {
      possible: false,
      why: say`No gain brings level and peaks inside the limits together, and this client wants the voice unprocessed: read the loudest places again, a little further from the microphone.`,
    };
  }
  const ceiling = { kind: highest.kind, dbfs: highest.dbfs - room };
  const peak = highest.kind === 'true' ? judged.truePeakDbtp : judged.samplePeakDbfs;
  const over = (gainDb: number) => Math.max(0, peak + gainDb - ceiling.dbfs);
  const gentlest = isPossible(withPeaks) ? nearest(withPeaks, wanted) : levelSpan.low;
  const target = nearest(levelSpan, wanted);
  const gainDb =
    over(target) <= mostReductionDb ? target : Math.max(gentlest, ceiling.dbfs + mostReductionDb - peak);
  if (gainDb < levelSpan.low - 1e-9 || over(gainDb) > mostReductionDb + 1e-9) {
    const needed = over(levelSpan.low);
    return {
      possible: false,
      why: say`The limiter would have to take ${formatDb(needed)} off the loudest peaks; more than ${formatDb(mostReductionDb)} is heard. Lower the loudest passages by hand in the Booth (gain), or read them again softer; then the rest can be raised.`,
    };
  }
  const reductionDb = over(gainDb);
  return {
    possible: true,
    output: { gainDb: rounded(gainDb), dcOffsets, ceiling: reductionDb > 0 ? ceiling : null },
    reductionDb,
  };
}

/** Whether every level and peak is inside its limits, whatever else is not. */
export const levelsPass = (spec: Spec, judged: Judged): boolean =>
  [...levels, ...peaks].every((measure) => {
    const value = valueFor(spec, measure, judged);
    const limit = spec.limits[measure];
    if (!limit || value === undefined) return true;
    return value >= (limit.min ?? -Infinity) && value <= (limit.max ?? Infinity);
  });

/** What keeps gain and ceiling from making a part pass. */
export interface Shortfalls {
  /** So much softer the room would have to be against the voice, dB; 0 for enough. */
  readonly roomDb: number;
  /** So much nearer the peaks would have to be to the level, dB. */
  readonly peakDb: number;
  /** Levels go up and down too much, whatever the room and the peaks are. */
  readonly other: boolean;
}

/** How far a part is from passing by gain and ceiling alone; as `planLevels` sees it. */
export function shortfalls(
  spec: Spec,
  judged: Judged,
  { mostReductionDb }: FixOptions = defaultFixOptions,
): Shortfalls {
  const room = levelRoomsDb[levelRoomsDb.length - 1];
  const voices = levels.filter((measure) => measure !== 'noiseFloorDbfs');
  const wanted = gainsFor(spec, judged, voices, room);
  const floor = gainsFor(spec, judged, ['noiseFloorDbfs'], room);
  const highest = ceilingOf(spec);
  const peak = highest?.kind === 'true' ? judged.truePeakDbtp : judged.samplePeakDbfs;
  const over = highest ? peak + wanted.low - (highest.dbfs - peakRoomDb(spec.file)) : -Infinity;
  const finite = (db: number) => (Number.isFinite(db) ? Math.max(0, db) : 0);
  return {
    roomDb: finite(wanted.low - floor.high),
    peakDb: finite(over - mostReductionDb),
    other: !isPossible(wanted),
  };
}

/** The gain to begin from: none while the aimed level is inside its limits, else to the middle of them. */
function wantedGain(spec: Spec, judged: Judged): number {
  for (const measure of aimed) {
    const value = valueFor(spec, measure, judged);
    const limit = spec.limits[measure];
    if (!limit || value === undefined || !Number.isFinite(value)) continue;
    const { min, max } = limit;
    if ((min === null || value >= min) && (max === null || value <= max)) return 0;
    const target =
      min === null ? (max ?? 0) - levelRoomDb : max === null ? min + levelRoomDb : (min + max) / 2;
    return target - value;
  }
  return 0;
}

/**
 * The lowest peak limit there is, as a ceiling. A true peak under a limit for samples is under it as well, so
 * the stricter of the two is enough.
 */
function ceilingOf(spec: Spec) {
  const sample = spec.limits.samplePeakDbfs?.max ?? null;
  const truePeak = spec.limits.truePeakDbtp?.max ?? null;
  if (truePeak !== null && (sample === null || truePeak <= sample))
    return { kind: 'true' as const, dbfs: truePeak };
  // What lies between samples comes out at them when a lossy file is decoded, or its rate is converted.
  const between = truePeak !== null || !isLossless(spec.file.container);
  if (sample !== null) return { kind: between ? ('true' as const) : ('sample' as const), dbfs: sample };
  return null;
}

/**
 * The offsets worth taking out of a part, by channel; zeros when there are none. An offset stands in every
 * RMS, so it goes before levels are planned.
 */
export function takenOffsets(spec: Spec, { dcOffsets, dcOffsetDbfs }: Judged): readonly number[] {
  const limit = spec.limits.dcOffsetDbfs?.max ?? null;
  const worth = dcOffsetDbfs > dcWorthDbfs || (limit !== null && dcOffsetDbfs > limit);
  return worth ? dcOffsets : plainOutput.dcOffsets;
}

function conflict(spec: Spec, judged: Judged): string {
  const withoutRoom = gainsFor(
    spec,
    judged,
    levels.filter((measure) => measure !== 'noiseFloorDbfs'),
    0,
  );
  const floor = spec.limits.noiseFloorDbfs?.max ?? null;
  if (isPossible(withoutRoom) && floor !== null) {
    const room = (valueFor(spec, 'noiseFloorDbfs', judged) ?? 0) + Math.max(0, withoutRoom.low);
    return say`The room is too loud against the voice: at the level that is wanted it would be at ${formatDb(room, 'dBFS')}, ${formatDb(room - floor)} over the limit. No gain changes that: come closer to the microphone, or find what hums and read it again.`;
  }
  return say`The level limits cannot be met together by any gain: the voice goes up and down too much. Even it out with gain on passages in the Booth.`;
}
