import { median, movingMean } from '../base/statistics';
import { clamp, powerToDb } from '../base/units';
import { CrossCorrelation } from './crossCorrelation';

/**
 * How two recordings of one conversation belong together: what is at second t of the first is at second
 * `offsetSeconds + t × (1 + ppm / 10⁶)` of the second.
 */
export interface Alignment {
  readonly offsetSeconds: number;
  /** How much slower the time of the first goes: the second has so many more seconds in a million. */
  readonly ppm: number;
  /** How many moments it was measured at, and by how much half of them are off, in milliseconds. */
  readonly moments: number;
  readonly spreadMs: number;
  /** How much later each voice is heard in the other's recording than in its own, in milliseconds. */
  readonly bleedMs: number;
}

/** Two mono recordings, each with its own clock. */
export interface TwoRecordings {
  /** Mean squares in steps of `stepSeconds`, from their beginnings on. */
  readonly levels: readonly [Float32Array, Float32Array];
  readonly stepSeconds: number;
  /** Samples of one of them at `rateHz`, from a second on; silence before its beginning and after its end. */
  readonly read: (which: 0 | 1, fromSeconds: number, seconds: number) => Promise<Float32Array>;
  readonly rateHz: number;
  /** Told how far the finding has come, 0 to 1. */
  readonly progress?: (done: number) => void;
}

/** Envelopes of stretches of the first are looked for in all of the second. */
const stretchSeconds = 120;
const stretches = 8;
/** A place in the second is meant when it stands out of all others by so many standard deviations. */
const standsOut = 9;
/** Clocks of recorders differ by less (*common practice*: crystals are within 50 ppm, cheap ones 100). */
const mostPpm = 300;

const momentSeconds = 3;
const mostMoments = 160;
/** By how much a moment may be off what the envelopes say. */
const usualMoments = { seconds: momentSeconds, searchSeconds: 0.16, overlap: 1 };
/** A moment counts when its peak stands out so far. */
const sharp = 9;
/** Who speaks in a moment is told by the levels when they differ by more from what is usual. */
const apartDb = 3;

/**
 * Finds how two recordings belong together by what each microphone hears of the same sounds, their own voices
 * and the bleed of the other's. Null when they have nothing in common.
 *
 * First envelopes: stretches of two minutes of the first are looked for in the second. Then up to 160 moments
 * of 3 s by the phase transform, to a fraction of a sample. A voice is heard later in the other's recording:
 * moments of the one speaker are late by as much as those of the other are early, so that the truth lies in
 * the middle of both, and one slope (Theil 1950, Sen 1968: the median of all slopes) serves both.
 */
export async function findAlignment(two: TwoRecordings): Promise<Alignment | null> {
  const coarse = byEnvelopes(two);
  if (!coarse) return null;
  const moments = await byWaveforms(two, coarse);
  return moments.length < 3 ? null : fitted(moments);
}

/** Moments are no shorter than this, and of a short recording there are about so many. */
const leastMomentSeconds = 0.5;
const fewMoments = 8;

/**
 * How two recordings of one voice belong together where it is known to within `searchSeconds`: the offset
 * that moments of speech show (`usualOf`), with the expected clocks, or with those the moments show where
 * they go far enough apart to tell better. A line that holds its sound for longer or shorter now and then has
 * the offset that it has most of the time. Null where too few moments can be told.
 */
export async function alignNear(
  two: TwoRecordings,
  expected: Pick<Alignment, 'offsetSeconds' | 'ppm'>,
  searchSeconds: number,
): Promise<Alignment | null> {
  const line = { offset: expected.offsetSeconds, slope: expected.ppm / 1e6 };
  const whole = Math.min(...two.levels.map((one) => one.length * two.stepSeconds));
  const seconds = clamp(whole / fewMoments, leastMomentSeconds, momentSeconds);
  const moments = await byWaveforms(two, line, { seconds, searchSeconds, overlap: 2 });
  if (moments.length < 2) return null;
  const slope = slopeNear(moments, line.slope);
  const offsetSeconds = usualOf(moments.map(({ at, offset }) => offset - slope * at));
  const off = moments.map(({ at, offset }) => Math.abs(offset - slope * at - offsetSeconds));
  const spreadMs = 1000 * median(off);
  return { offsetSeconds, ppm: slope * 1e6, moments: moments.length, spreadMs, bleedMs: 0 };
}

/** Moments that show the same offset differ by less. */
const sameSeconds = 0.001;
/** Where so many more moments agree elsewhere than in the middle, the middle is on the way there. */
const clearlyMore = 1.5;

