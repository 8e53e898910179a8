import { seededRandom } from '../base/random';

export type Dither = 'tpdf' | 'none';

/**
 * Rounds samples (full scale ±1) to signed integers of `bits` bits, clamped to their range. With `tpdf`,
 * triangular noise of ±1 LSB is added before rounding, which makes the error independent of the signal
 * (Lipshitz, Wannamaker & Vanderkooy, JAES 40:5, 1992; from memory). The noise comes from `seed`, so that the
 * same audio always gives the same file; any chunking gives the same result.
 */
export class Quantizer {
  private readonly scale: number;
  private random: () => number;

  constructor(
    readonly bits: 16 | 24,
    readonly dither: Dither,
    private readonly seed = 1,
  ) {
    this.scale = 2 ** (bits - 1);
    this.random = seededRandom(seed);
  }

  /** Writes one integer for every sample of `input` into `output`. */
  process(input: Float32Array, output: Int32Array): void {
    const { scale, dither, random } = this;
    for (let i = 0; i < input.length; i++) {
      const noise = dither === 'tpdf' ? random() - random() : 0;
      const value = Math.round(input[i] * scale + noise);
      output[i] = value >= scale ? scale - 1 : value < -scale ? -scale : value;
    }
  }

  reset(): void {
    this.random = seededRandom(this.seed);
  }
}
