import { secondsToFrames } from '../base/units';
import { continues, isAdjacent, type Fade, type FadeShape, type Piece, type PieceTable } from './pieces';

/** The trade's usual length for a crossfade between two readings; *common practice*. */
export const defaultJoinMs = 10;
/** Room tone overlaps what it patches by this much at each side; *common practice*. */
export const toneJoinMs = 40;

/** Lengths of joins that were not set by hand, in frames. */
export interface JoinLengths {
  readonly joinFrames: number;
  /** Where room tone meets something else; as `joinFrames` when missing. */
  readonly toneJoinFrames?: number;
}

/** The lengths a project has, whose cuts are joined over `joinMs` milliseconds. */
export const joinLengthsOf = (joinMs: number, rateHz: number): JoinLengths => ({
  joinFrames: secondsToFrames(joinMs / 1000, rateHz),
  toneJoinFrames: secondsToFrames(toneJoinMs / 1000, rateHz),
});

/** How long sources are, in frames: a join may use audio beyond a cut only where there is some. */
export type SourceLengths = (source: string) => number;

/** A gain that moves from one end of a window to the other, in heard time. */
export interface Ramp {
  readonly from: number;
  readonly to: number;
  readonly shape: FadeShape;
}

/** A heard piece with where it sounds: its own place, plus what its joins borrow from beyond its cuts. */
export interface HeardPiece {
  readonly piece: Piece;
  /** Heard time of the piece itself. */
  readonly start: number;
  readonly end: number;
  /** Its two joins; null where it goes on without a seam. */
  readonly joinIn: Ramp | null;
  readonly joinOut: Ramp | null;
  /** Fades that were set by hand; no longer than the piece. */
  readonly fadeIn: Ramp | null;
  readonly fadeOut: Ramp | null;
}

/**
 * The pieces of a heard table (see heard.ts) that sound in heard range [from, to). Between two that are not
 * neighbours in their source there is a join, centred on the cut, using the audio beyond the cut on both
 * sides. Where a source has less beyond the cut, both ramps shrink towards the cut; with none at all one
 * fades out and then the other in. The total length never changes.
 */
export function heardPieces(
  table: PieceTable,
  from: number,
  to: number,
  joins: JoinLengths,
  lengths: SourceLengths,
): HeardPiece[] {
  const reach = longestReach(table, joins);
  const { pieces } = table;
  const result: HeardPiece[] = [];
  const first = table.indexAt(Math.max(0, Math.floor(from - reach)));
  for (
    let index = Math.max(0, first - 1);
    index < pieces.length && table.startOf(index) < to + reach;
    index++
  ) {
    const piece = pieces[index];
    const start = table.startOf(index);
    const end = table.startOf(index + 1);
    const before = pieces[index - 1];
    const after = pieces[index + 1];
    result.push({
      piece,
      start,
      end,
      joinIn: before ? (joinAt(before, piece, start, joins, lengths)?.rising ?? null) : null,
      joinOut: after ? (joinAt(piece, after, end, joins, lengths)?.falling ?? null) : null,
      fadeIn: piece.fadeIn ? rampFrom(piece.fadeIn, start, piece.length) : null,
      fadeOut: piece.fadeOut ? rampTo(piece.fadeOut, end, piece.length) : null,
    });
  }
  return result;
}

const rampFrom = ({ frames, shape }: Fade, at: number, length: number): Ramp => ({
  from: at,
  to: at + Math.min(frames, length),
  shape,
});

const rampTo = ({ frames, shape }: Fade, at: number, length: number): Ramp => ({
  from: at - Math.min(frames, length),
  to: at,
  shape,
});

/** How far from a cut a join of this table can be heard, in frames. */
export const longestReach = (table: PieceTable, { joinFrames, toneJoinFrames = 0 }: JoinLengths): number =>
  Math.ceil(Math.max(joinFrames, toneJoinFrames, table.longestJoin) / 2);

/** The frames wanted for a join between two heard pieces: as set by hand, or the usual ones. */
export function joinFramesBetween(left: Piece, right: Piece, joins: JoinLengths): number {
  const usual =
    left.kind === 'tone' || right.kind === 'tone'
      ? (joins.toneJoinFrames ?? joins.joinFrames)
      : joins.joinFrames;
  return right.joint?.frames ?? usual;
}

/** The two ramps at a cut at heard frame `at`, or null when the audio goes on without a seam. */
export function joinAt(
  left: Piece,
  right: Piece,
  at: number,
  joins: JoinLengths,
  lengths: SourceLengths,
): { falling: Ramp; rising: Ramp } | null {
  const wanted = joinFramesBetween(left, right, joins);
  if (wanted < 2 || continues(left, right)) return null;
  // No piece lends more than half of itself to each of its joins, so two joins never meet.
  const half = Math.floor(Math.min(wanted, left.length, right.length) / 2);
  const beyondLeft = left.kind === 'audio' ? lengths(left.source) - (left.from + left.length) : half;
  const beyondRight = right.kind === 'audio' ? right.from : half;
  const after = Math.max(0, Math.min(half, beyondLeft));
  const before = Math.max(0, Math.min(half, beyondRight));
  const length = Math.max(after + before, half);
  // The same audio on both sides, only louder: constant power would swell it.
  const shape = right.joint?.shape ?? (isAdjacent(left, right) ? 'smooth' : 'power');
  return {
    falling: { from: at + after - length, to: at + after, shape },
    rising: { from: at - before, to: at - before + length, shape },
  };
}

/** The part of the way, 0 to 1, as a gain that rises. */
function gainAt(place: number, shape: FadeShape): number {
  switch (shape) {
    case 'power':
      return Math.sin((Math.PI / 2) * place);
    case 'straight':
      return place;
    case 'smooth':
      return 0.5 - 0.5 * Math.cos(Math.PI * place);
  }
}

/**
 * Gain of a rising ramp at heard `frame`: 0 before it, 1 after it, sampled between frames so that both ends
 * are smooth.
 */
export function risingGain({ from, to, shape }: Ramp, frame: number): number {
  if (frame < from) return 0;
  if (frame >= to) return 1;
  return gainAt((frame - from + 0.5) / (to - from), shape);
}

export function fallingGain({ from, to, shape }: Ramp, frame: number): number {
  if (frame < from) return 1;
  if (frame >= to) return 0;
  return gainAt(1 - (frame - from + 0.5) / (to - from), shape);
}
