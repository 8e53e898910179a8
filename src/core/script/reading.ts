import { clockOf, type Timeline } from '../timeline/timeline';
import { paceOf, wordsIn } from './document';

export interface ReadPart {
  script: readonly { id: string; text: string }[];
  timeline: Timeline;
}

/**
 * The reader's own pace in words a minute, from lines whose reading ends where the next line's begins; null
 * where too little was read.
 */
export function readersPace(parts: readonly ReadPart[], rateHz: number): number | null {
  const read = parts.flatMap(({ script, timeline }) => {
    const clock = clockOf(timeline);
    const texts = new Map(script.map(({ id, text }) => [id, text]));
    const marks = timeline.marks.filter(({ kind }) => kind === 'line').sort((a, b) => a.at - b.at);
    return marks.slice(0, -1).flatMap(({ at, line }, index) => {
      const words = wordsIn(texts.get(line ?? '') ?? '');
      const seconds = (clock.sheetToHeard(marks[index + 1].at) - clock.sheetToHeard(at)) / rateHz;
      return words > 0 && seconds > 0 ? [{ words, seconds }] : [];
    });
  });
  return paceOf(read);
}
