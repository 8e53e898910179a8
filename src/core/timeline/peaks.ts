import { kernels } from '../dsp/kernels';

/** One peak covers this many frames: minimum, maximum and mean square, in this order. */
export const peakFrames = 256;
export const peakFields = 3;

/** Peaks of one channel; a last stretch that is not full counts with the frames it has. */
export function computePeaks(samples: Float32Array): Float32Array<ArrayBuffer> {
  const whole = Math.floor(samples.length / peakFrames);
  const peaks = new Float32Array(Math.ceil(samples.length / peakFrames) * peakFields);
  if (whole > 0) kernels().peaks(samples, peaks.subarray(0, whole * peakFields));
  const rest = samples.subarray(whole * peakFrames);
  if (rest.length > 0) {
    let squares = 0;
    for (const value of rest) squares += value * value;
    // What is no number is not compared.
    const numbers = rest.filter((value) => value === value);
    peaks.set([Math.min(...numbers), Math.max(...numbers), squares / rest.length], whole * peakFields);
  }
  return peaks;
}
