import { say } from '../../texts/say';
import { ParolaError } from '../base/errors';
import { equalCues, headOf, sameHead, type Cue, type CueHead, type CueSheet } from './cues';
import { sameGuides, type Guide } from './guides';
import { sameMix, sourcesOfBeds, type Mix } from './mix';
import { sameOutput, type Output } from './output';
import { equalPieces, PieceTable, type Piece } from './pieces';
import { equalRanges, type Range } from './range';
import type { Mark, Side, TakePlace, Timeline, Track } from './timeline';

/** One track's pieces differ from `at` on: `removed` were there before, `added` are there after. */
export interface Splice<T> {
  readonly at: number;
  readonly removed: readonly T[];
  readonly added: readonly T[];
}

/** A track in a step that adds, removes or renames one; `pieces` are those it has when it comes or goes. */
export interface StoredTrack {
  readonly id: string;
  readonly name: string;
  readonly side?: Side;
  readonly pieces: readonly Piece[];
}

/** A guide as plain data. */
export interface StoredGuide extends Omit<Guide, 'table'> {
  readonly pieces: readonly Piece[];
}

/**
 * The difference between two timelines as plain data: it can be stored, applied and turned round. `tracks`
 * holds the changes of those that were there before and are there after; `staves` what came, went or was
 * renamed.
 */
export interface Difference {
  readonly tracks: readonly { readonly id: string; readonly pieces: Splice<Piece> }[];
  readonly struck?: Splice<Range> | null;
  readonly marks: Splice<Mark> | null;
  readonly places?: Splice<TakePlace> | null;
  readonly staves?: Splice<StoredTrack> | null;
  readonly output?: { readonly before: Output | null; readonly after: Output | null } | null;
  readonly mix?: { readonly before: Mix | null; readonly after: Mix | null } | null;
  readonly guides?: {
    readonly before: readonly StoredGuide[];
    readonly after: readonly StoredGuide[];
  } | null;
  readonly cues?: Splice<Cue> | null;
  /** Of the cue sheet all but its cues; null for a part without one. */
  readonly cueHead?: { readonly before: CueHead | null; readonly after: CueHead | null } | null;
}

/** A step that can be undone, as stored: `label` completes “Undo …”. */
export interface Step {
  readonly label: string;
  readonly difference: Difference;
}

/**
 * Every source whose audio a step takes away or brings back; none of a step that cannot be read, since it can
 * never be undone or done again.
 */
