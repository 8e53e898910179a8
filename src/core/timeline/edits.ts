import { markTraits } from './markTraits';
import { PieceTable } from './pieces';
import { equalRanges, isIn, union, without, type Range } from './range';
import { byTime, changeTime, TimeChange } from './timeChange';
import { clockOf, sheetFramesOf, type Mark, type TakePlace, type Timeline, type Track } from './timeline';

/**
 * Edits are pure functions from one timeline to the next; ranges are frames of sheet time. An edit that would
 * change nothing returns the timeline it was given. Time belongs to the part: what is struck, removed or
 * opened is so on every track alike.
 */

/** Every track's table changed by the same function. */
export const mapTables = (
  timeline: Timeline,
  change: (table: PieceTable, track: Track) => PieceTable,
): Timeline => ({
  ...timeline,
  tracks: timeline.tracks.map((track) => ({ ...track, table: change(track.table, track) })),
});

function withStruck(timeline: Timeline, struck: readonly Range[]): Timeline {
  const before = timeline.struck;
  const same = before.length === struck.length && struck.every((range, i) => equalRanges(range, before[i]));
  return same ? timeline : { ...timeline, struck };
}

function checked(timeline: Timeline, range: Range): Range {
  const end = sheetFramesOf(timeline);
  if (!(range.from >= 0 && range.from <= range.to && range.to <= end))
    throw new RangeError(`Frames ${range.from} to ${range.to} are not inside 0 to ${end}`);
  return range;
}

const onSheet = (timeline: Timeline, ranges: readonly Range[]): Range[] => {
  const end = sheetFramesOf(timeline);
  return union(ranges.map(({ from, to }) => ({ from: Math.max(0, from), to: Math.min(end, to) })));
};

/** These passages are not to be heard; they keep their places on the sheet. */
export const strikeAll = (timeline: Timeline, ranges: readonly Range[]): Timeline =>
  withStruck(timeline, union([...timeline.struck, ...onSheet(timeline, ranges)]));

/** The passage is not to be heard; it keeps its place on the sheet. Throws RangeError outside the sheet. */
export const strike = (timeline: Timeline, range: Range) => strikeAll(timeline, [checked(timeline, range)]);

/** Lets what is struck in these ranges stand again. */
export const stetAll = (timeline: Timeline, ranges: readonly Range[]): Timeline =>
  withStruck(timeline, without(timeline.struck, union(ranges)));

/** Lets a struck passage stand again. Throws RangeError outside the sheet. */
export const stet = (timeline: Timeline, range: Range) => stetAll(timeline, [checked(timeline, range)]);

/** The change of time that takes struck passages inside the range out; null where nothing is struck. */
export function closingUp(timeline: Timeline, range: Range): TimeChange | null {
  const ranges = clockOf(timeline).struckIn(range);
  return ranges.length > 0 ? TimeChange.remove(ranges, sheetFramesOf(timeline)) : null;
}

/** Removes the time of struck passages inside the range; what was about them goes with them. */
export function closeUp(timeline: Timeline, range: Range): Timeline {
  const change = closingUp(timeline, range);
  return change ? changeTime(timeline, change) : timeline;
}

/** Takes sheet range [from, to) out of every track; what follows moves up. */
export const removeTime = (timeline: Timeline, range: Range): Timeline =>
  range.to <= range.from
    ? timeline
    : changeTime(timeline, TimeChange.remove([range], sheetFramesOf(timeline)));

/** Opens gaps of silence at sheet frames (in order of time), on every track; what follows moves. */
export function insertTimes(timeline: Timeline, gaps: readonly { at: number; frames: number }[]): Timeline {
  const opened = gaps.filter(({ frames }) => frames > 0);
  return opened.length === 0
    ? timeline
    : changeTime(timeline, TimeChange.open(opened, sheetFramesOf(timeline)));
}

/** Opens a gap of silence at a sheet frame, on every track; what follows moves. */
export const insertTime = (timeline: Timeline, at: number, frames: number): Timeline =>
  insertTimes(timeline, [{ at, frames }]);

/** What of a place lies in sheet range [from, to): one place or none. */
export function within(place: TakePlace, from: number, to: number): TakePlace[] {
  const start = Math.max(place.at, from);
  const end = Math.min(place.at + place.length, to);
  if (end <= start) return [];
  return [{ ...place, at: start, from: place.from + start - place.at, length: end - start }];
}

// — Marks —

const withMarks = (timeline: Timeline, marks: readonly Mark[]): Timeline => ({
  ...timeline,
  marks: [...marks].sort(byTime),
});

export const addMarks = (timeline: Timeline, marks: readonly Mark[]): Timeline =>
  marks.length === 0 ? timeline : withMarks(timeline, [...timeline.marks, ...marks]);

export const addMark = (timeline: Timeline, mark: Mark): Timeline => addMarks(timeline, [mark]);

/** Without the marks a test names; the same timeline where there are none. */
export function removeMarks(timeline: Timeline, gone: (mark: Mark) => boolean): Timeline {
  const marks = timeline.marks.filter((mark) => !gone(mark));
  return marks.length === timeline.marks.length ? timeline : { ...timeline, marks };
}

export const removeMark = (timeline: Timeline, id: string): Timeline =>
  removeMarks(timeline, (mark) => mark.id === id);

export const changeMark = (
  timeline: Timeline,
  id: string,
  changes: Partial<Pick<Mark, 'at' | 'length' | 'name'>>,
): Timeline =>
  withMarks(
    timeline,
    timeline.marks.map((mark) => (mark.id === id ? { ...mark, ...changes } : mark)),
  );

export const renameMark = (timeline: Timeline, id: string, name: string): Timeline =>
  changeMark(timeline, id, { name });

/** Removes the marks that are about the reading inside a range, but for those named. */
export const removeReadingMarks = (timeline: Timeline, range: Range, kept: ReadonlySet<string>): Timeline =>
  removeMarks(
    timeline,
    ({ id, kind, at, length }) =>
      markTraits[kind].goesWithReading && isIn(range, at) && at + length <= range.to && !kept.has(id),
  );
