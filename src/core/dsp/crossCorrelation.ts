import FFT from 'fft.js';

/** Correlation of two sounds at all lags at once, by way of their spectra. */
export class CrossCorrelation {
  private readonly fft: FFT;

  /** `size`, a power of two, is at least what is correlated and its window together: beyond it lags wrap. */
  constructor(readonly size: number) {
    this.fft = new FFT(size);
  }

  /** One that holds `frames` samples. */
  static holding(frames: number): CrossCorrelation {
    let size = 2;
    while (size < frames) size *= 2;
    return new CrossCorrelation(size);
  }

  /** The spectrum of samples, zeros after them. */
  spectrumOf(samples: ArrayLike<number>): Float64Array {
    const padded = new Float64Array(this.size);
    padded.set(samples);
    const spectrum = new Float64Array(2 * this.size);
    this.fft.realTransform(spectrum, padded);
    this.fft.completeSpectrum(spectrum);
    return spectrum;
  }

  /**
   * At `lag` the sum of `a[n + lag] × b[n]`, a negative lag at the end of the array. `whitened` lets every
   * frequency count alike (the phase transform, Knapp and Carter 1976): a sharp peak, whatever the sound.
   */
  lags(a: Float64Array, b: Float64Array, whitened = false): Float64Array {
    const product = new Float64Array(2 * this.size);
    for (let i = 0; i < 2 * this.size; i += 2) {
      const real = a[i] * b[i] + a[i + 1] * b[i + 1];
      const imaginary = a[i + 1] * b[i] - a[i] * b[i + 1];
      const weight = whitened ? 1 / (Math.sqrt(real * real + imaginary * imaginary) + 1e-12) : 1;
      product[i] = weight * real;
      product[i + 1] = weight * imaginary;
    }
    const lagged = new Float64Array(2 * this.size);
    this.fft.inverseTransform(lagged, product);
    const products = new Float64Array(this.size);
    for (let lag = 0; lag < this.size; lag++) products[lag] = lagged[2 * lag];
    return products;
  }
}
