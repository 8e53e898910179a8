/**
 * The exponential integral E₁ for positive values. Source: M. Abramowitz, I. A. Stegun, Handbook of
 * Mathematical Functions, 5.1.53 (absolute error under 2e-7) and 5.1.56 (under 5e-5 of what it stands
 * for).
 */
export function exponentialIntegral(x: number): number {
  if (x <= 1) {
    const series =
      -0.57721566 +
      x * (0.99999193 + x * (-0.24991055 + x * (0.05519968 + x * (-0.00976004 + x * 0.00107857))));
    return series - Math.log(x);
  }
  const above = x * (x + 2.334733) + 0.250621;
  const below = x * (x + 3.330657) + 1.681534;
  return (above / below / x) * Math.exp(-x);
}

/**
 * The exponential of half of E₁(u²), times u, is smooth down to 0: it is looked up, straight between
 * steps.
 */
const step = 1 / 256;
const highest = 5;
const lifts = Float64Array.from({ length: highest / step + 2 }, (_, i) => {
  const u = i * step;
  // As v goes to 0, E₁(v) goes to −γ − ln v.
  return i === 0 ? Math.exp(-0.57721566 / 2) : u * Math.exp(exponentialIntegral(u * u) / 2);
});

/**
 * Gain of the minimum mean-square error log-spectral amplitude estimator, 0 to 1. Source: Y. Ephraim, D.
 * Malah, IEEE ASSP 33 (1985), equation 20: ξ / (1 + ξ) · exp(E₁(v) / 2) with v = ξγ / (1 + ξ); within 1e-4
 * of that.
 *
 * @param expected signal-to-noise ratio that was to be expected (ξ), a ratio of powers, over 0
 * @param now power of the bin over that of the noise (γ), 0 or more
 */
export function logMmseGain(expected: number, now: number): number {
  const wiener = expected / (1 + expected);
  const u = Math.sqrt(wiener * now);
  if (u >= highest) return wiener;
  if (u < 1e-3) return 1;
  const place = u / step;
  const below = Math.floor(place);
  const lift = lifts[below] + (place - below) * (lifts[below + 1] - lifts[below]);
  const gain = (wiener * lift) / u;
  return gain < 1 ? gain : 1;
}