export function sourcesOfStep(step: Step): Set<string> {
  try {
    const { tracks, staves, guides, mix } = step.difference;
    const pieces = [
      ...[...(guides?.before ?? []), ...(guides?.after ?? [])].flatMap((guide) => guide.pieces),
      ...tracks.flatMap((track) => [...track.pieces.removed, ...track.pieces.added]),
      ...[...(staves?.removed ?? []), ...(staves?.added ?? [])].flatMap((stave) => stave.pieces),
    ];
    return new Set([
      ...pieces.flatMap((piece) => (piece.kind === 'silence' ? [] : [piece.source])),
      ...sourcesOfBeds(mix?.before ?? undefined),
      ...sourcesOfBeds(mix?.after ?? undefined),
    ]);
  } catch {
    return new Set();
  }
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

const equalMarks = (a: Mark, b: Mark) =>
  a === b ||
  (a.id === b.id &&
    a.kind === b.kind &&
    a.at === b.at &&
    a.length === b.length &&
    a.name === b.name &&
    a.line === b.line);

const equalPlaces = (a: TakePlace, b: TakePlace) =>
  a === b ||
  (a.source === b.source &&
    a.channel === b.channel &&
    a.track === b.track &&
    a.at === b.at &&
    a.from === b.from &&
    a.length === b.length);

const equalStaves = (a: StoredTrack, b: StoredTrack) =>
  a.id === b.id && a.name === b.name && a.side === b.side;

const stored = ({ table, ...track }: Track): StoredTrack => ({ ...track, pieces: table.pieces });

const plainGuides = (guides: readonly Guide[]): StoredGuide[] =>
  guides.map(({ table, ...guide }) => ({ ...guide, pieces: table.pieces }));

const storedGuides = ({ guides = [] }: Timeline) => plainGuides(guides);

const loadGuides = (guides: readonly StoredGuide[]): Guide[] =>
  guides.map(({ pieces, ...guide }) => ({ ...guide, table: PieceTable.of(pieces) }));

export function difference(before: Timeline, after: Timeline): Difference {
  const old = new Map(before.tracks.map((track) => [track.id, track]));
  const tracks = after.tracks.flatMap(({ id, table }) => {
    const was = old.get(id);
    const pieces = was && splice(was.table.pieces, table.pieces, equalPieces);
    return pieces ? [{ id, pieces }] : [];
  });
  return {
    tracks,
    struck: splice(before.struck, after.struck, equalRanges),
    marks: splice(before.marks, after.marks, equalMarks),
    places: splice(before.places, after.places, equalPlaces),
    staves: splice(before.tracks.map(stored), after.tracks.map(stored), equalStaves),
    output: sameOutput(before.output, after.output)
      ? null
      : { before: before.output ?? null, after: after.output ?? null },
    mix: sameMix(before.mix, after.mix) ? null : { before: before.mix ?? null, after: after.mix ?? null },
    guides: sameGuides(before.guides, after.guides)
      ? null
      : { before: storedGuides(before), after: storedGuides(after) },
    cues: splice(before.cueSheet?.cues ?? [], after.cueSheet?.cues ?? [], equalCues),
    cueHead: sameHead(before.cueSheet, after.cueSheet)
      ? null
      : {
          before: before.cueSheet ? headOf(before.cueSheet) : null,
          after: after.cueSheet ? headOf(after.cueSheet) : null,
        },
  };
}

export const isEmpty = ({ tracks, ...others }: Difference) =>
  tracks.length === 0 && Object.values(others).every((change) => !change);

const turned = <T>({ at, removed, added }: Splice<T>): Splice<T> => ({ at, removed: added, added: removed });

const turnedOr = <T>(change: Splice<T> | null | undefined) => (change ? turned(change) : null);

/** The difference that undoes `change`. */
export const inverse = (change: Difference): Difference => ({
  tracks: change.tracks.map(({ id, pieces }) => ({ id, pieces: turned(pieces) })),
  struck: turnedOr(change.struck),
  marks: turnedOr(change.marks),
  places: turnedOr(change.places),
  staves: turnedOr(change.staves),
  output: change.output ? { before: change.output.after, after: change.output.before } : null,
  mix: change.mix ? { before: change.mix.after, after: change.mix.before } : null,
  guides: change.guides ? { before: change.guides.after, after: change.guides.before } : null,
  cues: turnedOr(change.cues),
  cueHead: change.cueHead ? { before: change.cueHead.after, after: change.cueHead.before } : null,
});

/** A step does not belong to the timeline it was to be applied to. */
const misfit = () =>
  new ParolaError('damaged-file', say`This step of the history does not fit what is on the sheet.`);

function applySplice<T>(
  list: readonly T[],
  { at, removed, added }: { at: number; removed: { length: number }; added: readonly T[] },
): T[] {
  if (at < 0 || at + removed.length > list.length) throw misfit();
  return [...list.slice(0, at), ...added, ...list.slice(at + removed.length)];
}

/**
 * The timeline after a change. Throws ParolaError `damaged-file` where the change does not fit: a splice
 * beyond a list's end, or a track that is not there.
 */
export function apply(timeline: Timeline, change: Difference): Timeline {
  const splices = new Map(change.tracks.map(({ id, pieces }) => [id, pieces]));
  const tracks = applyStaves(timeline.tracks, change.staves ?? null);
  const known = new Set(tracks.map(({ id }) => id));
  if (change.tracks.some(({ id }) => !known.has(id))) throw misfit();
  const output = change.output ? change.output.after : (timeline.output ?? null);
  const mix = change.mix ? change.mix.after : (timeline.mix ?? null);
  const guides = change.guides ? loadGuides(change.guides.after) : timeline.guides;
  const cueSheet = applyCues(timeline.cueSheet, change);
  return {
    ...(output && { output }),
    ...(mix && { mix }),
    ...(guides && guides.length > 0 && { guides }),
    ...(cueSheet && { cueSheet }),
    tracks: tracks.map((track) => {
      const pieces = splices.get(track.id);
      return pieces ? { ...track, table: PieceTable.of(applySplice(track.table.pieces, pieces)) } : track;
    }),
    struck: change.struck ? applySplice(timeline.struck, change.struck) : timeline.struck,
    marks: change.marks ? applySplice(timeline.marks, change.marks) : timeline.marks,
    places: change.places ? applySplice(timeline.places, change.places) : timeline.places,
  };
}

function applyCues(sheet: CueSheet | undefined, { cues, cueHead }: Difference): CueSheet | undefined {
  const head = cueHead ? cueHead.after : sheet && headOf(sheet);
  const list = cues ? applySplice(sheet?.cues ?? [], cues) : (sheet?.cues ?? []);
  if (!head && list.length > 0) throw misfit();
  return head ? { ...head, cues: list } : undefined;
}

/**
 * Tracks come, go or get other names; one that stays keeps its table, which is told apart in `tracks` of the
 * difference.
 */
function applyStaves(tracks: readonly Track[], staves: Splice<StoredTrack> | null): readonly Track[] {
  if (!staves) return tracks;
  const tables = new Map(tracks.map(({ id, table }) => [id, table]));
  const added = staves.added.map(({ pieces, ...track }) => ({
    ...track,
    table: tables.get(track.id) ?? PieceTable.of(pieces),
  }));
  return applySplice(tracks, { at: staves.at, removed: staves.removed, added });
}
