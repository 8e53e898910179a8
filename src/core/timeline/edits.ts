import type { Piece } from './pieces';
import { PieceTable } from './pieces';
import { sheetFramesOf, type Mark, type Timeline, type Track } from './timeline';

/**
 * Edits are pure functions from one timeline to the next; ranges are frames of sheet time. An edit that would change nothing returns
 * the timeline it was given. Edits over time act on every track alike, so that tracks never slip against each other.
 */
export interface Range {
  readonly from: number;
  readonly to: number;
}

const mapTables = (
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
 * Removes the time of struck passages inside the range. Flub marks on them go with them; notes and part marks stay,
 * at the joint.
 */
export function closeUp(timeline: Timeline, { from, to }: Range): Timeline {
  const ranges = timeline.tracks[0]?.table.struckRanges(from, to) ?? [];
  let result = timeline;
  for (const range of ranges.reverse()) result = removeTime(result, range);
  return result;
}

function removeTime(timeline: Timeline, { from, to }: Range): Timeline {
  const shift = (frame: number) => (frame >= to ? frame - (to - from) : Math.min(frame, from));
  const marks: Mark[] = [];
  for (const mark of timeline.marks) {
    const end = mark.at + mark.length;
    if (mark.kind === 'flub' && mark.at >= from && mark.at < to && end <= to) continue;
    const at = shift(mark.at);
    marks.push({ ...mark, at, length: shift(end) - at });
  }
  return { ...mapTables(timeline, (table) => table.replace(from, to, [])), marks };
}

/**
 * Appends a recording: `recorded` gives the pieces of each track that was recorded (all equally long), the others get
 * silence for that time.
 */
export function appendRecording(
  timeline: Timeline,
  recorded: ReadonlyMap<string, readonly Piece[]>,
): Timeline {
  const end = sheetFramesOf(timeline);
  const lengths = [...recorded.values()].map((pieces) =>
    pieces.reduce((sum, piece) => sum + piece.length, 0),
  );
  const longest = Math.max(0, ...lengths);
  return mapTables(timeline, (table, track) => {
    const pieces = recorded.get(track.id) ?? [];
    const length = pieces.reduce((sum, piece) => sum + piece.length, 0);
    const gap: Piece = { kind: 'silence', length: end - table.sheetFrames, struck: false };
    const rest: Piece = { kind: 'silence', length: longest - length, struck: false };
    return table.replace(table.sheetFrames, table.sheetFrames, [gap, ...pieces, rest]);
  });
}

const byTime = (a: Mark, b: Mark) => a.at - b.at || (a.id < b.id ? -1 : 1);

export const addMark = (timeline: Timeline, mark: Mark): Timeline => ({
  ...timeline,
  marks: [...timeline.marks, mark].sort(byTime),
});

export const removeMark = (timeline: Timeline, id: string): Timeline => ({
  ...timeline,
  marks: timeline.marks.filter((mark) => mark.id !== id),
});

export const renameMark = (timeline: Timeline, id: string, name: string): Timeline => ({
  ...timeline,
  marks: timeline.marks.map((mark) => (mark.id === id ? { ...mark, name } : mark)),
});