/**
 * The middle of all offsets, in seconds; or, where clearly more of them agree elsewhere, the middle of those.
 * A line that has just been opened, or whose machine is busy, holds its sound for longer at first and comes
 * down by and by: the middle of all may then be one that it never kept.
 */
function usualOf(offsets: readonly number[]): number {
  const middle = median(offsets);
  const near = (offset: number) => offsets.filter((other) => Math.abs(other - offset) <= sameSeconds);
  const most = offsets.map(near).reduce((best, group) => (group.length > best.length ? group : best));
  return most.length > clearlyMore * near(middle).length ? median(most) : middle;
}

/**
 * From so many moments on, so far apart, what they show of the clocks is worth more than what was expected.
 */
const tellingMoments = 12;
const tellingSeconds = 120;
/** A line that moves about shows clocks that differ by more than the ones that were compared can be off. */
const mostOffPpm = 8;

function slopeNear(moments: readonly Moment[], expected: number): number {
  const span = moments[moments.length - 1].at - moments[0].at;
  if (moments.length < tellingMoments || span < tellingSeconds) return expected;
  const shown = medianSlope(moments.map(({ at, offset }) => [at, offset]));
  return Math.abs(shown - expected) * 1e6 <= mostOffPpm ? shown : expected;
}

/** Parts of which clocks are told: fine enough for a hundredth of a millionth, exact in a double. */
const clockParts = 90_000_000;

/** The rates between which the second recording is converted, so that its clock is that of the first. */
export const ratesOfClocks = ({ ppm }: Pick<Alignment, 'ppm'>) => ({
  fromHz: clockParts + Math.round((clockParts * ppm) / 1e6),
  toHz: clockParts,
});

interface Line {
  readonly offset: number;
  readonly slope: number;
}

/** The syllables of a recording: its level in dB against the second around it. */
function syllables(levels: Float32Array, stepSeconds: number): Float32Array {
  const db = levels.map((level) => powerToDb(Math.max(level, 1e-10)));
  const around = movingMean(db, Math.round(0.5 / stepSeconds));
  return db.map((value, i) => clamp(value - around[i], -12, 12));
}

function byEnvelopes({ levels, stepSeconds }: TwoRecordings): Line | null {
  const [first, second] = levels.map((one) => syllables(one, stepSeconds));
  const length = Math.min(first.length, Math.round(stretchSeconds / stepSeconds));
  if (length * stepSeconds < momentSeconds || second.length === 0) return null;
  const correlation = CrossCorrelation.holding(second.length + length);
  const whole = correlation.spectrumOf(second);
  const room = first.length - length;
  const count = room === 0 ? 1 : Math.min(stretches, 1 + Math.ceil(room / length));
  const found: { at: number; offset: number }[] = [];
  for (let k = 0; k < count; k++) {
    const from = count === 1 ? 0 : Math.round((room * k) / (count - 1));
    const lags = correlation.lags(whole, correlation.spectrumOf(first.subarray(from, from + length)));
    const { lag, height } = highest(lags, correlation.size, -length, second.length);
    if (height >= standsOut)
      found.push({ at: (from + length / 2) * stepSeconds, offset: (lag - from) * stepSeconds });
  }
  return agreeing(found);
}

/** The highest of the lags in a range, and by how many standard deviations it stands out. */
function highest(lags: Float64Array, size: number, from: number, to: number) {
  let lag = from;
  let sum = 0;
  let squares = 0;
  const valueAt = (at: number) => lags[(at + size) % size];
  for (let at = from; at < to; at++) {
    const value = valueAt(at);
    sum += value;
    squares += value * value;
    if (value > valueAt(lag)) lag = at;
  }
  const mean = sum / (to - from);
  const deviation = Math.sqrt(Math.max(squares / (to - from) - mean * mean, 1e-30));
  // Between samples the peak of a parabola through three of them.
  const [left, middle, right] = [valueAt(lag - 1), valueAt(lag), valueAt(lag + 1)];
  const bend = left - 2 * middle + right;
  const fraction = bend < 0 ? clamp((left - right) / (2 * bend), -0.5, 0.5) : 0;
  return { lag: lag + fraction, height: (middle - mean) / deviation };
}

/** The line on which most of the stretches agree; null where none agrees with another, of several. */
function agreeing(found: readonly { at: number; offset: number }[]): Line | null {
  if (found.length === 0) return null;
  const near = (a: (typeof found)[number], b: (typeof found)[number]) =>
    Math.abs(a.offset - b.offset) <= 0.1 + (mostPpm / 1e6) * Math.abs(a.at - b.at);
  const groups = found.map((one) => found.filter((other) => near(one, other)));
  const best = groups.reduce((most, group) => (group.length > most.length ? group : most));
  if (best.length < 2 && found.length > 1) return null;
  const slope =
    best.length < 3 ? 0 : clamp(medianSlope(best.map(({ at, offset }) => [at, offset])), -3e-4, 3e-4);
  return { slope, offset: median(best.map(({ at, offset }) => offset - slope * at)) };
}

