import FFT from 'fft.js';

/**
 * Spectra of real frames, two at a time: one is the real part and the other the imaginary part of one
 * transform, which costs half as much. `size` is a power of two. Holds its buffers.
 */
export class FramePairs {
  private readonly fft: FFT;
  private readonly frames: number[];
  private readonly spectrum: number[];

  /** `window` has `size` weights: frames are cut out with it, and put back with it. */
  constructor(
    readonly size: number,
    private readonly window: Float64Array,
  ) {
    this.fft = new FFT(size);
    this.frames = this.fft.createComplexArray();
    this.spectrum = this.fft.createComplexArray();
  }

  /** Cuts out and transforms the frames at `at` of one recording and at `otherAt` of another, or the same. */
  forward(samples: Float32Array, at: number, other: Float32Array, otherAt: number): void {
    const { size, window, frames } = this;
    for (let i = 0; i < size; i++) {
      const weight = window[i];
      frames[2 * i] = samples[at + i] * weight;
      frames[2 * i + 1] = other[otherAt + i] * weight;
    }
    this.fft.transform(this.spectrum, frames);
  }

  /** Power of every bin, 0 … size / 2, of both. */
  powers(first: Float64Array, second: Float64Array): void {
    const { size, spectrum } = this;
    const half = size / 2;
    for (let bin = 0; bin <= half; bin++) {
      const at = 2 * bin;
      const mirrored = bin === 0 ? 0 : 2 * (size - bin);
      const sumRe = spectrum[at] + spectrum[mirrored];
      const lessIm = spectrum[at + 1] - spectrum[mirrored + 1];
      const lessRe = spectrum[at] - spectrum[mirrored];
      const sumIm = spectrum[at + 1] + spectrum[mirrored + 1];
      first[bin] = (sumRe * sumRe + lessIm * lessIm) / 4;
      second[bin] = (lessRe * lessRe + sumIm * sumIm) / 4;
    }
  }

  /** Multiplies the spectra by real gains, bin by bin, and turns them back into frames. */
  inverse(first: Float64Array, second: Float64Array): void {
    const { size, spectrum } = this;
    const middle = size / 2;
    for (let bin = 0; bin <= middle; bin++) {
      const at = 2 * bin;
      const mirrored = bin === 0 ? 0 : 2 * (size - bin);
      const half = (first[bin] + second[bin]) / 2;
      const rest = (first[bin] - second[bin]) / 2;
      const re = spectrum[at];
      const im = spectrum[at + 1];
      const otherRe = spectrum[mirrored];
      const otherIm = spectrum[mirrored + 1];
      // A(k) = (Z(k) + Z*(−k)) / 2 and B(k) = (Z(k) − Z*(−k)) / 2i, put together again with their gains.
      spectrum[at] = half * re + rest * otherRe;
      spectrum[at + 1] = half * im - rest * otherIm;
      spectrum[mirrored] = half * otherRe + rest * re;
      spectrum[mirrored + 1] = half * otherIm - rest * im;
    }
    this.fft.inverseTransform(this.frames, spectrum);
  }

  /** Adds the first of the frames, or the second, to a recording. */
  addTo(samples: Float32Array, at: number, which: 0 | 1): void {
    const { size, window, frames } = this;
    for (let i = 0; i < size; i++) samples[at + i] += frames[2 * i + which] * window[i];
  }
}
