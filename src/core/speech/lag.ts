import { movingMean, runningSums } from '../base/statistics';
import { clamp, powerToDb } from '../base/units';

/** How far a voice is behind a guide around a moment, in seconds. */
export interface Lag {
  /** The middle of the stretch it was measured on. */
  readonly at: number;
  readonly seconds: number;
}

export interface LagSummary {
  readonly usual: number;
  readonly longest: number;
}

const binSeconds = 0.05;
/** Speech and pauses of a second or so are compared, not syllables: another language has others. */
const smoothSeconds = 0.6;
const windowSeconds = 30;
const hopSeconds = 5;
/** Lags looked at. An interpreter is 2 to 4 seconds behind (*common practice*). */
const range = { from: -0.5, to: 10 };
/** A window tells something when each of them speaks for so much of it. */
const leastSpeech = 0.15;
/** A lag changes little by little: what a jump of a second costs, in correlation. */
const jumpCost = 0.2;
/** Correlation from which on, over five windows, two rhythms are taken for the same. */
const alike = 0.46;

/**
 * How far a voice is behind a guide, every five seconds of the common time: the lag at which the envelopes of
 * their speech activity correlate (Pearson, over 30 s), as the path along all windows that fits best and
 * jumps least. Levels are mean squares in steps of `stepSeconds`, from the same moment on. Moments at which
 * one of them hardly speaks, or their rhythms have nothing in common, have none. Resolution 50 ms.
 */
export function lagAlong(voice: Float32Array, guide: Float32Array, stepSeconds: number): Lag[] {
  const perBin = Math.max(1, Math.round(binSeconds / stepSeconds));
  const seconds = perBin * stepSeconds;
  const bins = (length: number) => Math.round(length / seconds);
  const spoken = [voice, guide].map((levels) => activity(levels, perBin));
  const [own, heard] = spoken.map((active) => smoothed(active, bins(smoothSeconds)));
  const [ownShare, heardShare] = spoken.map(runningSums);
  const size = bins(windowSeconds);
  const [first, last] = [bins(range.from), bins(range.to)];
  const share = (total: Float64Array, from: number) => (total[from + size] - total[from]) / size;
  const windows: Window[] = [];
  const count = Math.min(own.length, heard.length);
  for (let from = 0; from + size <= count; from += bins(hopSeconds)) {
    if (share(ownShare, from) < leastSpeech || share(heardShare, from) < leastSpeech) continue;
    const fits = new Float64Array(last - first + 1).fill(-1);
    for (let lag = first; lag <= last; lag++) {
      if (from - lag + size <= count) fits[lag - first] = correlation(own, from, heard, from - lag, size);
    }
    windows.push({ at: (from + size / 2) * seconds, fits });
  }
  const path = smoothestPath(windows, jumpCost * seconds);
  const fitting = windows.map(({ fits }, i) => fits[path[i]]);
  return windows.flatMap(({ at }, i): Lag[] => {
    const around = fitting.slice(Math.max(0, i - 2), i + 3);
    const fit = around.reduce((sum, value) => sum + value, 0) / around.length;
    return fit >= alike ? [{ at, seconds: (path[i] + first) * seconds }] : [];
  });
}

interface Window {
  readonly at: number;
  /** Correlation at each lag. */
  readonly fits: Float64Array;
}

/** The place of the lag in each window: the best sum of fits, less `cost` for each step between them. */
function smoothestPath(windows: readonly Window[], cost: number): number[] {
  if (windows.length === 0) return [];
  const came: Int32Array[] = [];
  let sum = windows[0].fits;
  for (const { fits } of windows.slice(1)) {
    const best = new Float64Array(fits.length);
    const from = new Int32Array(fits.length);
    for (let to = 0; to < fits.length; to++) {
      best[to] = -Infinity;
      for (let i = 0; i < sum.length; i++) {
        const value = sum[i] - cost * Math.abs(to - i);
        if (value > best[to]) {
          best[to] = value;
          from[to] = i;
        }
      }
      best[to] += fits[to];
    }
    came.push(from);
    sum = best;
  }
  const path = [sum.indexOf(Math.max(...sum))];
  for (const from of came.reverse()) path.unshift(from[path[0]]);
  return path;
}

/** The usual lag is the median; null where there is none. */
export function summaryOf(lags: readonly Lag[]): LagSummary | null {
  if (lags.length === 0) return null;
  const sorted = lags.map(({ seconds }) => seconds).sort((a, b) => a - b);
  return { usual: sorted[Math.floor(sorted.length / 2)], longest: sorted[sorted.length - 1] };
}

const floorPercentile = 0.15;
const speechPercentile = 0.85;
/** What is this far over the floor is speech, as a share of the way to the level of speech. */
const threshold = 0.5;

/** 1 where somebody speaks, 0 in pauses, by level alone; 0 throughout where there is no difference. */
function activity(levels: Float32Array, perBin: number): Float32Array {
  const bins = new Float32Array(Math.floor(levels.length / perBin));
  for (let i = 0; i < bins.length; i++) {
    let sum = 0;
    for (let k = 0; k < perBin; k++) sum += levels[i * perBin + k];
    bins[i] = powerToDb(sum / perBin);
  }
  const sorted = bins.filter((db) => db > -120).sort();
  const at = (percentile: number) => sorted[Math.floor(percentile * (sorted.length - 1))] ?? -120;
  // What was not recorded yet is a pause as well; where it is most of the time, so is the floor.
  const [floor, speech] = [at(floorPercentile), at(speechPercentile)];
  const from = speech - floor < 6 ? speech - 12 : floor + threshold * (speech - floor);
  return bins.map((db) => clamp((db - from) / 3, 0, 1));
}

/** The mean over `size` bins around each, twice: no edge of a phrase weighs more than the phrase. */
function smoothed(values: Float32Array, size: number): Float32Array {
  const reach = Math.floor(size / 2);
  return movingMean(movingMean(values, reach), reach);
}

/**
 * Pearson's coefficient of two stretches of `size` values, 0 before the second begins; 0 where one of them
 * does not change.
 */
function correlation(a: Float32Array, fromA: number, b: Float32Array, fromB: number, size: number): number {
  let sumA = 0;
  let sumB = 0;
  let squareA = 0;
  let squareB = 0;
  let product = 0;
  for (let i = 0; i < size; i++) {
    const x = a[fromA + i];
    const y = fromB + i < 0 ? 0 : b[fromB + i];
    sumA += x;
    sumB += y;
    squareA += x * x;
    squareB += y * y;
    product += x * y;
  }
  const spreadA = size * squareA - sumA * sumA;
  const spreadB = size * squareB - sumB * sumB;
  return spreadA <= 0 || spreadB <= 0 ? 0 : (size * product - sumA * sumB) / Math.sqrt(spreadA * spreadB);
}
