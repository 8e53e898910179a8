import { assert } from '../base/errors';
import { PieceTable, type Piece } from './pieces';
import type { Mark, Timeline } from './timeline';

/** One track's pieces differ from `at` on: `removed` were there before, `added` are there after. */
export interface Splice<T> {
  readonly at: number;
  readonly removed: readonly T[];
  readonly added: readonly T[];
}

/** The difference between two timelines with the same tracks, as plain data: it can be stored, applied and turned round. */
export interface Difference {
  readonly tracks: readonly { readonly id: string; readonly pieces: Splice<Piece> }[];
  readonly marks: Splice<Mark> | null;
}

/** A step that can be undone, as stored: `label` completes “Undo …”. */
export interface Step {
  readonly label: string;
  readonly difference: Difference;
}

function splice<T>(
  before: readonly T[],
  after: readonly T[],
  equal: (a: T, b: T) => boolean,
): Splice<T> | null {
  const shorter = Math.min(before.length, after.length);
  let head = 0;
  while (head < shorter && equal(before[head], after[head])) head++;
  if (head === before.length && head === after.length) return null;
  let tail = 0;
  while (tail < shorter - head && equal(before[before.length - 1 - tail], after[after.length - 1 - tail])) {
    tail++;
  }
  return {
    at: head,
    removed: before.slice(head, before.length - tail),
    added: after.slice(head, after.length - tail),
  };
}

function equalPieces(a: Piece, b: Piece): boolean {
  if (a === b) return true;
  if (a.length !== b.length || a.struck !== b.struck) return false;
  if (a.kind === 'silence' || b.kind === 'silence') return a.kind === b.kind;
  return a.source === b.source && a.channel === b.channel && a.from === b.from && a.gainDb === b.gainDb;
}

const equalMarks = (a: Mark, b: Mark) =>
  a === b ||
  (a.id === b.id && a.kind === b.kind && a.at === b.at && a.length === b.length && a.name === b.name);

export function difference(before: Timeline, after: Timeline): Difference {
  const tracks = after.tracks.flatMap((track, index) => {
    const old = before.tracks[index];
    assert(old?.id === track.id, 'an edit keeps the tracks');
    const pieces = splice(old.table.pieces, track.table.pieces, equalPieces);
    return pieces ? [{ id: track.id, pieces }] : [];
  });
  return { tracks, marks: splice(before.marks, after.marks, equalMarks) };
}

export const isEmpty = (change: Difference) => change.tracks.length === 0 && change.marks === null;

const turned = <T>({ at, removed, added }: Splice<T>): Splice<T> => ({ at, removed: added, added: removed });

/** The difference that undoes `change`. */
export const inverse = (change: Difference): Difference => ({
  tracks: change.tracks.map(({ id, pieces }) => ({ id, pieces: turned(pieces) })),
  marks: change.marks && turned(change.marks),
});

const applySplice = <T>(list: readonly T[], { at, removed, added }: Splice<T>): T[] => [
  ...list.slice(0, at),
  ...added,
  ...list.slice(at + removed.length),
];

export function apply(timeline: Timeline, change: Difference): Timeline {
  const splices = new Map(change.tracks.map(({ id, pieces }) => [id, pieces]));
  return {
    tracks: timeline.tracks.map((track) => {
      const pieces = splices.get(track.id);
      return pieces ? { ...track, table: PieceTable.of(applySplice(track.table.pieces, pieces)) } : track;
    }),
    marks: change.marks ? applySplice(timeline.marks, change.marks) : timeline.marks,
  };
}
