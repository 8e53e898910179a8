import type { Piece } from './pieces';
import { PieceTable } from './pieces';
import type { Mark, TakePlace, Timeline, Track } from './timeline';

/**
 * Edits are pure functions from one timeline to the next; ranges are frames of sheet time. An edit that would change nothing returns
 * the timeline it was given. Edits over time act on every track alike, so that tracks never slip against each other.
 */
export interface Range {
  readonly from: number;
  readonly to: number;
}

/** Every track's table changed by the same function. */
export const mapTables = (
  timeline: Timeline,
  change: (table: PieceTable, track: Track) => PieceTable,
): Timeline => ({
  ...timeline,
  tracks: timeline.tracks.map((track) => ({ ...track, table: change(track.table, track) })),
});

function setStruck(timeline: Timeline, { from, to }: Range, struck: boolean): Timeline {
  const differs = timeline.tracks.some((track) =>
    track.table.slice(from, to).some((piece) => piece.struck !== struck),
  );
  if (!differs) return timeline;
  return mapTables(timeline, (table) =>
    table.replace(
      from,
      to,
      table.slice(from, to).map((piece) => ({ ...piece, struck })),
    ),
  );
}

/** The passage is not to be heard; it keeps its place on the sheet. */
export const strike = (timeline: Timeline, range: Range) => setStruck(timeline, range, true);

/** Lets a struck passage stand again. */
export const stet = (timeline: Timeline, range: Range) => setStruck(timeline, range, false);

/**
 * Removes the time of struck passages inside the range. Flub marks on them go with them; notes, part marks and lines stay,
 * at the joint.
 */
export function closeUp(timeline: Timeline, { from, to }: Range): Timeline {
  const ranges = timeline.tracks[0]?.table.struckRanges(from, to) ?? [];
  let result = timeline;
  for (const range of ranges.reverse()) result = removeTime(result, range);
  return result;
}

/** Takes sheet range [from, to) out of every track; what follows moves up. */
export function removeTime(timeline: Timeline, { from, to }: Range): Timeline {
  if (to <= from) return timeline;
  const shift = (frame: number) => (frame >= to ? frame - (to - from) : Math.min(frame, from));
  const marks: Mark[] = [];
  for (const mark of timeline.marks) {
    const end = mark.at + mark.length;
    const alongside = mark.kind !== 'note' && mark.kind !== 'part' && mark.kind !== 'line';
    if (alongside && mark.at >= from && mark.at < to && end <= to) continue;
    const at = shift(mark.at);
    marks.push({ ...mark, at, length: shift(end) - at });
  }
  const places = timeline.places.flatMap((place) => [
    ...within(place, 0, from),
    ...within(place, to, Infinity).map((rest) => ({ ...rest, at: rest.at - (to - from) })),
  ]);
  return { ...mapTables(timeline, (table) => table.replace(from, to, [])), marks, places };
}

/** What of a place lies in sheet range [from, to): one place or none. */
export function within(place: TakePlace, from: number, to: number): TakePlace[] {
  const start = Math.max(place.at, from);
  const end = Math.min(place.at + place.length, to);
  if (end <= start) return [];
  return [{ ...place, at: start, from: place.from + start - place.at, length: end - start }];
}

export const silence = (length: number): Piece => ({ kind: 'silence', length, struck: false });

/** Opens a gap of silence at a sheet frame, on every track; what follows moves. */
export function insertTime(timeline: Timeline, at: number, length: number): Timeline {
  if (length === 0) return timeline;
  const shift = (frame: number) => (frame >= at ? frame + length : frame);
  return {
    ...mapTables(timeline, (table) => table.replace(at, at, [silence(length)])),
    marks: timeline.marks.map((mark) => {
      const start = shift(mark.at);
      return { ...mark, at: start, length: shift(mark.at + mark.length) - start };
    }),
    places: timeline.places.flatMap((place) => [
      ...within(place, 0, at),
      ...within(place, at, Infinity).map((rest) => ({ ...rest, at: rest.at + length })),
    ]),
  };
}

export const byTime = (a: Mark, b: Mark) => a.at - b.at || (a.id < b.id ? -1 : 1);

export const addMarks = (timeline: Timeline, marks: readonly Mark[]): Timeline =>
  marks.length === 0 ? timeline : { ...timeline, marks: [...timeline.marks, ...marks].sort(byTime) };

export const addMark = (timeline: Timeline, mark: Mark): Timeline => addMarks(timeline, [mark]);

export const removeMark = (timeline: Timeline, id: string): Timeline => ({
  ...timeline,
  marks: timeline.marks.filter((mark) => mark.id !== id),
});

export const renameMark = (timeline: Timeline, id: string, name: string): Timeline =>
  changeMark(timeline, id, { name });

export const changeMark = (
  timeline: Timeline,
  id: string,
  changes: Partial<Pick<Mark, 'at' | 'length' | 'name'>>,
): Timeline => ({
  ...timeline,
  marks: timeline.marks.map((mark) => (mark.id === id ? { ...mark, ...changes } : mark)).sort(byTime),
});
