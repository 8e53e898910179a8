/** Values on one or several channels, as a function of the range alone: any range at any time. */
export interface Track {
  readonly channels: number;
  /** Frames before and after a value on which it can depend: whole cells count. */
  readonly reach: number;
  /** Values [from, from + count) of each channel; `from` can be negative. They belong to who asked. */
  read(from: number, count: number): Promise<Float32Array<ArrayBuffer>[]>;
}

/** How audio is cut for what has a memory; the same everywhere, so that any chunking gives the same. */
export interface Grid {
  readonly rateHz: number;
  /** Frames of a cell. */
  readonly cellFrames: number;
  /** Frames of a tick: what moves a gain is looked at so often. */
  readonly tickFrames: number;
  /** Ticks of a cell, a whole number. */
  readonly cellTicks: number;
}

const cellTicks = 1024;

/** Cells of 0.34 s and ticks of a third of a millisecond at 48 kHz; of the same length at twice the rate. */
export function gridOf(rateHz: number): Grid {
  const tickFrames = rateHz > 50_000 ? 32 : 16;
  return { rateHz, cellFrames: cellTicks * tickFrames, tickFrames, cellTicks };
}

/** So many ticks as a time takes, at least one. */
export const ticksOf = (seconds: number, { rateHz, tickFrames }: Grid) =>
  Math.max(1, Math.round((seconds * rateHz) / tickFrames));

/** What is made of each cell, from nothing but its place on the grid; the last ones asked for are kept. */
export class Cells<Made> {
  private readonly made = new Map<number, Promise<Made>>();

  constructor(
    private readonly kept: number,
    private readonly make: (index: number) => Promise<Made>,
  ) {}

  at(index: number): Promise<Made> {
    const known = this.made.get(index);
    // What was asked for last is let go of last.
    if (known) this.made.delete(index);
    const cell = known ?? this.make(index);
    this.made.set(index, cell);
    // One that failed is made anew when it is asked for again.
    if (!known) cell.catch(() => this.made.get(index) === cell && this.made.delete(index));
    for (const oldest of this.made.keys()) {
      if (this.made.size <= this.kept) break;
      this.made.delete(oldest);
    }
    return cell;
  }
}

/** Cells of audio that are kept of each step, and of what is noticed in it, which is a hundredth as much. */
const audioKept = 16;
const ticksKept = 128;

/** A track that is put together from cells of equal length. */
class CellTrack implements Track {
  private readonly cells: Cells<readonly Float32Array[]>;

  constructor(
    readonly channels: number,
    readonly reach: number,
    private readonly length: number,
    kept: number,
    make: (index: number) => Promise<readonly Float32Array[]>,
  ) {
    this.cells = new Cells(kept, make);
  }

  async read(from: number, count: number): Promise<Float32Array<ArrayBuffer>[]> {
    const values = Array.from({ length: this.channels }, () => new Float32Array(count));
    for (let index = Math.floor(from / this.length); index * this.length < from + count; index++) {
      const start = index * this.length;
      const cell = await this.cells.at(index);
      const [first, last] = [Math.max(from, start), Math.min(from + count, start + this.length)];
      cell.forEach((all, channel) =>
        values[channel].set(all.subarray(first - start, last - start), first - from),
      );
    }
    return values;
  }
}

/** Audio made in cells out of what is within `reach` of one; `make` is told the first frame of one. */
export const audioTrack = (
  channels: number,
  reach: number,
  { cellFrames }: Grid,
  make: (from: number) => Promise<readonly Float32Array[]>,
): Track =>
  new CellTrack(channels, reach + cellFrames, cellFrames, audioKept, (index) => make(index * cellFrames));

/** What is noticed of audio, a value a tick, in as many rows as `make` gives; in ticks. */
export const tickTrack = (
  rows: number,
  reach: number,
  { cellTicks, cellFrames }: Grid,
  make: (fromTick: number) => Promise<readonly Float32Array[]>,
): Track => new CellTrack(rows, reach + cellFrames, cellTicks, ticksKept, (index) => make(index * cellTicks));
