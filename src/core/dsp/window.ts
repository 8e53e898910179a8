/**
 * Zeroth-order modified Bessel function of the first kind, by its power series (Abramowitz & Stegun 9.6.10).
 */
function bessel0(x: number): number {
  let term = 1;
  let sum = 1;
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/**
 * Kaiser's empirical shape parameter for a stop-band attenuation of `attenuationDb` (Oppenheim & Schafer, ch.
 * 7).
 */
export function kaiserBeta(attenuationDb: number): number {
  if (attenuationDb > 50) return 0.1102 * (attenuationDb - 8.7);
  if (attenuationDb > 21) return 0.5842 * (attenuationDb - 21) ** 0.4 + 0.07886 * (attenuationDb - 21);
  return 0;
}

/** Kaiser window value at `position` in −1…1. */
export const kaiser = (position: number, beta: number) =>
  Math.abs(position) > 1 ? 0 : bessel0(beta * Math.sqrt(1 - position * position)) / bessel0(beta);

export const sinc = (x: number) => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));

/**
 * A low-pass for interpolation, split into phases: `phases × taps` coefficients, phase-major, newest sample
 * last. Phase p computes the value p/phases of a sample after the tap at index `taps / 2 − 1`. `cutoff` is in
 * cycles per input sample. Each phase is normalised to unity gain at 0 Hz. `further` phases follow the last
 * one, for interpolating between phases.
 */
export function polyphaseLowPass(
  phases: number,
  taps: number,
  cutoff: number,
  attenuationDb: number,
  further = 0,
): Float64Array {
  const table = new Float64Array((phases + further) * taps);
  const beta = kaiserBeta(attenuationDb);
  const half = taps / 2;
  for (let phase = 0; phase < phases + further; phase++) {
    let sum = 0;
    for (let tap = 0; tap < taps; tap++) {
      const distance = tap - (half - 1) - phase / phases;
      const value = 2 * cutoff * sinc(2 * cutoff * distance) * kaiser(distance / half, beta);
      table[phase * taps + tap] = value;
      sum += value;
    }
    for (let tap = 0; tap < taps; tap++) table[phase * taps + tap] /= sum;
  }
  return table;
}
