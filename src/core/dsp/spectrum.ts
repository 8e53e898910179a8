import FFT from 'fft.js';

/**
 * Power spectra of real audio through a Hann window; `size` is a power of two. Holds its buffers, so that use
 * costs no memory.
 */
export class PowerSpectrum {
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly input: Float64Array;
  private readonly output: Float64Array;
  /** Bins 0 … size / 2; bin k is k × rate / size hertz. */
  readonly powers: Float64Array;

  constructor(readonly size: number) {
    this.fft = new FFT(size);
    this.window = Float64Array.from(
      { length: size },
      (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size),
    );
    this.input = new Float64Array(size);
    this.output = new Float64Array(2 * size);
    this.powers = new Float64Array(size / 2 + 1);
  }

  /**
   * The mean square each bin holds, for `size` frames from `from` on; frames outside the audio count as zero.
   * The window's loss is made good, so that the bins of white noise add up to its mean square.
   */
  of(samples: Float32Array, from: number): Float64Array {
    const { size, window, input, output, powers } = this;
    for (let i = 0; i < size; i++) input[i] = (samples[from + i] ?? 0) * window[i];
    this.fft.realTransform(output, input);
    // The mean of a squared Hann window is 3/8; bins between the ends stand for two.
    const scale = 1 / (0.375 * size * size);
    for (let bin = 0; bin <= size / 2; bin++) {
      const power = (output[2 * bin] ** 2 + output[2 * bin + 1] ** 2) * scale;
      powers[bin] = bin === 0 || bin === size / 2 ? power : 2 * power;
    }
    return powers;
  }
}
