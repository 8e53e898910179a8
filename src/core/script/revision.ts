/** A line of a script; `was` is the text that was read where the line has been changed since. */
export interface RevisedLine {
  readonly id: string;
  readonly text: string;
  readonly was?: string;
}

/** Two lines are one that was changed when so much of their words is the same (Dice 1945). */
const alike = 0.5;

/**
 * A script as it is after its texts were changed: lines keep their ids where their text is unchanged,
 * wherever they stand now, and where a line stands between the same neighbours with most of its words: such a
 * one remembers the text it had. Whatever else is new gets an id of its own.
 */
export function reviseScript(
  before: readonly RevisedLine[],
  texts: readonly string[],
  newId: () => string,
): RevisedLine[] {
  const places = new Map<string, number[]>();
  before.forEach(({ text }, at) => places.set(text, [...(places.get(text) ?? []), at]));
  const kept = texts.map((text) => places.get(text)?.shift() ?? null);
  const taken = new Set(kept);
  const result: RevisedLine[] = [];
  let from = 0;
  for (let at = 0; at < texts.length; at++) {
    const same = kept[at];
    if (same !== null) {
      result.push(before[same]);
      from = same + 1;
      continue;
    }
    // Lines that are gone and stood between this one's neighbours.
    const next = kept.slice(at).find((place) => place !== null && place >= from) ?? before.length;
    const found = indexBetween(
      from,
      next,
      (place) => !taken.has(place) && likeness(before[place].text, texts[at]) >= alike,
    );
    if (found === null) result.push({ id: newId(), text: texts[at] });
    else {
      result.push(changed(before[found], texts[at]));
      taken.add(found);
      from = found + 1;
    }
  }
  return result;
}

function changed({ id, text: last, was = last }: RevisedLine, text: string): RevisedLine {
  return was === text ? { id, text } : { id, text, was };
}

function indexBetween(from: number, to: number, fits: (at: number) => boolean): number | null {
  for (let at = from; at < to; at++) if (fits(at)) return at;
  return null;
}

const wordsOf = (text: string) => text.toLowerCase().match(/[\p{L}\p{N}’']+/gu) ?? [];

/** How many of the words of two texts are the same, each counted once for each: 0 to 1. */
export function likeness(a: string, b: string): number {
  const [first, second] = [wordsOf(a), wordsOf(b)];
  if (first.length + second.length === 0) return 0;
  const left = new Map<string, number>();
  for (const word of first) left.set(word, (left.get(word) ?? 0) + 1);
  let same = 0;
  for (const word of second) {
    const count = left.get(word) ?? 0;
    if (count > 0) same++;
    left.set(word, count - 1);
  }
  return (2 * same) / (first.length + second.length);
}
