import { insertTime, strikeAll } from './edits';
import type { Range } from './range';
import { fillGaps, patchTone, type ToneOf } from './roomEdits';
import { clockOf, heardFramesOf, type Timeline } from './timeline';

/** Changes of what is heard at the ends or in holes, in frames of heard time. */
export interface SoundFix {
  /** Frames to add (room tone) or, negative, to strike at the start and at the end. */
  readonly head: number;
  readonly tail: number;
  /** Digital silence to be filled with room tone. */
  readonly holes: readonly Range[];
}

/**
 * Head and tail made longer or shorter, holes filled: later places first, so that earlier ones keep their
 * times.
 */
export function applySoundFix(timeline: Timeline, { head, tail, holes }: SoundFix, toneOf: ToneOf): Timeline {
  const clock = clockOf(timeline);
  const heard = heardFramesOf(timeline);
  let result = timeline;
  if (tail > 0) {
    const [last] = clock.sheetRangesOf({ from: heard - 1, to: heard });
    result = insertTime(result, last.to, tail);
  } else if (tail < 0) result = strikeHeard(result, { from: heard + tail, to: heard });
  for (const hole of [...holes].reverse()) result = fillHole(result, hole, toneOf);
  if (head > 0) {
    const [first] = clock.sheetRangesOf({ from: 0, to: 1 });
    result = insertTime(result, first.from, head);
  } else if (head < 0) result = strikeHeard(result, { from: 0, to: -head });
  return fillGaps(result, toneOf);
}

const strikeHeard = (timeline: Timeline, range: Range) =>
  strikeAll(timeline, clockOf(timeline).sheetRangesOf(range));

/** Room tone of one track is enough: two of them would be louder than the room. */
function fillHole(timeline: Timeline, hole: Range, toneOf: ToneOf): Timeline {
  const track = timeline.tracks.find(({ id }) => toneOf(id));
  if (!track) return timeline;
  return clockOf(timeline)
    .sheetRangesOf(hole)
    .reduce((result, range) => patchTone(result, range, toneOf, 0, new Set([track.id])), timeline);
}

/**
 * Only gain, offset and ceiling of the part are others; without an output it sounds as it was recorded and
 * edited.
 */
export const withOutput = ({ output: _before, ...rest }: Timeline, output: Timeline['output']): Timeline =>
  output ? { ...rest, output } : rest;
