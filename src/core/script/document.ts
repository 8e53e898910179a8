/** A text that is to be read aloud, as it was found in a file. */
export interface Chapter {
  /** Empty where it has none. */
  name: string;
  /** Paragraphs, with a blank line between them. */
  text: string;
}

/** Chapters in their order; one without a name where the file has none. */
export interface ScriptDocument {
  chapters: Chapter[];
}

/** Without chapters that have no words, and without white space around names. */
export function tidied(chapters: readonly Chapter[]): ScriptDocument {
  return {
    chapters: chapters
      .map(({ name, text }) => ({ name: name.replace(/\s+/g, ' ').trim(), text: text.trim() }))
      .filter(({ text }) => text !== ''),
  };
}

/** All chapters as one text, each under its name. */
export const wholeText = ({ chapters }: ScriptDocument): string =>
  chapters.map(({ name, text }) => (name ? `${name}\n\n${text}` : text)).join('\n\n');

/** What is counted as a word: letters or digits, with apostrophes and hyphens inside (UAX #29, roughly). */
export const wordsIn = (text: string): number =>
  text.match(/[\p{L}\p{N}]+(?:(?:['’\-‐]|(?<=\p{N})[.,])[\p{L}\p{N}]+)*/gu)?.length ?? 0;

/** *Common practice*: an audiobook has 9,000 to 9,400 words an hour. */
export const usualWordsPerMinute = 155;
/** With fewer words than this nobody's pace is known. */
const leastWords = 60;

/**
 * The pace of a reader in words a minute, from what was read in how many seconds; null where that is too
 * little.
 */
export function paceOf(read: readonly { words: number; seconds: number }[]): number | null {
  const words = read.reduce((sum, one) => sum + one.words, 0);
  const seconds = read.reduce((sum, one) => sum + one.seconds, 0);
  return words < leastWords || seconds <= 0 ? null : (words / seconds) * 60;
}
