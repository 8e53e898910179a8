import { say } from '@/texts/say';
import type { Range } from '@/core/timeline/range';
import { pieceAround } from '@/core/timeline/joints';
import { markTraits } from '@/core/timeline/markTraits';
import { sheetFramesOf } from '@/core/timeline/timeline';
import { notify } from '../page/notices';
import { select, usePart } from './part';
import { sentencesNear, speechNear } from './sentenceSteps';

export const pieceAroundCaret = (): Range | null => {
  const { timeline, caret } = usePart.getState();
  return pieceAround(timeline, caret);
};

function choose(range: Range | null, nothing: string) {
  if (range && range.to > range.from) select(range.from, range.to);
  else notify('info', nothing);
}

export const selectPiece = () => choose(pieceAroundCaret(), say`There is nothing here to select.`);

/** From the mark before the caret to the one after it; the ends of the sheet count as marks. */
export function selectBetweenMarks(): void {
  const { timeline, caret } = usePart.getState();
  const places = timeline.marks
    .filter(({ kind }) => markTraits[kind].listed)
    .flatMap(({ at, length }) => [at, at + length]);
  const from = Math.max(0, ...places.filter((place) => place <= caret));
  const to = Math.min(sheetFramesOf(timeline), ...places.filter((place) => place > caret));
  choose({ from, to }, say`There is nothing between these marks.`);
}

/**
 * The sentence around the caret, from just before its first word; the next one where the caret stands in a
 * pause, and behind the last one that.
 */
export async function selectSentence(): Promise<void> {
  const { id, caret } = usePart.getState();
  const sentences = await sentencesNear(caret);
  // Who has gone to another part meanwhile wants no selection any more.
  if (usePart.getState().id !== id) return;
  const sentence =
    sentences.find(({ punch, to }) => caret >= punch && caret <= to) ??
    sentences.find(({ from }) => from >= caret) ??
    sentences.at(-1);
  choose(sentence ? { from: sentence.punch, to: sentence.to } : null, say`No sentence was found here.`);
}

/** The pause around the caret: where nobody speaks, from one word to the next. */
export async function pauseAround(): Promise<Range | null> {
  const { caret, timeline } = usePart.getState();
  const speech = await speechNear(caret);
  if (speech.some(({ from, to }) => caret > from && caret < to)) return null;
  const before = speech.filter(({ to }) => to <= caret).pop();
  const after = speech.find(({ from }) => from >= caret);
  const range = { from: before?.to ?? 0, to: after?.from ?? sheetFramesOf(timeline) };
  return range.to > range.from ? range : null;
}

export async function selectPause(): Promise<void> {
  const { id } = usePart.getState();
  const pause = await pauseAround();
  if (usePart.getState().id !== id) return;
  choose(pause, say`The caret stands in a word. Put it between two words.`);
}
