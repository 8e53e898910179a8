import { overhang } from './bedTime';
import { insertTimes } from './edits';
import { isInStep } from './guides';
import { bedsOf } from './mixEdits';
import { sheetFramesOf, type Timeline } from './timeline';

/** Opens as much time at both ends of a part as its beds reach out of it; a part in step keeps its time. */
export function makeRoom(timeline: Timeline): Timeline {
  if (bedsOf(timeline).length === 0 || isInStep(timeline)) return timeline;
  const { before, after } = overhang(timeline);
  return insertTimes(timeline, [
    { at: 0, frames: Math.ceil(before) },
    { at: sheetFramesOf(timeline), frames: Math.ceil(after) },
  ]);
}
