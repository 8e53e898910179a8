import FFT from 'fft.js';

/**
 * Spectra of real frames, two at a time: one is the real part and the other the imaginary part of one
 * transform, which costs half as much. `size` is a power of two. Holds its buffers.
 */
export class FramePairs {
  private readonly fft: FFT;
  private readonly input: number[];
  private readonly spectrum: number[];

  constructor(readonly size: number) {
    this.fft = new FFT(size);
    this.input = this.fft.createComplexArray();
    this.spectrum = this.fft.createComplexArray();
  }

  /** Transforms a pair; `windowed(i)` of each is its sample i. */
  forward(first: Float64Array, second: Float64Array): void {
    for (let i = 0; i < this.size; i++) {
      this.input[2 * i] = first[i];
      this.input[2 * i + 1] = second[i];
    }
    this.fft.transform(this.spectrum, this.input);
  }

  /** Power of every bin, 0 … size / 2, of both. */
  powers(first: Float64Array, second: Float64Array): void {
    const { size, spectrum } = this;
    for (let bin = 0; bin <= size / 2; bin++) {
      const other = (size - bin) % size;
      const [re, im] = [spectrum[2 * bin], spectrum[2 * bin + 1]];
      const [mirroredRe, mirroredIm] = [spectrum[2 * other], spectrum[2 * other + 1]];
      first[bin] = ((re + mirroredRe) ** 2 + (im - mirroredIm) ** 2) / 4;
      second[bin] = ((re - mirroredRe) ** 2 + (im + mirroredIm) ** 2) / 4;
    }
  }

  /**
   * Multiplies the spectra by real gains, bin by bin, and gives the frames back in place of `first` and
   * `second`.
   */
  inverse(gains: readonly [Float64Array, Float64Array], first: Float64Array, second: Float64Array): void {
    const { size, spectrum, input } = this;
    const [a, b] = gains;
    for (let bin = 0; bin <= size / 2; bin++) {
      const other = (size - bin) % size;
      const half = (a[bin] + b[bin]) / 2;
      const rest = (a[bin] - b[bin]) / 2;
      const [re, im] = [spectrum[2 * bin], spectrum[2 * bin + 1]];
      const [mirroredRe, mirroredIm] = [spectrum[2 * other], spectrum[2 * other + 1]];
      // A(k) = (Z(k) + Z*(−k)) / 2 and B(k) = (Z(k) − Z*(−k)) / 2i, put together again with their gains.
      spectrum[2 * bin] = half * re + rest * mirroredRe;
      spectrum[2 * bin + 1] = half * im - rest * mirroredIm;
      spectrum[2 * other] = half * mirroredRe + rest * re;
      spectrum[2 * other + 1] = half * mirroredIm - rest * im;
    }
    this.fft.inverseTransform(input, spectrum);
    for (let i = 0; i < size; i++) {
      first[i] = input[2 * i];
      second[i] = input[2 * i + 1];
    }
  }
}
