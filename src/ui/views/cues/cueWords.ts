import { decimal, say } from '@/texts/say';
import type { TakeFigures } from '@/state/recording/cueFigures';
import type { CueState } from '@/core/timeline/cueState';

export const cueStateNames: Readonly<Record<CueState, string>> = {
  toDo: say`to do`,
  recorded: say`recorded`,
  done: say`done`,
};

/** Less than that nobody hears. */
const nothingSeconds = 0.02;
/** Lengths are told in tenths of a second. */
const leastLongSeconds = 0.05;

/** How a take lies, in words: “60 ms late”, “0.2 s too long”. */
export function tellFigures({ late, long }: TakeFigures): string[] {
  const ms = Math.round(Math.abs(late) * 1000);
  return [
    Math.abs(late) < nothingSeconds ? say`on time` : `${ms} ms ${late > 0 ? say`late` : say`early`}`,
    Math.abs(long) < leastLongSeconds
      ? ''
      : say`${decimal(Math.abs(long), 1)} s too ${long > 0 ? say`long` : say`short`}`,
  ].filter(Boolean);
}
