/** Coefficients of a second-order section, normalised to a0 = 1. */
export interface BiquadCoefficients {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

/**
 * Butterworth low-pass, −3 dB at `hertz` (Audio EQ Cookbook, R. Bristow-Johnson, Q = 1/√2). At most 0.49 of
 * the rate.
 */
export function lowPass(hertz: number, rateHz: number): BiquadCoefficients {
  const { cos, alpha } = angles(hertz, rateHz);
  const a0 = 1 + alpha;
  const b = (1 - cos) / 2 / a0;
  return { b0: b, b1: 2 * b, b2: b, a1: (-2 * cos) / a0, a2: (1 - alpha) / a0 };
}

/** Butterworth high-pass, −3 dB at `hertz` (Audio EQ Cookbook). */
export function highPass(hertz: number, rateHz: number): BiquadCoefficients {
  const { cos, alpha } = angles(hertz, rateHz);
  const a0 = 1 + alpha;
  const b = (1 + cos) / 2 / a0;
  return { b0: b, b1: -2 * b, b2: b, a1: (-2 * cos) / a0, a2: (1 - alpha) / a0 };
}

function angles(hertz: number, rateHz: number) {
  const w = 2 * Math.PI * Math.min(hertz / rateHz, 0.49);
  return { cos: Math.cos(w), alpha: Math.sin(w) / Math.SQRT2 };
}

/** One second-order section, transposed direct form II. Any chunking gives the same result. */
export class Biquad {
  private s1 = 0;
  private s2 = 0;

  constructor(private readonly coefficients: BiquadCoefficients) {}

  /** Filters in place. */
  process(samples: Float32Array): void {
    const { b0, b1, b2, a1, a2 } = this.coefficients;
    let { s1, s2 } = this;
    for (let i = 0; i < samples.length; i++) {
      const x = samples[i];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      samples[i] = y;
    }
    // Tails that decay towards zero would end in denormal numbers, which are many times slower.
    this.s1 = Math.abs(s1) < 1e-20 ? 0 : s1;
    this.s2 = Math.abs(s2) < 1e-20 ? 0 : s2;
  }

  reset(): void {
    this.s1 = this.s2 = 0;
  }

  clone(): Biquad {
    const copy = new Biquad(this.coefficients);
    copy.s1 = this.s1;
    copy.s2 = this.s2;
    return copy;
  }
}
