import type { Speech } from './voiceActivity';

/**
 * A pause of this length ends a sentence; commas and breaths inside one are shorter (*common practice*,
 * 0.3–0.5 s).
 */
const sentencePauseSeconds = 0.32;
/** A punch stands this long before the first word, or in the middle of a shorter pause. */
const beforeSentenceSeconds = 0.2;

export interface Sentence {
  /** First frame of its first word. */
  from: number;
  to: number;
  /** Where a punch for it belongs: in the pause before it. */
  punch: number;
}

/** Sentences, from stretches of speech in order of time. */
export function sentencesOf(speech: readonly Speech[], rateHz: number): Sentence[] {
  const sentences: Sentence[] = [];
  for (const { from, to } of speech) {
    const last = sentences[sentences.length - 1];
    const pause = from - (last?.to ?? 0);
    if (last && pause < sentencePauseSeconds * rateHz) last.to = to;
    else {
      const before = Math.min(beforeSentenceSeconds * rateHz, pause / 2);
      sentences.push({ from, to, punch: Math.max(0, Math.round(from - before)) });
    }
  }
  return sentences;
}

/**
 * Nobody reacts faster than this: a sentence that began less before the key was pressed is not the one that
 * is meant.
 */
const reactionSeconds = 0.25;

/**
 * Where the sentence that is being read at `head` began, as a punch; `back` sentences further back. The
 * beginning of the range when there are not so many.
 */
export function sentencePunch(
  sentences: readonly Sentence[],
  head: number,
  back: number,
  rateHz: number,
): number {
  const begun = sentences.filter(({ from }) => from <= head - reactionSeconds * rateHz);
  return begun[begun.length - 1 - back]?.punch ?? 0;
}

/** The end of the sentence that `frame` falls into; `frame` itself in a pause. */
export function sentenceEnd(sentences: readonly Sentence[], frame: number): number {
  return sentences.find(({ from, to }) => from < frame && to > frame)?.to ?? frame;
}
