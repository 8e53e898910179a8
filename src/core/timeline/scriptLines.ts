import { firstIndex } from '../base/search';
import { addMark, removeMarks } from './edits';
import { markTraits } from './markTraits';
import type { Range } from './range';
import { clockOf, sheetFramesOf, type Mark, type Timeline } from './timeline';

/** Where a line of the script was read: from its mark to the next line's, in sheet frames. */
export interface LineReading extends Range {
  readonly markId: string;
  readonly line: string;
}

const isLine = (mark: Mark): mark is Mark & { line: string } => mark.kind === 'line' && !!mark.line;

/** Every reading of every line, in order of time; a part mark ends one as well. */
export function lineReadings(timeline: Timeline): LineReading[] {
  const ends = timeline.marks.filter(({ kind }) => markTraits[kind].endsReading).map(({ at }) => at);
  ends.push(sheetFramesOf(timeline));
  let next = 0;
  return timeline.marks.filter(isLine).map((mark) => {
    while (next < ends.length - 1 && ends[next] <= mark.at) next++;
    return { markId: mark.id, line: mark.line, from: mark.at, to: Math.max(mark.at, ends[next]) };
  });
}

/**
 * What is known of a line: not read; read; read more than once and not yet decided; read, with something
 * marked in it; read, and its text was changed since.
 */
export type LineState = 'unread' | 'read' | 'twice' | 'marked' | 'stale';

export interface LineStatus {
  readonly state: LineState;
  /** Readings of which something is heard. */
  readonly readings: readonly LineReading[];
}

/** A reading counts while at least this share of it is heard: what is left of a struck one is its pause. */
const heardShare = 0.25;

/**
 * The state of each line by its id. `flagged` are sheet ranges with something to look at, besides marks that
 * spoil a reading.
 */
export function lineStates(
  timeline: Timeline,
  lines: readonly { readonly id: string; readonly was?: string }[],
  flagged: readonly Range[] = [],
): ReadonlyMap<string, LineStatus> {
  const clock = clockOf(timeline);
  const readings = new Map<string, LineReading[]>();
  for (const reading of lineReadings(timeline)) {
    const { from, to, line } = reading;
    const sounding = clock.sheetToHeard(to) - clock.sheetToHeard(from);
    if (to <= from || sounding < heardShare * (to - from)) continue;
    const known = readings.get(line);
    if (known) known.push(reading);
    else readings.set(line, [reading]);
  }
  const spoiling = timeline.marks
    .filter(({ kind }) => markTraits[kind].spoilsReading)
    .map(({ at, length }) => ({ from: at, to: at + Math.max(1, length) }))
    .filter((range) => range.to - range.from === 1 || !clock.isAllStruck(range));
  const touches = touchedBy([...spoiling, ...flagged]);
  return new Map(
    lines.map(({ id, was }) => {
      const own = readings.get(id) ?? [];
      const state: LineState =
        own.length === 0
          ? 'unread'
          : was !== undefined
            ? 'stale'
            : own.length > 1
              ? 'twice'
              : own.some(touches)
                ? 'marked'
                : 'read';
      return [id, { state, readings: own }];
    }),
  );
}

/**
 * Whether a range is touched by one of many: they are put in order once, with the furthest end up to each.
 */
function touchedBy(ranges: readonly Range[]): (range: Range) => boolean {
  const sorted = [...ranges].sort((a, b) => a.from - b.from);
  const ends: number[] = [];
  for (const { to } of sorted) ends.push(Math.max(to, ends[ends.length - 1] ?? -Infinity));
  return ({ from, to }) => {
    const before = firstIndex(sorted.length, (i) => sorted[i].from >= to);
    return before > 0 && ends[before - 1] > from;
  };
}

/**
 * Says that a line is read from a sheet frame on; a mark of the same line nearer than `near` frames is moved
 * there.
 */
export function placeLine(timeline: Timeline, line: string, at: number, near: number, id: string): Timeline {
  const others = removeMarks(
    timeline,
    (mark) => isLine(mark) && mark.line === line && Math.abs(mark.at - at) <= near,
  );
  return addMark(others, { id, kind: 'line', at, length: 0, name: '', line });
}

/** Takes every line mark away, or those of one line. */
export const clearLines = (timeline: Timeline, line?: string): Timeline =>
  removeMarks(timeline, (mark) => isLine(mark) && (line === undefined || mark.line === line));
