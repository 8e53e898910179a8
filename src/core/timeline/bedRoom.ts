import { overhang } from './bedTime';
import { insertTimes } from './edits';
import { bedsOf } from './mixEdits';
import { sheetFramesOf, type Timeline } from './timeline';

/** Opens as much time at both ends of a part as its beds reach out of it. */
export function makeRoom(timeline: Timeline): Timeline {
  if (bedsOf(timeline).length === 0) return timeline;
  const { before, after } = overhang(timeline);
  return insertTimes(timeline, [
    { at: 0, frames: Math.ceil(before) },
    { at: sheetFramesOf(timeline), frames: Math.ceil(after) },
  ]);
}
