import type { TakeFigures } from '@/state/recording/cueFigures';
import type { CueState } from '@/core/timeline/cueState';

export const cueStateNames: Readonly<Record<CueState, string>> = {
  toDo: 'to do',
  recorded: 'recorded',
  done: 'done',
};

/** Less than that nobody hears. */
const nothingSeconds = 0.02;
/** Lengths are told in tenths of a second. */
const leastLongSeconds = 0.05;

/** How a take lies, in words: “60 ms late”, “0.2 s too long”. */
export function tellFigures({ late, long }: TakeFigures): string[] {
  const ms = Math.round(Math.abs(late) * 1000);
  return [
    Math.abs(late) < nothingSeconds ? 'on time' : `${ms} ms ${late > 0 ? 'late' : 'early'}`,
    Math.abs(long) < leastLongSeconds
      ? ''
      : `${Math.abs(long).toFixed(1)} s too ${long > 0 ? 'long' : 'short'}`,
  ].filter(Boolean);
}
