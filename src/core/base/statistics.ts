/** The median; NaN of nothing. */
export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length / 2;
  return sorted.length % 2 === 1
    ? sorted[Math.floor(middle)]
    : ((sorted[middle - 1] ?? NaN) + (sorted[middle] ?? NaN)) / 2;
}

/** At `i` the sum of the first `i` values: sums of any stretch are the difference of two. */
export function runningSums(values: ArrayLike<number>): Float64Array {
  const sums = new Float64Array(values.length + 1);
  for (let i = 0; i < values.length; i++) sums[i + 1] = sums[i] + values[i];
  return sums;
}

/** The mean over up to `reach` values on either side of each, and itself; fewer at the ends. */
export function movingMean(values: Float32Array, reach: number): Float32Array {
  const sums = runningSums(values);
  return values.map((_, i) => {
    const [from, to] = [Math.max(0, i - reach), Math.min(values.length, i + reach + 1)];
    return (sums[to] - sums[from]) / (to - from);
  });
}
