import { firstIndex } from '../base/search';
import type { Range } from './range';
import type { Mark } from './timeline';

/** Where the marks of a list are, found by range. Built once for each list, which never changes. */
class MarkIndex {
  private readonly sorted: Mark[];
  /** The furthest end of each mark and all that begin before it. */
  private readonly ends: number[] = [];

  constructor(marks: readonly Mark[]) {
    this.sorted = [...marks].sort((a, b) => a.at - b.at);
    let end = -Infinity;
    for (const { at, length } of this.sorted) this.ends.push((end = Math.max(end, at + length)));
  }

  /** Marks with a moment in [from, to], their own ends included, in order of time. */
  in({ from, to }: Range): Mark[] {
    const { sorted, ends } = this;
    const found: Mark[] = [];
    const last = firstIndex(sorted.length, (index) => sorted[index].at > to) - 1;
    // Back for as long as any mark that begins before reaches so far.
    for (let index = last; index >= 0 && ends[index] >= from; index--)
      if (sorted[index].at + sorted[index].length >= from) found.push(sorted[index]);
    return found.reverse();
  }
}

const indices = new WeakMap<readonly Mark[], MarkIndex>();

/** The marks that lie in a range of sheet frames or touch it, in order of time: O(log marks + found). */
export function marksIn(marks: readonly Mark[], range: Range): Mark[] {
  let index = indices.get(marks);
  if (!index) indices.set(marks, (index = new MarkIndex(marks)));
  return index.in(range);
}
