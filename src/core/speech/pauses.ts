/** A stretch without speech, in peaks (see timeline/peaks): [from, to). */
export interface Pause {
  from: number;
  to: number;
}

/**
 * Pauses from mean squares of short equal windows (about 5 ms). A window is quiet while its smoothed level is
 * within `marginDb` of the floor, the 10th percentile of the whole; pauses shorter than `shortest` windows do
 * not count. Good enough to move the caret by; cutting uses the spectrum.
 */
export function findPauses(meanSquares: Float32Array, shortest: number, marginDb = 9): Pause[] {
  const smooth = meanSquares.map((_, i) => {
    const around = meanSquares.subarray(Math.max(0, i - 1), i + 2);
    return around.reduce((sum, value) => sum + value, 0) / around.length;
  });
  const sorted = smooth.filter((value) => value > 0).sort();
  const floor = sorted[Math.floor(sorted.length * 0.1)] ?? 0;
  const limit = Math.max(floor * 10 ** (marginDb / 10), 1e-10);
  const pauses: Pause[] = [];
  for (let from = 0; from < smooth.length;) {
    let to = from;
    while (to < smooth.length && smooth[to] <= limit) to++;
    if (to - from >= shortest) pauses.push({ from, to });
    from = to + 1;
  }
  return pauses;
}
