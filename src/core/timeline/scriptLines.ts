import type { Range } from './edits';
import { sheetFramesOf, type Mark, type Timeline } from './timeline';

/** Where a line of the script was read: from its mark to the next line's, in sheet frames. */
export interface LineReading extends Range {
  readonly markId: string;
  readonly line: string;
}

const isLine = (mark: Mark): mark is Mark & { line: string } => mark.kind === 'line' && !!mark.line;

/** Every reading of every line, in order of time; a part mark ends one as well. */
export function lineReadings(timeline: Timeline): LineReading[] {
  const end = sheetFramesOf(timeline);
  const ends = timeline.marks.filter(({ kind }) => kind === 'line' || kind === 'part').map(({ at }) => at);
  return timeline.marks.filter(isLine).map((mark) => ({
    markId: mark.id,
    line: mark.line,
    from: mark.at,
    to: ends.find((at) => at > mark.at) ?? end,
  }));
}

/** What is known of a line: not read; read; read more than once and not yet decided; read, with something marked in it. */
export type LineState = 'unread' | 'read' | 'twice' | 'marked';

export interface LineStatus {
  readonly state: LineState;
  /** Readings of which something is heard. */
  readonly readings: readonly LineReading[];
}

/** A reading counts while at least this share of it is heard: what is left of a struck one is its pause. */
const heardShare = 0.25;

/** The state of each line by its id. `flagged` are sheet ranges with something to look at, besides flub marks. */
export function lineStates(
  timeline: Timeline,
  lines: readonly { readonly id: string }[],
  flagged: readonly Range[] = [],
): ReadonlyMap<string, LineStatus> {
  const table = timeline.tracks[0]?.table;
  const heard = table
    ? lineReadings(timeline).filter(({ from, to }) => {
        const sounding = table.sheetToHeard(to) - table.sheetToHeard(from);
        return to > from && sounding >= heardShare * (to - from);
      })
    : [];
  const flubs = timeline.marks
    .filter(({ kind }) => kind === 'flub' || kind === 'clipped' || kind === 'faint')
    .map(({ at, length }) => ({ from: at, to: at + Math.max(1, length) }))
    .filter(
      ({ from, to }) => table && (table.sheetToHeard(to) > table.sheetToHeard(from) || to - from === 1),
    );
  const all = [...flubs, ...flagged];
  return new Map(
    lines.map(({ id }) => {
      const readings = heard.filter(({ line }) => line === id);
      const touched = readings.some(({ from, to }) => all.some((one) => one.from < to && one.to > from));
      const state: LineState =
        readings.length === 0 ? 'unread' : readings.length > 1 ? 'twice' : touched ? 'marked' : 'read';
      return [id, { state, readings }];
    }),
  );
}

/** Says that a line is read from a sheet frame on; a mark of the same line nearer than `near` frames is moved there. */
export function placeLine(timeline: Timeline, line: string, at: number, near: number, id: string): Timeline {
  const others = timeline.marks.filter(
    (mark) => !(isLine(mark) && mark.line === line && Math.abs(mark.at - at) <= near),
  );
  const mark: Mark = { id, kind: 'line', at, length: 0, name: '', line };
  return { ...timeline, marks: [...others, mark].sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1)) };
}

/** Takes every line mark away, or those of one line. */
export const clearLines = (timeline: Timeline, line?: string): Timeline => {
  const marks = timeline.marks.filter(
    (mark) => !(isLine(mark) && (line === undefined || mark.line === line)),
  );
  return marks.length === timeline.marks.length ? timeline : { ...timeline, marks };
};
