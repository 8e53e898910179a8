import { powerToDb } from '../base/units';
import { kernels } from '../dsp/kernels';

/** Mean squares of hops of `hop` samples; what is left over at the end does not count. */
export function hopPowers(samples: Float32Array, hop: number): Float64Array {
  const powers = new Float64Array(Math.floor(samples.length / hop));
  kernels().hopSquares(samples, hop, powers);
  for (let i = 0; i < powers.length; i++) powers[i] /= hop;
  return powers;
}

/** Levels of hops of `hop` samples in dBFS RMS, −120 at the least. */
export const hopLevels = (samples: Float32Array, hop: number): Float32Array =>
  levelsOf(hopPowers(samples, hop));

/** Levels of powers in dBFS RMS, −120 at the least. */
export function levelsOf(powers: ArrayLike<number>): Float32Array {
  const levels = new Float32Array(powers.length);
  for (let i = 0; i < powers.length; i++) levels[i] = powerToDb(Math.max(powers[i], 1e-12));
  return levels;
}

/** A percentile, 0 to 1, by nearest rank; −120 of nothing. */
export function percentile(values: Float32Array, share: number): number {
  if (values.length === 0) return -120;
  const sorted = values.slice().sort();
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))];
}

/** The level of several hops together, in dBFS. */
export function meanLevel(levels: Float32Array): number {
  if (levels.length === 0) return -120;
  let sum = 0;
  for (const level of levels) sum += 10 ** (level / 10);
  return powerToDb(Math.max(sum / levels.length, 1e-12));
}
