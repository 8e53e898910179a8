import { equalPieces, type Piece } from './pieces';

/** Heard pieces in order: what two lists have in common at an end sounds the same there, but for joins. */
const heard = (pieces: readonly Piece[]) => pieces.filter(({ struck }) => !struck);

const lengthOf = (pieces: readonly Piece[]) => pieces.reduce((sum, { length }) => sum + length, 0);

const gainOf = (piece: Piece) => (piece.kind === 'silence' ? 0 : piece.gainDb);

function sameStream(a: Piece, b: Piece): boolean {
  if (a.kind === 'silence' || b.kind === 'silence') return a.kind === b.kind;
  if (a.kind === 'tone' && b.kind === 'tone' && (a.start !== b.start || a.end !== b.end || a.seed !== b.seed))
    return false;
  return a.kind === b.kind && a.source === b.source && a.channel === b.channel && gainOf(a) === gainOf(b);
}

/** Frames at the start that two pieces have in common, fades left out. */
function commonStart(a: Piece, b: Piece): number {
  if (!sameStream(a, b) || a.fadeIn || b.fadeIn || a.joint?.frames !== b.joint?.frames) return 0;
  if (a.kind !== 'silence' && b.kind !== 'silence' && a.from !== b.from) return 0;
  return Math.min(a.length - (a.fadeOut?.frames ?? 0), b.length - (b.fadeOut?.frames ?? 0));
}

function commonEnd(a: Piece, b: Piece): number {
  if (!sameStream(a, b) || a.fadeOut || b.fadeOut) return 0;
  if (a.kind !== 'silence' && b.kind !== 'silence' && a.from + a.length !== b.from + b.length) return 0;
  return Math.min(a.length - (a.fadeIn?.frames ?? 0), b.length - (b.fadeIn?.frames ?? 0));
}

/**
 * How many heard frames at the start and at the end two piece lists have in common. Joins reach across: what is compared by it has to stay some way off both
 * edges of the change.
 */
export function commonFrames(
  before: readonly Piece[],
  after: readonly Piece[],
): { head: number; tail: number; before: number; after: number } {
  const [a, b] = [heard(before), heard(after)];
  const shorter = Math.min(a.length, b.length);
  let head = 0;
  let first = 0;
  while (first < shorter && equalPieces(a[first], b[first])) head += a[first++].length;
  if (first < shorter) head += Math.max(0, commonStart(a[first], b[first]));
  let tail = 0;
  let last = 0;
  while (last < shorter - first && equalPieces(a[a.length - 1 - last], b[b.length - 1 - last]))
    tail += a[a.length - 1 - last++].length;
  if (last < shorter - first) tail += Math.max(0, commonEnd(a[a.length - 1 - last], b[b.length - 1 - last]));
  return { head, tail, before: lengthOf(a), after: lengthOf(b) };
}
