import FFT from 'fft.js';
import type { CepstraTables } from './kernels';

/** Samples of a window, from one window to the next, and of the transform. */
export const cepstraWindow = 400;
export const cepstraHop = 160;
export const cepstraFft = 512;

/** See `Kernels.cepstra`. */
export function cepstra(samples: Float32Array, tables: CepstraTables, output: Float32Array) {
  const { window, bands, cosines, energyFloor, silence, nothing } = tables;
  const count = nothing.length;
  const fft = new FFT(cepstraFft);
  const input = new Float64Array(cepstraFft);
  const spectrum = new Float64Array(2 * cepstraFft);
  const logs = new Float64Array(bands.length);
  for (let frame = 0; frame < output.length / count; frame++) {
    let loudness = 0;
    for (let i = 0; i < cepstraWindow; i++) {
      const at = frame * cepstraHop + i;
      const value = at < samples.length ? samples[at] * window[i] : 0;
      input[i] = value;
      loudness += value * value;
    }
    // Pauses are under the floor in every band: they need no spectrum.
    if (loudness < silence) {
      output.set(nothing, frame * count);
      continue;
    }
    fft.realTransform(spectrum, input);
    bands.forEach(({ first, weights }, band) => {
      let energy = energyFloor;
      for (let i = 0; i < weights.length; i++) {
        const re = spectrum[2 * (first + i)];
        const im = spectrum[2 * (first + i) + 1];
        energy += weights[i] * (re * re + im * im);
      }
      logs[band] = Math.log(energy);
    });
    for (let k = 0; k < count; k++) {
      let sum = 0;
      for (let band = 0; band < bands.length; band++) sum += cosines[k * bands.length + band] * logs[band];
      output[frame * count + k] = sum;
    }
  }
}

/** Numbers of a frame of cepstra. */
export const cepstraCount = 13;

/**
 * Distances of frame `at` to the frames from `first` on, one for each place of `output` in [from, to).
 * Written out for the 13 coefficients.
 */
export function distances(
  frames: Float32Array,
  at: number,
  first: number,
  output: Float64Array,
  from: number,
  to: number,
): void {
  const a = at * cepstraCount;
  const a0 = frames[a];
  const a1 = frames[a + 1];
  const a2 = frames[a + 2];
  const a3 = frames[a + 3];
  const a4 = frames[a + 4];
  const a5 = frames[a + 5];
  const a6 = frames[a + 6];
  const a7 = frames[a + 7];
  const a8 = frames[a + 8];
  const a9 = frames[a + 9];
  const a10 = frames[a + 10];
  const a11 = frames[a + 11];
  const a12 = frames[a + 12];
  const { sqrt } = Math;
  for (let j = from, b = (first + from) * cepstraCount; j < to; j++, b += cepstraCount) {
    const d0 = frames[b] - a0;
    const d1 = frames[b + 1] - a1;
    const d2 = frames[b + 2] - a2;
    const d3 = frames[b + 3] - a3;
    const d4 = frames[b + 4] - a4;
    const d5 = frames[b + 5] - a5;
    const d6 = frames[b + 6] - a6;
    const d7 = frames[b + 7] - a7;
    const d8 = frames[b + 8] - a8;
    const d9 = frames[b + 9] - a9;
    const d10 = frames[b + 10] - a10;
    const d11 = frames[b + 11] - a11;
    const d12 = frames[b + 12] - a12;
    const near = d0 * d0 + d1 * d1 + d2 * d2 + d3 * d3 + d4 * d4 + d5 * d5;
    const far = d6 * d6 + d7 * d7 + d8 * d8 + d9 * d9 + d10 * d10 + d11 * d11 + d12 * d12;
    output[j] = sqrt(near + far);
  }
}

/** See `Kernels.searchTemplate`. */
export function searchTemplate(
  frames: Float32Array,
  at: number,
  length: number,
  first: number,
  total: Float64Array,
  begins: Int32Array,
) {
  const width = total.length;
  // Three rows of accumulated cost, and where each path began.
  const costs = [0, 1, 2].map(() => new Float64Array(width));
  const starts = [0, 1, 2].map(() => new Int32Array(width));
  const local = [0, 1].map(() => new Float64Array(width));
  for (let i = 0; i < length; i++) {
    const cost = costs[i % 3];
    const before = costs[(i + 2) % 3];
    const earlier = costs[(i + 1) % 3];
    const start = starts[i % 3];
    const startBefore = starts[(i + 2) % 3];
    const startEarlier = starts[(i + 1) % 3];
    const here = local[i % 2];
    const above = local[(i + 1) % 2];
    distances(frames, at + i, first, here, 0, width);
    for (let j = 0; j < width; j++) {
      const d = here[j];
      if (i === 0) {
        cost[j] = d;
        start[j] = j;
        continue;
      }
      let best = j >= 1 ? before[j - 1] + d : Infinity;
      let from = j >= 1 ? startBefore[j - 1] : j;
      if (j >= 2 && before[j - 2] + d < best) {
        best = before[j - 2] + d;
        from = startBefore[j - 2];
      }
      if (i >= 2 && j >= 1) {
        const skipping = earlier[j - 1] + above[j] + d;
        if (skipping < best) {
          best = skipping;
          from = startEarlier[j - 1];
        }
      }
      cost[j] = best;
      start[j] = from;
    }
  }
  total.set(costs[(length - 1) % 3]);
  begins.set(starts[(length - 1) % 3]);
}
