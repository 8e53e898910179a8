import type { BiquadCoefficients, Weighting } from '../dsp/kernels/kernels';

/**
 * The two K-weighting filters of ITU-R BS.1770-5 for any sample rate. The standard prints coefficients for 48
 * kHz only; these come from its analogue prototype by the bilinear transform (parameters from B. De Man,
 * “Evaluation of implementations of the EBU R128 loudness measurement”, AES 145, 2018, from memory) and equal
 * the printed ones at 48 kHz.
 */
export function kWeighting(rateHz: number): Weighting {
  return { shelf: shelf(rateHz), highPass: highPass(rateHz) };
}

function shelf(rateHz: number): BiquadCoefficients {
  const k = Math.tan((Math.PI * 1681.974450955533) / rateHz);
  const q = 0.7071752369554196;
  const high = 10 ** (3.999843853973347 / 20);
  const band = high ** 0.4996667741545416;
  const a0 = 1 + k / q + k * k;
  return {
    b0: (high + (band * k) / q + k * k) / a0,
    b1: (2 * (k * k - high)) / a0,
    b2: (high - (band * k) / q + k * k) / a0,
    a1: (2 * (k * k - 1)) / a0,
    a2: (1 - k / q + k * k) / a0,
  };
}

function highPass(rateHz: number): BiquadCoefficients {
  const k = Math.tan((Math.PI * 38.13547087602444) / rateHz);
  const q = 0.5003270373238773;
  const a0 = 1 + k / q + k * k;
  return { b0: 1, b1: -2, b2: 1, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 };
}
