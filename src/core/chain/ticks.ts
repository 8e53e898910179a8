import { amplitudeToDb } from '../base/units';
import { kernels } from '../dsp/kernels';
import { levelsOf } from '../speech/levels';
import { tickTrack, type Grid, type Track } from './cells';

/** Levels in dB, RMS over [tick − before, tick + after], a row for each input. */
export const rmsLevelsOf = (inputs: readonly Track[], before: number, after: number, grid: Grid): Track =>
  seenAround(powersOf(inputs, grid), before, after, grid, (powers) =>
    levelsOf(windowMeans(powers, before, after)),
  );

/** Levels in dB of the peaks over [tick − before, tick + after], over all channels. */
export const peakLevelsOf = (input: Track, before: number, after: number, grid: Grid): Track =>
  seenAround(peaksOf(input, grid), before, after, grid, (peaks) =>
    windowMaxima(peaks, before, after).map((peak) => amplitudeToDb(Math.max(peak, 1e-6))),
  );

/** What is made of each cell of rows of ticks with so many ticks around it, once, whoever looks at it. */
function seenAround(
  seen: Track,
  before: number,
  after: number,
  grid: Grid,
  make: (row: Float32Array) => Float32Array,
): Track {
  const reach = seen.reach + Math.max(before, after) * grid.tickFrames;
  return tickTrack(seen.channels, reach, grid, async (fromTick) => {
    const rows = await seen.read(fromTick - before, before + grid.cellTicks + after);
    return rows.map(make);
  });
}

/** Mean square of each tick, a row for each input; of a pair's channels the louder one. */
export function powersOf(inputs: readonly Track[], grid: Grid): Track {
  const { tickFrames, cellTicks, cellFrames } = grid;
  const reach = Math.max(...inputs.map((input) => input.reach));
  return tickTrack(inputs.length, reach, grid, (fromTick) =>
    Promise.all(
      inputs.map(async (input) => {
        const powers = new Float32Array(cellTicks);
        for (const samples of await input.read(fromTick * tickFrames, cellFrames)) {
          const sums = new Float64Array(cellTicks);
          kernels().hopSquares(samples, tickFrames, sums);
          for (let tick = 0; tick < cellTicks; tick++)
            powers[tick] = Math.max(powers[tick], sums[tick] / tickFrames);
        }
        return powers;
      }),
    ),
  );
}

/** The largest magnitude of each tick, over all channels. */
function peaksOf(input: Track, grid: Grid): Track {
  const { tickFrames, cellTicks, cellFrames } = grid;
  return tickTrack(1, input.reach, grid, async (fromTick) => {
    const peaks = new Float32Array(cellTicks);
    for (const samples of await input.read(fromTick * tickFrames, cellFrames)) {
      for (let tick = 0, i = 0; tick < cellTicks; tick++) {
        let peak = peaks[tick];
        for (const end = i + tickFrames; i < end; i++) {
          const magnitude = samples[i] < 0 ? -samples[i] : samples[i];
          if (magnitude > peak) peak = magnitude;
        }
        peaks[tick] = peak;
      }
    }
    return [peaks];
  });
}

/** Means over [i − before, i + after], for every i that has all of it: shorter by so much. */
export function windowMeans(values: Float32Array, before: number, after: number): Float32Array {
  const width = before + after + 1;
  const means = new Float32Array(values.length - width + 1);
  let sum = 0;
  for (let i = 0; i < values.length; i++) {
    sum += values[i];
    if (i >= width) sum -= values[i - width];
    if (i >= width - 1) means[i - width + 1] = Math.max(0, sum) / width;
  }
  return means;
}

/** Maxima over [i − before, i + after], for every i that has all of it: shorter by so much. */
export function windowMaxima(values: Float32Array, before: number, after: number): Float32Array {
  const width = before + after + 1;
  const maxima = new Float32Array(values.length - width + 1);
  // Candidates in rising order of place and falling order of value; the first is the maximum.
  const queue = new Int32Array(values.length);
  let head = 0;
  let tail = 0;
  for (let i = 0; i < values.length; i++) {
    while (tail > head && values[queue[tail - 1]] <= values[i]) tail--;
    queue[tail++] = i;
    if (queue[head] <= i - width) head++;
    if (i >= width - 1) maxima[i - width + 1] = values[queue[head]];
  }
  return maxima;
}

/**
 * Lets values rise towards each of their heights by so much a tick beforehand, and fall by so much
 * afterwards, in place: no value gets lower, and what is higher lasts as long as its slopes.
 */
export function withSlopes(values: Float32Array, rise: number, fall: number): void {
  for (let i = values.length - 2; i >= 0; i--) values[i] = Math.max(values[i], values[i + 1] - rise);
  for (let i = 1; i < values.length; i++) values[i] = Math.max(values[i], values[i - 1] - fall);
}