interface Moment {
  readonly at: number;
  readonly offset: number;
  /** Whose voice it is: +1 of the first recording, −1 of the second, 0 nobody's alone. */
  readonly voice: -1 | 0 | 1;
}

async function byWaveforms(
  { levels, stepSeconds, read, rateHz, progress }: TwoRecordings,
  line: Line,
  { seconds: momentLength, searchSeconds, overlap } = usualMoments,
): Promise<Moment[]> {
  const seconds = levels.map((one) => one.length * stepSeconds);
  const from = Math.max(0, -line.offset);
  const to = Math.min(seconds[0], seconds[1] - line.offset) - momentLength;
  const step = Math.max(momentLength / overlap, (to - from) / mostMoments);
  const window = Math.round(momentLength * rateHz);
  const search = Math.round(searchSeconds * rateHz);
  const correlation = CrossCorrelation.holding(2 * window + 2 * search);
  const found: (Omit<Moment, 'voice'> & { ratioDb: number })[] = [];
  for (let at = from; at <= to; at += step) {
    progress?.((at - from) / Math.max(1, to - from));
    const expected = line.offset + line.slope * at;
    const own = await read(0, at, momentLength);
    const other = await read(1, at + expected - searchSeconds, momentLength + 2 * searchSeconds);
    const lags = correlation.lags(correlation.spectrumOf(other), correlation.spectrumOf(own), true);
    const { lag, height } = highest(lags, correlation.size, 0, 2 * search);
    if (height < sharp) continue;
    const ratioDb =
      powerToDb(meanSquare(own)) - powerToDb(meanSquare(other.subarray(search, search + window)));
    found.push({ at: at + momentLength / 2, offset: expected + (lag - search) / rateHz, ratioDb });
  }
  const usual = middleOf(found.map(({ ratioDb }) => ratioDb));
  return found.map(({ at, offset, ratioDb }) => ({
    at,
    offset,
    voice: ratioDb > usual + apartDb ? 1 : ratioDb < usual - apartDb ? -1 : 0,
  }));
}

function meanSquare(samples: Float32Array): number {
  let sum = 0;
  for (const value of samples) sum += value * value;
  return sum / Math.max(1, samples.length);
}

/** The middle between the loud and the soft end: of two speakers one may speak much more. */
function middleOf(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const at = (share: number) => sorted[Math.floor(share * (sorted.length - 1))] ?? 0;
  return (at(0.1) + at(0.9)) / 2;
}

function fitted(moments: readonly Moment[]): Alignment {
  const of = (voice: Moment['voice']) => moments.filter((moment) => moment.voice === voice);
  const voices = [of(1), of(-1)].filter((group) => group.length >= 3);
  const groups = voices.length === 2 ? voices : [moments];
  const slope = medianOfSlopes(groups);
  const level = (group: readonly Moment[]) => median(group.map(({ at, offset }) => offset - slope * at));
  const levels = groups.map(level);
  const offsetSeconds = levels.reduce((sum, value) => sum + value, 0) / levels.length;
  const off = groups.flatMap((group, i) =>
    group.map(({ at, offset }) => Math.abs(offset - slope * at - levels[i])),
  );
  return {
    offsetSeconds,
    ppm: slope * 1e6,
    moments: off.length,
    spreadMs: 1000 * median(off),
    bleedMs: levels.length === 2 ? (1000 * (levels[0] - levels[1])) / 2 : 0,
  };
}

const medianOfSlopes = (groups: readonly (readonly Moment[])[]) =>
  medianOfSome(groups.flatMap((group) => slopesOf(group.map(({ at, offset }) => [at, offset]))));

const medianSlope = (points: readonly (readonly [number, number])[]) => medianOfSome(slopesOf(points));

/** Of too few moments to tell a slope there is none. */
const medianOfSome = (slopes: readonly number[]) => (slopes.length === 0 ? 0 : median(slopes));

/** Slopes between points that are far enough apart to say something. */
function slopesOf(points: readonly (readonly [number, number])[]): number[] {
  const ends = points.map(([at]) => at);
  const least = (Math.max(...ends) - Math.min(...ends)) / 4;
  return points.flatMap(([x, y], i) =>
    points.slice(i + 1).flatMap(([x2, y2]) => (Math.abs(x2 - x) > least ? [(y2 - y) / (x2 - x)] : [])),
  );
}
