import { difference, type Step } from './history';
import type { Output } from './output';
import { PieceTable, silence, type Piece } from './pieces';
import { intersection, union, without, type Range } from './range';
import { placeOfPiece, type Mark, type Side, type TakePlace, type Timeline } from './timeline';

/**
 * Timelines from before parts had one clock, when every piece was struck by itself: stored parts, and project
 * files up to version 4. Tracks could slip against each other, since a piece could be struck on one of them
 * only.
 */
export type StruckPiece = Piece & { readonly struck: boolean };

interface StruckTrack {
  readonly id: string;
  readonly name: string;
  readonly side?: Side;
  readonly pieces: readonly StruckPiece[];
}

export interface StruckTimeline {
  readonly tracks: readonly StruckTrack[];
  readonly marks: readonly Mark[];
  readonly places?: readonly TakePlace[];
  readonly output?: Output;
}

interface OldSplice<T> {
  readonly at: number;
  readonly removed: readonly T[];
  readonly added: readonly T[];
}

/** A step of such a timeline's history. */
export interface StruckStep {
  readonly label: string;
  readonly difference: {
    readonly tracks: readonly { readonly id: string; readonly pieces: OldSplice<StruckPiece> }[];
    readonly marks: OldSplice<Mark> | null;
    readonly places?: OldSplice<TakePlace> | null;
    readonly staves?: OldSplice<StruckTrack> | null;
    readonly output?: { readonly before: Output | null; readonly after: Output | null } | null;
  };
}

const lengthOf = (pieces: readonly Piece[]) => pieces.reduce((sum, { length }) => sum + length, 0);

function struckOf(pieces: readonly StruckPiece[]): Range[] {
  const ranges: Range[] = [];
  let at = 0;
  for (const { length, struck } of pieces) {
    if (struck) ranges.push({ from: at, to: at + length });
    at += length;
  }
  return union(ranges);
}

const bare = ({ struck: _struck, ...piece }: StruckPiece): Piece => piece as Piece;

/**
 * The same with one clock: struck is what was struck on every track. What was struck on some only is silent
 * there now, and heard on the others; it stays in the stack of takes. So no track slips, and nothing that was
 * heard is lost.
 */
export function timelineOfStruckPieces({ tracks, marks, places, output }: StruckTimeline): Timeline {
  const end = Math.max(0, ...tracks.map(({ pieces }) => lengthOf(pieces)));
  const own = tracks.map(({ pieces }) => union([...struckOf(pieces), { from: lengthOf(pieces), to: end }]));
  const struck = own.reduce((all, ranges) => intersection(all, ranges), [{ from: 0, to: end }]);
  return {
    tracks: tracks.map(({ pieces, ...track }) => {
      const whole = PieceTable.of([...pieces.map(bare), silence(end - lengthOf(pieces))]);
      const alone = without(struckOf(pieces), struck);
      return {
        ...track,
        table: whole.replaceMany(alone.map(({ from, to }) => ({ from, to, pieces: [silence(to - from)] }))),
      };
    }),
    struck,
    marks,
    places: places ?? placesOf(tracks),
    ...(output && { output }),
  };
}

/** Where nothing was recorded since places exist, the pieces are the places. */
const placesOf = (tracks: readonly StruckTrack[]): TakePlace[] =>
  tracks.flatMap(({ id, pieces }) => {
    let at = 0;
    return pieces.flatMap((piece) => {
      const start = at;
      at += piece.length;
      return piece.kind === 'audio' ? [placeOfPiece(piece, id, start)] : [];
    });
  });

const spliced = <T>(list: readonly T[], { at, removed, added }: OldSplice<T>): T[] => {
  if (at < 0 || at + removed.length > list.length) throw new RangeError('This step does not fit');
  return [...list.slice(0, at), ...added, ...list.slice(at + removed.length)];
};

const turned = <T>({ at, removed, added }: OldSplice<T>): OldSplice<T> => ({
  at,
  removed: added,
  added: removed,
});

/**
 * Lists in which places were not stored yet follow from the pieces; a step that has some begins with those.
 */
function applied(timeline: StruckTimeline, step: StruckStep, back: boolean): StruckTimeline {
  const { difference: change } = step;
  const way = <T>(splice: OldSplice<T>) => (back ? turned(splice) : splice);
  const before = new Map(timeline.tracks.map((track) => [track.id, track]));
  const staves = change.staves ? spliced(timeline.tracks, way(change.staves)) : timeline.tracks;
  const pieces = new Map(change.tracks.map(({ id, pieces: splice }) => [id, way(splice)]));
  const output = change.output
    ? ((back ? change.output.before : change.output.after) ?? undefined)
    : timeline.output;
  return {
    tracks: staves.map((track) => {
      const here = { ...track, pieces: before.get(track.id)?.pieces ?? track.pieces };
      const splice = pieces.get(track.id);
      return splice ? { ...here, pieces: spliced(here.pieces, splice) } : here;
    }),
    marks: change.marks ? spliced(timeline.marks, way(change.marks)) : timeline.marks,
    places: change.places
      ? spliced(timeline.places ?? placesOf(timeline.tracks), way(change.places))
      : timeline.places,
    output,
  };
}

/**
 * The history with one clock: every state it goes through is converted, and the steps told anew. Steps that
 * do not fit their timeline are left out with all beyond them; `historyAt` counts those that stay before the
 * present state.
 */
export function historyOfStruckPieces(
  present: StruckTimeline,
  steps: readonly StruckStep[],
  historyAt: number,
): { steps: Step[]; historyAt: number } {
  const now = timelineOfStruckPieces(present);
  const walk = (list: readonly StruckStep[], back: boolean): Step[] => {
    const told: Step[] = [];
    let old = present;
    let here = now;
    for (const step of list) {
      try {
        old = applied(old, step, back);
        const there = timelineOfStruckPieces(old);
        const change = back ? difference(there, here) : difference(here, there);
        told.push({ label: step.label, difference: change });
        here = there;
      } catch {
        break;
      }
    }
    return told;
  };
  const undone = walk(steps.slice(0, historyAt).reverse(), true).reverse();
  return { steps: [...undone, ...walk(steps.slice(historyAt), false)], historyAt: undone.length };
}
