import { continues, type Piece, type PieceTable } from './pieces';

/** The trade's usual length for a crossfade between two readings; *common practice*. */
export const defaultJoinMs = 10;

/** How long sources are, in frames: a join may use audio beyond a cut only where there is some. */
export type SourceLengths = (source: string) => number;

/** A fade window in heard time; the gain is sin² / cos²-shaped in power, so that unrelated rooms keep their level. */
export interface Fade {
  readonly from: number;
  readonly to: number;
}

/** A heard piece with where it sounds: its own place, plus what its joins borrow from beyond its cuts. */
export interface HeardPiece {
  readonly piece: Piece;
  /** Heard time of the piece itself. */
  readonly start: number;
  readonly end: number;
  /** Null where it goes on without a seam. */
  readonly fadeIn: Fade | null;
  readonly fadeOut: Fade | null;
}

/**
 * The heard pieces that sound in heard range [from, to). Between two that are not neighbours in their source there is a
 * join of `joinFrames`, centred on the cut, using the audio beyond the cut on both sides. Where a source has less beyond the cut,
 * both fades shrink towards the cut; with none at all one fades out and then the other in. The total length never changes.
 */
export function heardPieces(
  table: PieceTable,
  from: number,
  to: number,
  joinFrames: number,
  lengths: SourceLengths,
): HeardPiece[] {
  const reach = joinFrames / 2;
  const { pieces } = table;
  const result: HeardPiece[] = [];
  let index = table.indexAtHeard(Math.max(0, Math.floor(from - reach)));
  index = previousHeard(pieces, index) ?? index;
  for (; index < pieces.length && table.heardStartOf(index) < to + reach; index++) {
    if (pieces[index].struck) continue;
    const before = previousHeard(pieces, index);
    const after = nextHeard(pieces, index);
    const start = table.heardStartOf(index);
    const end = table.heardStartOf(index + 1);
    const joinIn = before === null ? null : joinAt(pieces[before], pieces[index], start, joinFrames, lengths);
    const joinOut = after === null ? null : joinAt(pieces[index], pieces[after], end, joinFrames, lengths);
    result.push({
      piece: pieces[index],
      start,
      end,
      fadeIn: joinIn?.fadeIn ?? null,
      fadeOut: joinOut?.fadeOut ?? null,
    });
  }
  return result;
}

function previousHeard(pieces: readonly Piece[], index: number): number | null {
  for (let i = index - 1; i >= 0; i--) if (!pieces[i].struck) return i;
  return null;
}

function nextHeard(pieces: readonly Piece[], index: number): number | null {
  for (let i = index + 1; i < pieces.length; i++) if (!pieces[i].struck) return i;
  return null;
}

/** The two fades at a cut at heard frame `at`, or null when the audio goes on without a seam. */
export function joinAt(
  left: Piece,
  right: Piece,
  at: number,
  joinFrames: number,
  lengths: SourceLengths,
): { fadeOut: Fade; fadeIn: Fade } | null {
  if (joinFrames < 2 || continues(left, right)) return null;
  // No piece lends more than half of itself to each of its joins, so two joins never meet.
  const half = Math.floor(Math.min(joinFrames, left.length, right.length) / 2);
  const beyondLeft = left.kind === 'audio' ? lengths(left.source) - (left.from + left.length) : half;
  const beyondRight = right.kind === 'audio' ? right.from : half;
  const after = Math.max(0, Math.min(half, beyondLeft));
  const before = Math.max(0, Math.min(half, beyondRight));
  const length = Math.max(after + before, half);
  return {
    fadeOut: { from: at + after - length, to: at + after },
    fadeIn: { from: at - before, to: at - before + length },
  };
}

/** Gain of a rising fade at heard `frame`: 0 before it, 1 after it, sampled between frames so that both ends are smooth. */
export function risingGain({ from, to }: Fade, frame: number): number {
  if (frame < from) return 0;
  if (frame >= to) return 1;
  return Math.sin((Math.PI / 2) * ((frame - from + 0.5) / (to - from)));
}

export function fallingGain({ from, to }: Fade, frame: number): number {
  if (frame < from) return 1;
  if (frame >= to) return 0;
  return Math.cos((Math.PI / 2) * ((frame - from + 0.5) / (to - from)));
}
