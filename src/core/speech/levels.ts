import { powerToDb } from '../base/units';

/** Levels of hops of `hop` samples in dBFS RMS, −120 at the least. */
export function hopLevels(samples: Float32Array, hop: number): Float32Array {
  const levels = new Float32Array(Math.floor(samples.length / hop));
  for (let i = 0; i < levels.length; i++) {
    let sum = 0;
    for (let k = i * hop; k < (i + 1) * hop; k++) sum += samples[k] * samples[k];
    levels[i] = powerToDb(Math.max(sum / hop, 1e-12));
  }
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
