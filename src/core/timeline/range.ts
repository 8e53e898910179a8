/** A stretch of time, [from, to), in frames. */
export interface Range {
  readonly from: number;
  readonly to: number;
}

export const isIn = ({ from, to }: Range, frame: number) => frame >= from && frame < to;

export const overlap = (a: Range, b: Range) => a.from < b.to && b.from < a.to;

export const equalRanges = (a: Range, b: Range) => a === b || (a.from === b.from && a.to === b.to);

export const framesOf = (ranges: readonly Range[]) =>
  ranges.reduce((sum, { from, to }) => sum + to - from, 0);

/** Ranges in order of time, empty ones left out, those that touch or overlap as one. */
export function union(ranges: readonly Range[]): Range[] {
  const sorted = ranges.filter(({ from, to }) => to > from).sort((a, b) => a.from - b.from);
  const result: { from: number; to: number }[] = [];
  for (const { from, to } of sorted) {
    const last = result[result.length - 1];
    if (last && from <= last.to) last.to = Math.max(last.to, to);
    else result.push({ from, to });
  }
  return result;
}

/** What a segment of a new sheet is: a segment of the old one, or time that opens. */
export type Segment =
  ({ readonly kind: 'kept' } & Range) | { readonly kind: 'opened'; readonly frames: number };

/** What of a union of ranges lies in neither of `others`, a union too. */
export function without(ranges: readonly Range[], others: readonly Range[]): Range[] {
  const result: Range[] = [];
  let next = 0;
  for (const range of ranges) {
    let { from } = range;
    while (next < others.length && others[next].to <= from) next++;
    for (let i = next; i < others.length && others[i].from < range.to; i++) {
      if (others[i].from > from) result.push({ from, to: others[i].from });
      from = Math.max(from, others[i].to);
    }
    if (from < range.to) result.push({ from, to: range.to });
  }
  return result;
}

/** What lies in both of two unions of ranges. */
export function intersection(a: readonly Range[], b: readonly Range[]): Range[] {
  const result: Range[] = [];
  for (let i = 0, j = 0; i < a.length && j < b.length;) {
    const from = Math.max(a[i].from, b[j].from);
    const to = Math.min(a[i].to, b[j].to);
    if (to > from) result.push({ from, to });
    if (a[i].to < b[j].to) i++;
    else j++;
  }
  return result;
}
