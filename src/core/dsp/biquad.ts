import { cookbook } from './cookbook';
import { kernels } from './kernels';
import type { BiquadCoefficients } from './kernels/kernels';

/** Butterworth low-pass, −3 dB at `hertz`. At most 0.49 of the rate. */
export const lowPass = (hertz: number, rateHz: number): BiquadCoefficients =>
  cookbook({ shape: 'lowPass', hertz, gainDb: 0, q: Math.SQRT1_2 }, rateHz);

/** Butterworth high-pass, −3 dB at `hertz`. */
export const highPass = (hertz: number, rateHz: number): BiquadCoefficients =>
  cookbook({ shape: 'highPass', hertz, gainDb: 0, q: Math.SQRT1_2 }, rateHz);

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
