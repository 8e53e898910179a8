import { coefficients } from './cepstra';

/**
 * Dynamic time warping of cepstra (subsequence and open-ended; M. Müller, Information Retrieval for Music and
 * Motion, 2007, ch. 4).
 */

/**
 * Distances of frame `at` to the frames from `first` on, one for each place of `output` in [from, to).
 * Written out for the 13 coefficients: this is where the time of the whole search goes.
 */
function distances(
  cepstra: Float32Array,
  at: number,
  first: number,
  output: Float64Array,
  from: number,
  to: number,
): void {
  const a = at * coefficients;
  const a0 = cepstra[a];
  const a1 = cepstra[a + 1];
  const a2 = cepstra[a + 2];
  const a3 = cepstra[a + 3];
  const a4 = cepstra[a + 4];
  const a5 = cepstra[a + 5];
  const a6 = cepstra[a + 6];
  const a7 = cepstra[a + 7];
  const a8 = cepstra[a + 8];
  const a9 = cepstra[a + 9];
  const a10 = cepstra[a + 10];
  const a11 = cepstra[a + 11];
  const a12 = cepstra[a + 12];
  const { sqrt } = Math;
  for (let j = from, b = (first + from) * coefficients; j < to; j++, b += coefficients) {
    const d0 = cepstra[b] - a0;
    const d1 = cepstra[b + 1] - a1;
    const d2 = cepstra[b + 2] - a2;
    const d3 = cepstra[b + 3] - a3;
    const d4 = cepstra[b + 4] - a4;
    const d5 = cepstra[b + 5] - a5;
    const d6 = cepstra[b + 6] - a6;
    const d7 = cepstra[b + 7] - a7;
    const d8 = cepstra[b + 8] - a8;
    const d9 = cepstra[b + 9] - a9;
    const d10 = cepstra[b + 10] - a10;
    const d11 = cepstra[b + 11] - a11;
    const d12 = cepstra[b + 12] - a12;
    const near = d0 * d0 + d1 * d1 + d2 * d2 + d3 * d3 + d4 * d4 + d5 * d5;
    const far = d6 * d6 + d7 * d7 + d8 * d8 + d9 * d9 + d10 * d10 + d11 * d11 + d12 * d12;
    output[j] = sqrt(near + far);
  }
}

export interface Hit {
  /** Frame at which the match begins, and ends. */
  from: number;
  to: number;
  /** Mean distance for each frame of the template. */
  cost: number;
}

/**
 * Finds the template, frames [at, at + length), in frames [first, last): the best matches, at least `apart`
 * frames from each other, cheapest first, at most `most`. Either side may be up to twice as fast as the
 * other.
 */
export function findTemplate(
  cepstra: Float32Array,
  at: number,
  length: number,
  first: number,
  last: number,
  { highestCost, apart, most }: { highestCost: number; apart: number; most: number },
): Hit[] {
  const width = last - first;
  if (width <= 0) return [];
  // Three rows of accumulated cost, and where each path began.
  const costs = [0, 1, 2].map(() => new Float64Array(width));
  const starts = [0, 1, 2].map(() => new Int32Array(width));
  const local = [0, 1].map(() => new Float64Array(width));
  for (let i = 0; i < length; i++) {
    const cost = costs[i % 3];
    const before = costs[(i + 2) % 3];
    const earlier = costs[(i + 1) % 3];
    const start = starts[i % 3];
    const startBefore = starts[(i + 2) % 3];
    const startEarlier = starts[(i + 1) % 3];
    const here = local[i % 2];
    const above = local[(i + 1) % 2];
    distances(cepstra, at + i, first, here, 0, width);
    for (let j = 0; j < width; j++) {
      const d = here[j];
      if (i === 0) {
        cost[j] = d;
        start[j] = j;
        continue;
      }
      let best = j >= 1 ? before[j - 1] + d : Infinity;
      let from = j >= 1 ? startBefore[j - 1] : j;
      if (j >= 2 && before[j - 2] + d < best) {
        best = before[j - 2] + d;
        from = startBefore[j - 2];
      }
      if (i >= 2 && j >= 1) {
        const skipping = earlier[j - 1] + above[j] + d;
        if (skipping < best) {
          best = skipping;
          from = startEarlier[j - 1];
        }
      }
      cost[j] = best;
      start[j] = from;
    }
  }
  const total = costs[(length - 1) % 3];
  const begin = starts[(length - 1) % 3];
  const order = Array.from({ length: width }, (_, j) => j)
    .filter(
      (j) =>
        total[j] < highestCost * length &&
        total[j] <= (total[j - 1] ?? Infinity) &&
        total[j] < (total[j + 1] ?? Infinity),
    )
    .sort((x, y) => total[x] - total[y]);
  const hits: Hit[] = [];
  for (const j of order) {
    if (hits.length === most) break;
    const hit = { from: first + begin[j], to: first + j + 1, cost: total[j] / length };
    if (hits.every(({ from }) => Math.abs(from - hit.from) >= apart)) hits.push(hit);
  }
  return hits;
}

/** Frames over which a match has to stay good to go on. */
const trailFrames = 20;

export interface Match {
  /** Frames of the first reading that the second one repeats. */
  length: number;
  /** Frames of the second reading that repeat them. */
  secondLength: number;
  cost: number;
}

/**
 * How far two readings that begin at frames `a` and `b` say the same, at most `most` frames: along the
 * cheapest path, until its cost over 0.2 s passes `highestCost`.
 */
export function matchFrom(
  cepstra: Float32Array,
  a: number,
  b: number,
  most: number,
  highestCost: number,
): Match {
  const frames = cepstra.length / coefficients;
  const length = Math.min(most, b - a, frames - b);
  const width = Math.min(Math.ceil(length * 1.5) + 10, frames - b);
  const rows: Float64Array[] = [];
  const bests: { cost: number; at: number }[] = [];
  let above = new Float64Array(width);
  for (let i = 0; i < length; i++) {
    const row = new Float64Array(width).fill(Infinity);
    const here = new Float64Array(width);
    const from = Math.max(0, Math.floor(i * 0.6) - 8);
    const to = Math.min(width, Math.ceil(i * 1.5) + 8);
    let best = Infinity;
    let bestAt = from;
    distances(cepstra, a + i, b, here, from, to);
    for (let j = from; j < to; j++) {
      const d = here[j];
      let cost = Infinity;
      if (i === 0) cost = j <= 8 ? d : Infinity;
      else {
        if (j >= 1) cost = rows[i - 1][j - 1] + d;
        if (j >= 2) cost = Math.min(cost, rows[i - 1][j - 2] + d);
        if (i >= 2 && j >= 1 && above[j] > 0) cost = Math.min(cost, rows[i - 2][j - 1] + above[j] + d);
      }
      row[j] = cost;
      if (cost < best) {
        best = cost;
        bestAt = j;
      }
    }
    rows.push(row);
    above = here;
    bests.push({ cost: best, at: bestAt });
    const since = i >= trailFrames ? bests[i - trailFrames].cost : 0;
    if (i >= trailFrames && best - since > highestCost * trailFrames) break;
  }
  const last = Math.max(0, bests.length - (bests.length === length ? 1 : trailFrames / 2));
  const end = Math.min(last, bests.length - 1);
  if (end < 0) return { length: 0, secondLength: 0, cost: Infinity };
  return { length: end + 1, secondLength: bests[end].at + 1, cost: bests[end].cost / (end + 1) };
}
