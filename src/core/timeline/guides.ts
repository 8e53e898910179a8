import { closeUp, mapTables } from './edits';
import { withoutStrip } from './mixEdits';
import { PieceTable, samePieces, silence, type Piece } from './pieces';
import { without } from './range';
import { heardFramesOf, sheetFramesOf, type Timeline } from './timeline';
import { padTo } from './tracks';

/**
 * Something to hear while recording: a statement to interpret, another actor's lines. It is no voice: it is
 * never measured, and written only where a delivery asks for it. Unless it is free, the part is *in step*
 * with it: its time is the guide's.
 */
export interface Guide {
  readonly id: string;
  readonly name: string;
  /** Sheet time; it may end before the sheet does. */
  readonly table: PieceTable;
  /** The part has let go of step: its time can be edited, and the guide goes with it. */
  readonly free?: true;
}

type Guided = Pick<Timeline, 'guides'>;

export const guidesOf = ({ guides = [] }: Guided): readonly Guide[] => guides;

/** The time of the part is that of a guide. */
export const isInStep = (timeline: Guided) => guidesOf(timeline).some(({ free }) => !free);

export const sameGuides = (a: Guided['guides'] = [], b: Guided['guides'] = []): boolean =>
  a === b ||
  (a.length === b.length &&
    a.every(
      (guide, index) =>
        guide.id === b[index].id &&
        guide.name === b[index].name &&
        guide.free === b[index].free &&
        samePieces(guide.table.pieces, b[index].table.pieces),
    ));

function withGuides(timeline: Timeline, guides: readonly Guide[]): Timeline {
  const next: Timeline = { ...timeline, guides };
  if (guides.length === 0) delete (next as { guides?: unknown }).guides;
  return next;
}

/** What is struck goes: in a part in step every moment of the guide is heard. */
const closedUp = (timeline: Timeline) => closeUp(timeline, { from: 0, to: sheetFramesOf(timeline) });

/**
 * Adds a guide that begins at sheet frame `at`; from now on the part is in step with it. What was struck is
 * closed up first; voices that end earlier go on, silent, to its end.
 */
export function addGuide(
  timeline: Timeline,
  { id, name, pieces }: { id: string; name: string; pieces: readonly Piece[] },
  at = 0,
): Timeline {
  const closed = closedUp(timeline);
  const table = PieceTable.of([...(at > 0 ? [silence(at)] : []), ...pieces]);
  return withGuides(padTo(closed, table.frames), [...guidesOf(closed), { id, name, table }]);
}

/** Takes a guide away; the time of the part stays as it is. */
export const removeGuide = (timeline: Timeline, id: string): Timeline =>
  withGuides(
    withoutStrip(timeline, id),
    guidesOf(timeline).filter((guide) => guide.id !== id),
  );

const changeGuide = (timeline: Timeline, id: string, change: (guide: Guide) => Guide): Timeline =>
  withGuides(
    timeline,
    guidesOf(timeline).map((guide) => (guide.id === id ? change(guide) : guide)),
  );

export const renameGuide = (timeline: Timeline, id: string, name: string): Timeline =>
  changeGuide(timeline, id, (guide) => ({ ...guide, name }));

/** The part's time can be edited again; the guide goes with it. */
export const letGo = (timeline: Timeline, id: string): Timeline =>
  changeGuide(timeline, id, (guide) => ({ ...guide, free: true }));

/** The part keeps its time as it is now; what is struck is closed up. */
export const takeUpStep = (timeline: Timeline, id: string): Timeline =>
  changeGuide(closedUp(timeline), id, ({ free: _, ...guide }) => guide);

/**
 * The one rule of parts in step: what an edit may do to one. Null where it would move time against the guide.
 * What it strikes falls silent on every voice instead, and its time stays.
 */
export function keepStep(before: Timeline, after: Timeline): Timeline | null {
  if (!isInStep(before) || !isInStep(after)) return after;
  const tables = new Map(guidesOf(after).map(({ id, table }) => [id, table]));
  for (const { id, table } of guidesOf(before)) {
    const now = tables.get(id);
    if (now && now !== table && !samePieces(now.pieces, table.pieces)) return null;
  }
  const end = Math.max(...guidesOf(after).map(({ table }) => table.frames));
  if (sheetFramesOf(after) < Math.min(end, sheetFramesOf(before))) return null;
  const struck = without(after.struck, before.struck);
  if (struck.length === 0) return after;
  const silenced = mapTables(after, (table) =>
    struck.reduce((result, { from, to }) => result.replace(from, to, [silence(to - from)]), table),
  );
  return { ...silenced, struck: before.struck };
}

/** Frames that a file of the part has: none while there is nothing but a guide to hear. */
export const writtenFramesOf = (timeline: Timeline): number =>
  guidesOf(timeline).length > 0 && timeline.tracks.every(({ table }) => recordedEnd(table) === 0)
    ? 0
    : heardFramesOf(timeline);

/** Where the last recording on any of these tracks ends; 0 where there is none. */
export const recordedTo = (timeline: Timeline, trackIds: ReadonlySet<string>): number =>
  Math.max(0, ...timeline.tracks.filter(({ id }) => trackIds.has(id)).map(({ table }) => recordedEnd(table)));

function recordedEnd({ pieces, frames }: PieceTable): number {
  let end = frames;
  for (let i = pieces.length - 1; i >= 0 && pieces[i].kind !== 'audio'; i--) end -= pieces[i].length;
  return end;
}

/**
 * Cuts a reading back to `at`: what these tracks have from there on is not heard, and its time stays. The
 * same timeline where they have nothing recorded there.
 */
export function cutBack(timeline: Timeline, at: number, trackIds: ReadonlySet<string>): Timeline {
  const to = recordedTo(timeline, trackIds);
  if (to <= at) return timeline;
  return mapTables(timeline, (table, { id }) =>
    trackIds.has(id) && recordedEnd(table) > at ? table.replace(at, to, [silence(to - at)]) : table,
  );
}
