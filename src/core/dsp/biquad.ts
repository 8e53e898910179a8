import { kernels } from './kernels';
import type { BiquadCoefficients } from './kernels/kernels';

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

/** Tails that decay towards zero would end in denormal numbers, which are many times slower. */
function withoutTails(states: Float64Array) {
  for (let i = 0; i < states.length; i++) if (Math.abs(states[i]) < 1e-20) states[i] = 0;
}

/** One second-order section, transposed direct form II. Any chunking gives the same result. */
export class Biquad {
  private readonly states = new Float64Array(2);
  private readonly coefficients: readonly BiquadCoefficients[];

  constructor(coefficients: BiquadCoefficients) {
    this.coefficients = [coefficients];
  }

  /** Filters in place. */
  process(samples: Float32Array): void {
    kernels().sections(samples, this.coefficients, this.states);
    withoutTails(this.states);
  }

  reset(): void {
    this.states.fill(0);
  }

  clone(): Biquad {
    const copy = new Biquad(this.coefficients[0]);
    copy.states.set(this.states);
    return copy;
  }
}
