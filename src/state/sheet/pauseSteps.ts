import { findPauses } from '@/core/speech/pauses';
import { peakFrames } from '@/core/timeline/peaks';
import { setCaret, usePart } from './part';
import { focusedTable } from './staveFocus';
import { rateOfProject } from '../project/openProject';
import { meanSquares } from '../pictures/sheetLevels';

const lookSeconds = 60;
const shortestPauseSeconds = 0.15;
/** The caret stands this long before the word that follows, or in the middle of a shorter pause. */
const beforeWordSeconds = 0.1;

/**
 * Moves the caret to the previous or next pause, looking a minute far; to that distance when there is none.
 */
export async function stepToPause(direction: -1 | 1): Promise<void> {
  const { timeline, caret } = usePart.getState();
  const rate = rateOfProject();
  const table = focusedTable(timeline);
  const reach = lookSeconds * rate;
  const from = Math.max(0, direction < 0 ? caret - reach : caret);
  const to = Math.min(table.frames, direction < 0 ? caret : caret + reach);
  const levels = await meanSquares(table, from, to);
  const places = findPauses(levels, (shortestPauseSeconds * rate) / peakFrames).map((pause) => {
    const end = from + pause.to * peakFrames;
    const length = (pause.to - pause.from) * peakFrames;
    return Math.round(end - Math.min(beforeWordSeconds * rate, length / 2));
  });
  const tolerance = 0.02 * rate;
  const found =
    direction < 0
      ? places.filter((place) => place < caret - tolerance).pop()
      : places.find((place) => place > caret + tolerance);
  if (usePart.getState().timeline === timeline) setCaret(found ?? (direction < 0 ? from : to));
}
