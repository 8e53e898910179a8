import { existsSync, mkdirSync } from 'node:fs';
import { seededRandom } from '@/core/base/random';
import { writeWav } from '@/core/testing/signals';

/**
 * Recordings of a sound file of noise are compared with it to the sample: Chromium's fake microphone has gaps
 * of its own, this has none.
 */
export const noiseRateHz = 44_100;

/**
 * Multiples of a power of two: a 32-bit float file, what a browser decodes of it and what is stored are the
 * same numbers.
 */
function noiseValues(frames: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  return Float32Array.from({ length: frames }, () => Math.round((random() * 2 - 1) * 16_000) / 32_768);
}

export interface NoiseFile {
  file: string;
  /** Its channels, as they arrive. */
  channels: Float32Array[];
}

/** A file of noise with so many channels, the same for the same seed. */
export function noiseFile(seconds: number, seed: number, channelCount = 1): NoiseFile {
  mkdirSync('.cache', { recursive: true });
  const file = `.cache/noise-${seconds}-${seed}-${channelCount}.wav`;
  const channels = Array.from({ length: channelCount }, (_, channel) =>
    noiseValues(seconds * noiseRateHz, seed + 1000 * channel),
  );
  if (!existsSync(file)) writeWav(file, noiseRateHz, channels);
  return { file, channels };
}

/** Frames of a window by which a place in the noise is found: no two are alike. */
const windowFrames = 64;

/**
 * Where in the noise a recording begins, and how many of its frames are not the ones that follow there; a
 * recording of something else begins at −1 and differs everywhere.
 */
export function differencesFrom(
  recorded: Float32Array,
  noise: Float32Array,
): { at: number; different: number } {
  const fits = (at: number) => {
    for (let i = 0; i < windowFrames; i++) if (recorded[i] !== noise[at + i]) return false;
    return true;
  };
  let at = 0;
  while (at + windowFrames <= noise.length && !fits(at)) at++;
  if (at + windowFrames > noise.length) return { at: -1, different: recorded.length };
  let different = 0;
  for (let i = 0; i < recorded.length; i++) if (recorded[i] !== noise[at + i]) different++;
  return { at, different };
}
