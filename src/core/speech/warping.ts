import { kernels } from '../dsp/kernels';
import { distances } from '../dsp/kernels/speech';
import { coefficients } from './cepstra';

/**
 * Dynamic time warping of cepstra (subsequence and open-ended; M. Müller, Information Retrieval for Music and
 * Motion, 2007, ch. 4).
 */

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
  const total = new Float64Array(width);
  const begin = new Int32Array(width);
  kernels().searchTemplate(cepstra, at, length, first, total, begin);
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
  const fresh = () => new Float64Array(width);
  // A path comes from the last two rows: three take turns, so that a long search leaves nothing to clear up.
  const rows = [fresh(), fresh(), fresh()];
  const bests: { cost: number; at: number }[] = [];
  let above = fresh();
  let here = fresh();
  for (let i = 0; i < length; i++) {
    const row = rows[i % 3].fill(Infinity);
    const last = rows[(i + 2) % 3];
    const before = rows[(i + 1) % 3];
    const from = Math.max(0, Math.floor(i * 0.6) - 8);
    const to = Math.min(width, Math.ceil(i * 1.5) + 8);
    let best = Infinity;
    let bestAt = from;
    distances(cepstra, a + i, b, here.fill(0), from, to);
    for (let j = from; j < to; j++) {
      const d = here[j];
      let cost = Infinity;
      if (i === 0) cost = j <= 8 ? d : Infinity;
      else {
        if (j >= 1) cost = last[j - 1] + d;
        if (j >= 2 && last[j - 2] + d < cost) cost = last[j - 2] + d;
        if (i >= 2 && j >= 1 && above[j] > 0) {
          const both = before[j - 1] + above[j] + d;
          if (both < cost) cost = both;
        }
      }
      row[j] = cost;
      if (cost < best) {
        best = cost;
        bestAt = j;
      }
    }
    [above, here] = [here, above];
    bests.push({ cost: best, at: bestAt });
    const since = i >= trailFrames ? bests[i - trailFrames].cost : 0;
    if (i >= trailFrames && best - since > highestCost * trailFrames) break;
  }
  const last = Math.max(0, bests.length - (bests.length === length ? 1 : trailFrames / 2));
  const end = Math.min(last, bests.length - 1);
  if (end < 0) return { length: 0, secondLength: 0, cost: Infinity };
  return { length: end + 1, secondLength: bests[end].at + 1, cost: bests[end].cost / (end + 1) };
}
