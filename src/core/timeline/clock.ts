import { firstIndex } from '../base/search';
import { union, type Range } from './range';

/**
 * The one clock of a part. *Sheet* time is what is drawn and edited; *heard* time is what is played and
 * written: sheet time without what is struck. Both in frames. Immutable; `struck` is in order of time, and
 * neighbours that touch are one.
 */
export class SheetClock {
  /** Heard time at which the struck range of each index is skipped; the number of frames struck before it. */
  private readonly skips: Float64Array;
  private readonly struckBefore: Float64Array;
  readonly heardFrames: number;

  private constructor(
    readonly struck: readonly Range[],
    readonly sheetFrames: number,
  ) {
    this.skips = new Float64Array(struck.length);
    this.struckBefore = new Float64Array(struck.length + 1);
    struck.forEach(({ from, to }, index) => {
      this.skips[index] = from - this.struckBefore[index];
      this.struckBefore[index + 1] = this.struckBefore[index] + to - from;
    });
    this.heardFrames = sheetFrames - this.struckBefore[struck.length];
  }

  /** A clock for a sheet so many frames long; what is struck beyond its ends does not count. */
  static of(struck: readonly Range[], sheetFrames: number): SheetClock {
    const inside = struck.map(({ from, to }) => ({ from: Math.max(0, from), to: Math.min(sheetFrames, to) }));
    return new SheetClock(union(inside), sheetFrames);
  }

  /**
   * The heard time of a sheet frame; inside a struck passage, where that passage is skipped. Clamped to the
   * sheet.
   */
  sheetToHeard(frame: number): number {
    if (frame >= this.sheetFrames) return this.heardFrames;
    const at = Math.max(0, frame);
    const index = this.firstEndingAfter(at);
    return Math.min(at, this.struck[index]?.from ?? at) - this.struckBefore[index];
  }

  /**
   * The sheet time of a heard frame: after the struck passage where one is skipped. Clamped to what is heard.
   */
  heardToSheet(frame: number): number {
    if (frame >= this.heardFrames) return this.sheetFrames;
    const at = Math.max(0, frame);
    return at + this.struckBefore[firstIndex(this.struck.length, (i) => this.skips[i] > at)];
  }

  /** The heard time of a sheet frame; beyond the end of the sheet time is counted on. */
  heardOnward(frame: number): number {
    return this.sheetToHeard(frame) + Math.max(0, frame - this.sheetFrames);
  }

  /** The sheet time of a heard frame; beyond the end of the sheet time is counted on. */
  sheetOnward(frame: number): number {
    return this.heardToSheet(frame) + Math.max(0, frame - this.heardFrames);
  }

  isStruck(frame: number): boolean {
    const range = this.struck[this.firstEndingAfter(frame)];
    return !!range && frame >= range.from;
  }

  /** Nothing of a sheet range is heard. An empty range counts as struck where its place is. */
  isAllStruck({ from, to }: Range): boolean {
    return to > from ? this.sheetToHeard(to) === this.sheetToHeard(from) : this.isStruck(from);
  }

  /** Struck ranges inside sheet range [from, to), cut at its edges; none in an empty one. */
  struckIn({ from, to }: Range): Range[] {
    const ranges: Range[] = [];
    if (to <= from) return ranges;
    for (let i = this.firstEndingAfter(from); i < this.struck.length && this.struck[i].from < to; i++)
      ranges.push({ from: Math.max(from, this.struck[i].from), to: Math.min(to, this.struck[i].to) });
    return ranges;
  }

  /** The struck passage at a sheet frame, its two ends included. */
  struckAround(frame: number): Range | null {
    const index = this.firstEndingAfter(frame - 1);
    const range = this.struck[index];
    return range && frame >= range.from ? range : null;
  }

  /** The stretches of sheet range [from, to) that are heard. */
  heardIn({ from, to }: Range): Range[] {
    const ranges: Range[] = [];
    let at = from;
    for (const range of this.struckIn({ from, to })) {
      if (range.from > at) ranges.push({ from: at, to: range.from });
      at = range.to;
    }
    if (at < to) ranges.push({ from: at, to });
    return ranges;
  }

  /** The stretches of the sheet on which heard range [from, to) stands: struck passages cut it. */
  sheetRangesOf({ from, to }: Range): Range[] {
    const first = Math.max(0, from);
    const last = Math.min(this.heardFrames, to);
    if (last <= first) return [];
    return this.heardIn({ from: this.heardToSheet(first), to: this.heardToSheet(last - 1) + 1 });
  }

  /** Index of the first struck range that ends after a sheet frame. */
  private firstEndingAfter(frame: number): number {
    return firstIndex(this.struck.length, (i) => this.struck[i].to > frame);
  }
}
