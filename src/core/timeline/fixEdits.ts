import { insertTime, mapTables, strike, type Range } from './edits';
import { fillGaps, patchTone, type ToneOf } from './roomEdits';
import type { PieceTable } from './pieces';
import { heardFramesOf, type Timeline } from './timeline';

/** Changes of what is heard at the ends or in holes, in frames of heard time. */
export interface SoundFix {
  /** Frames to add (room tone) or, negative, to strike at the start and at the end. */
  readonly head: number;
  readonly tail: number;
  /** Digital silence to be filled with room tone. */
  readonly holes: readonly Range[];
}

/** The pieces of sheet time in which heard range [from, to) stands: struck passages cut it. */
export function sheetRangesOf(table: PieceTable, { from, to }: Range): Range[] {
  const ranges: Range[] = [];
  for (let at = Math.max(0, from); at < Math.min(to, table.heardFrames);) {
    const index = table.indexAtHeard(at);
    const end = Math.min(to, table.heardStartOf(index + 1));
    const sheet = table.sheetStartOf(index) + at - table.heardStartOf(index);
    const last = ranges[ranges.length - 1];
    if (last?.to === sheet) ranges[ranges.length - 1] = { from: last.from, to: sheet + end - at };
    else ranges.push({ from: sheet, to: sheet + end - at });
    at = end;
  }
  return ranges;
}

/** Head and tail made longer or shorter, holes filled: later places first, so that earlier ones keep their times. */
export function applySoundFix(timeline: Timeline, { head, tail, holes }: SoundFix, toneOf: ToneOf): Timeline {
  const heard = heardFramesOf(timeline);
  const [{ table }] = timeline.tracks;
  let result = timeline;
  if (tail > 0) {
    const [last] = sheetRangesOf(table, { from: heard - 1, to: heard });
    result = insertTime(result, last.to, tail);
  } else if (tail < 0) result = strikeHeard(result, { from: heard + tail, to: heard });
  for (const hole of [...holes].reverse()) result = fillHole(result, hole, toneOf);
  if (head > 0) {
    const [first] = sheetRangesOf(table, { from: 0, to: 1 });
    result = insertTime(result, first.from, head);
  } else if (head < 0) result = strikeHeard(result, { from: 0, to: -head });
  return fillGaps(result, toneOf);
}

const strikeHeard = (timeline: Timeline, range: Range) =>
  sheetRangesOf(timeline.tracks[0].table, range).reduce((result, part) => strike(result, part), timeline);

/** Room tone of one track is enough: two of them would be louder than the room. */
function fillHole(timeline: Timeline, hole: Range, toneOf: ToneOf): Timeline {
  const track = timeline.tracks.find(({ id }) => toneOf(id));
  if (!track) return timeline;
  return sheetRangesOf(track.table, hole).reduce(
    (result, range) => patchTone(result, range, toneOf, 0, new Set([track.id])),
    timeline,
  );
}

/** Takes room tone, gain and everything else as they are; only gain, offset and ceiling of the part are others. */
export const withOutput = (timeline: Timeline, output: Timeline['output']): Timeline => {
  const { output: _before, ...rest } = mapTables(timeline, (table) => table);
  return output ? { ...rest, output } : rest;
};
