import type { Oversampling } from './kernels';

/** Weights for each value between samples. */
export const overTaps = 32;
/** Starting points are taken in groups of half as many; what a group reaches is three groups of samples. */
export const overGroup = overTaps / 2;
/**
 * What rounding in 32 bits can add to a bound, as a share of the samples it is made of; far more than it
 * does.
 */
const roundingRoom = 1e-5;

/**
 * How far the filter can lead over the two samples it stands between, for each unit of the largest second
 * difference x[k − 1] − 2x[k] + x[k + 1] among its samples. A filter whose weights add up to one is a
 * straight line between two samples plus a sum of second differences (summation by parts, twice; the line
 * meets it where its first moment says): the sum of the magnitudes of their weights.
 */
export function bendOf(factor: number, table: Float64Array): number {
  let most = 0;
  for (let phase = 1; phase < factor; phase++) {
    const weights = table.subarray(phase * overTaps, (phase + 1) * overTaps);
    const moment = weights.reduce((sum, weight, tap) => sum + weight * tap, 0);
    const left = Math.floor(moment);
    let first = 0;
    let second = 0;
    let sum = 0;
    weights.forEach((weight, tap) => {
      const line = tap === left ? 1 - (moment - left) : tap === left + 1 ? moment - left : 0;
      first += weight - line;
      second += first;
      sum += Math.abs(second);
    });
    most = Math.max(most, sum);
  }
  return most;
}

/** The largest magnitudes, and the largest second differences, of groups of samples. */
export interface GroupBounds {
  readonly largest: Float64Array;
  readonly bends: Float64Array;
}

export function groupBounds(samples: Float32Array): GroupBounds {
  const groups = Math.floor(samples.length / overGroup);
  const largest = new Float64Array(groups);
  const bends = new Float64Array(groups);
  for (let group = 0; group < groups; group++) {
    let most = 0;
    let bent = 0;
    for (let i = group * overGroup; i < (group + 1) * overGroup; i++) {
      const here = samples[i];
      const magnitude = here < 0 ? -here : here;
      // What is no number is passed over: whatever is made with it is none either, and leads over nothing.
      if (magnitude > most) most = magnitude;
      // Behind the last sample nothing is asked.
      const next = i + 2 < samples.length ? here - 2 * samples[i + 1] + samples[i + 2] : 0;
      const change = next < 0 ? -next : next;
      if (change > bent) bent = change;
    }
    largest[group] = most;
    bends[group] = bent;
  }
  return { largest, bends };
}

/** No value at or between the samples that the starting points of a group stand for can be over `limit`. */
export function staysUnder(
  { largest, bends }: GroupBounds,
  group: number,
  bend: number,
  limit: number,
): boolean {
  const near = Math.max(largest[group], largest[group + 1]);
  const all = Math.max(near, largest[group + 2]);
  const most = Math.max(bends[group], bends[group + 1], bends[group + 2]);
  return near + bend * most + roundingRoom * all <= limit;
}

/** See `Kernels.truePeak`. */
export function truePeak(
  samples: Float32Array,
  highest: number,
  { factor, table, bend }: Oversampling,
): number {
  const bounds = groupBounds(samples);
  for (let group = 0; group + 2 < bounds.largest.length; group++) {
    if (!staysUnder(bounds, group, bend, highest))
      highest = oversampled(samples, group * overGroup, highest, factor, table);
  }
  return highest;
}

function oversampled(
  samples: Float32Array,
  first: number,
  highest: number,
  factor: number,
  table: Float64Array,
): number {
  for (let from = first; from < first + overGroup; from++) {
    const here = samples[from + overTaps / 2 - 1];
    if (here > highest) highest = here;
    else if (-here > highest) highest = -here;
    for (let row = overTaps; row < factor * overTaps; row += overTaps) {
      let sum = 0;
      for (let tap = 0; tap < overTaps; tap++) sum += table[row + tap] * samples[from + tap];
      if (sum > highest) highest = sum;
      else if (-sum > highest) highest = -sum;
    }
  }
  return highest;
}
