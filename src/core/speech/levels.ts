import { powerToDb } from '../base/units';

/** Mean squares of hops of `hop` samples; what is left over at the end does not count. */
export function hopPowers(samples: Float32Array, hop: number): Float64Array {
  const powers = new Float64Array(Math.floor(samples.length / hop));
  for (let i = 0; i < powers.length; i++) {
    let sum = 0;
    for (let k = i * hop; k < (i + 1) * hop; k++) sum += samples[k] * samples[k];
    powers[i] = sum / hop;
  }
  return powers;
}

/** Levels of hops of `hop` samples in dBFS RMS, −120 at the least. */
export const hopLevels = (samples: Float32Array, hop: number): Float32Array =>
  Float32Array.from(hopPowers(samples, hop), (power) => powerToDb(Math.max(power, 1e-12)));

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
