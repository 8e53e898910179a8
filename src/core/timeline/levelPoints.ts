import type { ChainStep } from '../chain/chain';
import { firstIndex } from '../base/search';
import { dbToAmplitude } from '../base/units';
import type { SheetClock } from './clock';
import type { Segment } from './range';

/** A level at a moment; between two it moves in a straight line of decibels. */
export interface LevelPoint {
  /** Frame of sheet time; of heard time in what is rendered. */
  readonly at: number;
  readonly db: number;
  /** Written for a passage of speech, not by hand; those of one passage belong together. */
  readonly passage?: string;
}

/** The level of points in order at a frame, dB; before the first and after the last it stays. */
export function levelAt(points: readonly LevelPoint[], frame: number): number {
  if (points.length === 0) return 0;
  const next = firstIndex(points.length, (i) => points[i].at > frame);
  if (next === 0) return points[0].db;
  const last = points[next - 1];
  if (next === points.length) return last.db;
  const { at, db } = points[next];
  return last.db + ((db - last.db) * (frame - last.at)) / (at - last.at);
}

/** As `levelAt`, from the left: where several points stand at one frame, the first of them. */
function levelBefore(points: readonly LevelPoint[], frame: number): number {
  const next = firstIndex(points.length, (i) => points[i].at >= frame);
  if (next === points.length) return points.length === 0 ? 0 : points[next - 1].db;
  if (next === 0 || points[next].at === frame) return points[next].db;
  return levelAt(points, frame);
}

/** What goes on where nothing else is known: the passage both neighbours are of. */
function passageAround(points: readonly LevelPoint[], frame: number): Pick<LevelPoint, 'passage'> {
  const next = firstIndex(points.length, (i) => points[i].at > frame);
  const before = points[Math.max(0, next - 1)]?.passage;
  const after = points[Math.min(points.length - 1, next)]?.passage;
  return before !== undefined && after !== undefined ? { passage: before } : {};
}

/** A point is drawn through when it says nothing that its neighbours do not. */
const flatDb = 1e-9;

interface Carried extends LevelPoint {
  /** Stands for an edge of a kept segment, not for a point that was set. */
  edge?: boolean;
}

function withoutIdleEdges(points: readonly Carried[]): LevelPoint[] {
  const kept: Carried[] = [];
  points.forEach((point, index) => {
    const next = points[index + 1];
    const last = kept[kept.length - 1];
    const idle =
      point.edge &&
      (last && next
        ? next.at > last.at &&
          Math.abs(last.db + ((next.db - last.db) * (point.at - last.at)) / (next.at - last.at) - point.db) <
            flatDb
        : Math.abs((last ?? next ?? point).db - point.db) < flatDb && !!(last ?? next));
    if (!idle) kept.push(point);
  });
  return kept.map(({ at, db, passage }) => ({ at, db, ...(passage !== undefined && { passage }) }));
}

/** Points inside [from, to] moved by so much, with the levels there at both edges. */
function carry(points: readonly LevelPoint[], from: number, to: number, by: number): Carried[] {
  const edge = (at: number, db: number): Carried => ({
    at: at + by,
    db,
    ...passageAround(points, at),
    edge: true,
  });
  const first = firstIndex(points.length, (i) => points[i].at >= from);
  const end = firstIndex(points.length, (i) => points[i].at > to);
  const inside = points.slice(first, end).filter(({ at }) => at < to || to === from);
  return [
    ...(inside[0]?.at === from ? [] : [edge(from, levelAt(points, from))]),
    ...inside.map((point) => (by === 0 ? point : { ...point, at: point.at + by })),
    edge(to, levelBefore(points, to)),
  ];
}

/**
 * Points as they stand after a change of time: each goes with what it stands over. Where time is taken out
 * the levels on both sides of the joint stay as they were; time that opens has the levels around it.
 */
