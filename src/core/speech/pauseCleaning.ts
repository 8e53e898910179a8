import type { Range } from '../timeline/range';
import { pausesBetween } from './pauseSounds';
import type { Speech } from './voiceActivity';

/**
 * Words ring on after their end and begin before they are loud: this much beside them is left as it is, in
 * seconds.
 */
const afterWord = 0.12;
const beforeWord = 0.06;
const shortest = 0.1;

/**
 * The stretches of a reading's pauses that room tone can replace: not near words, not breaths. All in frames
 * of one time, `frames` long; breaths in order of time.
 */
export function replaceablePauses(
  speech: readonly Speech[],
  breaths: readonly Range[],
  frames: number,
  rateHz: number,
): Range[] {
  return pausesBetween(speech, frames).flatMap((pause) => {
    let from = pause.from === 0 ? 0 : Math.round(pause.from + afterWord * rateHz);
    const to = pause.to === frames ? frames : Math.round(pause.to - beforeWord * rateHz);
    const parts: Range[] = [];
    for (const breath of breaths) {
      if (breath.to <= from || breath.from >= to) continue;
      parts.push({ from, to: breath.from });
      from = breath.to;
    }
    parts.push({ from, to });
    return parts.filter((part) => part.to - part.from >= shortest * rateHz);
  });
}
