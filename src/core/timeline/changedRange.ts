import { equalPieces, gainOf, sameStream, type Piece } from './pieces';
import { framesOfPieces } from './sounding';

const sameSound = (a: Piece, b: Piece) => sameStream(a, b) && gainOf(a) === gainOf(b);

const sameJoint = (a: Piece, b: Piece) =>
  !a.joint === !b.joint && a.joint?.frames === b.joint?.frames && a.joint?.shape === b.joint?.shape;

/** Frames at the start that two pieces have in common, fades left out. */
function commonStart(a: Piece, b: Piece): number {
  if (!sameSound(a, b) || a.fadeIn || b.fadeIn || !sameJoint(a, b)) return 0;
  if (a.kind !== 'silence' && b.kind !== 'silence' && a.from !== b.from) return 0;
  return Math.min(a.length - (a.fadeOut?.frames ?? 0), b.length - (b.fadeOut?.frames ?? 0));
}

function commonEnd(a: Piece, b: Piece): number {
  if (!sameSound(a, b) || a.fadeOut || b.fadeOut) return 0;
  if (a.kind !== 'silence' && b.kind !== 'silence' && a.from + a.length !== b.from + b.length) return 0;
  return Math.min(a.length - (a.fadeIn?.frames ?? 0), b.length - (b.fadeIn?.frames ?? 0));
}

/**
 * How many frames at the start and at the end two lists of heard pieces have in common. Joins reach across:
 * what is compared by it has to stay the longest join off both edges of the change.
 */
export function commonFrames(
  before: readonly Piece[],
  after: readonly Piece[],
): { head: number; tail: number; before: number; after: number } {
  const [a, b] = [before, after];
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
  return { head, tail, before: framesOfPieces(a), after: framesOfPieces(b) };
}