export function changedPoints(
  points: readonly LevelPoint[],
  segments: readonly Segment[],
): readonly LevelPoint[] {
  if (points.length === 0) return points;
  const result: Carried[] = [];
  let at = 0;
  let oldEnd = 0;
  for (const segment of segments) {
    if (segment.kind === 'opened') {
      at += segment.frames;
      continue;
    }
    result.push(...carry(points, segment.from, segment.to, at - segment.from));
    at += segment.to - segment.from;
    oldEnd = Math.max(oldEnd, segment.to);
  }
  // What stands at the very end, or beyond it, is of the end.
  const beyond = points.filter((point) => point.at >= oldEnd);
  for (const point of beyond) result.push({ ...point, at: at + point.at - oldEnd });
  return withoutIdleEdges(result);
}

/** Two points of heard time are at least so far apart, so that a level never jumps. */
export const shortestMoveSeconds = 0.005;

/** Points in heard time: what is struck is left out, with the levels at both its sides as they were. */
export function heardPoints(
  points: readonly LevelPoint[],
  clock: SheetClock,
  rateHz: number,
): readonly LevelPoint[] {
  if (points.length === 0) return points;
  const apart = Math.max(1, Math.round(shortestMoveSeconds * rateHz));
  const end = Math.max(clock.sheetFrames, points[points.length - 1].at);
  const struck = clock.struckIn({ from: 0, to: clock.sheetFrames });
  const carried: Carried[] = [];
  let from = 0;
  for (const range of [...struck, { from: end, to: end }]) {
    if (range.from > from) carried.push(...carry(points, from, range.from, clock.sheetToHeard(from) - from));
    from = range.to;
  }
  for (const point of points.slice(firstIndex(points.length, (i) => points[i].at >= end)))
    carried.push({ ...point, at: clock.heardFrames + point.at - end });
  const heard = withoutIdleEdges(carried);
  let last = -Infinity;
  return heard.map(({ at, db }) => {
    last = Math.max(at, last + apart);
    return { at: last, db };
  });
}

/** How loud and where a voice, a bed or all together is heard; its points in heard time. */
export interface HeardStrip {
  /** Steps the voice goes through first; all of them are on. */
  readonly chain?: readonly ChainStep[];
  /** What the chain takes away is heard instead of what it leaves. */
  readonly taken?: true;
  /** −∞ for what is not heard. */
  readonly levelDb: number;
  /** From −1, left, to 1, right. */
  readonly place: number;
  readonly points: readonly LevelPoint[];
}

/** As it is, in the middle. */
export const plainHeardStrip: HeardStrip = { levelDb: 0, place: 0, points: [] };

/** Gains are worked out at multiples of so many frames and go straight between them. */
const gridFrames = 16;

/** A level that changes, as gains: the same for a frame whatever is asked for around it. */
export class LevelCurve {
  private readonly points: readonly LevelPoint[];
  private readonly levelDb: number;

  constructor({ points, levelDb }: Pick<HeardStrip, 'points' | 'levelDb'>) {
    this.points = points;
    this.levelDb = levelDb;
  }

  /** Nothing of it is heard. */
  get isSilent() {
    return this.levelDb === -Infinity;
  }

  /** The gain of a level that does not change; null where it does. */
  get constant(): number | null {
    return this.points.length === 0 ? dbToAmplitude(this.levelDb) : null;
  }

  /** Multiplies samples that stand for heard frames from `from` on. */
  apply(samples: Float32Array, from: number): void {
    const { points } = this;
    if (points.length === 0) {
      const gain = dbToAmplitude(this.levelDb);
      if (gain !== 1) for (let i = 0; i < samples.length; i++) samples[i] *= gain;
      return;
    }
    let grid = Math.floor(from / gridFrames) * gridFrames;
    let next = this.gainAt(grid);
    for (let at = 0; at < samples.length; grid += gridFrames) {
      const gain = next;
      next = this.gainAt(grid + gridFrames);
      const last = Math.min(samples.length, grid + gridFrames - from);
      const slope = (next - gain) / gridFrames;
      for (; at < last; at++) samples[at] *= gain + slope * (from + at - grid);
    }
  }

  private gainAt(frame: number) {
    return dbToAmplitude(this.levelDb + levelAt(this.points, frame));
  }
}
