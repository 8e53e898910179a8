import { say } from '../../texts/say';
import { ParolaError } from '../base/errors';

/** A name, or any other words, and how they are said. */
export interface SaidName {
  readonly name: string;
  readonly say: string;
}

export const mostNames = 500;
export const longestName = 80;

/**
 * Names from a text with a line for each: `Aoife = EE-fa`. Throws ParolaError `unsupported` that says which
 * line cannot be read and why; empty lines are left out, and of a name that is there twice the last counts.
 */
export function parseNames(text: string): SaidName[] {
  const names = new Map<string, string>();
  for (const [index, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === '') continue;
    const at = line.indexOf('=');
    const [name, said] = [line.slice(0, at).trim(), line.slice(at + 1).trim()];
    if (at < 0 || name === '' || said === '')
      throw new ParolaError(
        'unsupported',
        say`Line ${index + 1} is no name with how it is said: write it as in “Aoife = EE-fa”.`,
      );
    if (name.length > longestName || said.length > longestName)
      throw new ParolaError(
        'unsupported',
        say`Line ${index + 1} has more than ${longestName} letters on a side.`,
      );
    names.set(name, said);
  }
  if (names.size > mostNames)
    throw new ParolaError(
      'unsupported',
      say`There are ${names.size} names; a project keeps at most ${mostNames}.`,
    );
  return [...names].map(([name, say]) => ({ name, say }));
}

export const namesText = (names: readonly SaidName[]): string =>
  names.map(({ name, say }) => `${name} = ${say}`).join('\n');

/** A stretch of a text, with how it is said where that is known. */
export interface Said {
  readonly text: string;
  readonly say?: string;
}

/** Finds names in texts, as whole words and as they are written; of two that begin alike the longer one. */
export class NameFinder {
  private readonly says: ReadonlyMap<string, string>;
  private readonly pattern: RegExp | null;

  constructor(names: readonly SaidName[]) {
    this.says = new Map(names.map(({ name, say }) => [name, say]));
    const written = [...this.says.keys()]
      .sort((a, b) => b.length - a.length)
      .map((name) => name.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
    this.pattern =
      written.length === 0
        ? null
        : new RegExp(`(?<![\\p{L}\\p{N}])(?:${written.join('|')})(?![\\p{L}\\p{N}])`, 'gu');
  }

  /** A text in stretches, all of it, in order. */
  in(text: string): Said[] {
    if (!this.pattern) return [{ text }];
    const stretches: Said[] = [];
    let at = 0;
    for (const { 0: name, index } of text.matchAll(this.pattern)) {
      if (index > at) stretches.push({ text: text.slice(at, index) });
      stretches.push({ text: name, say: this.says.get(name) });
      at = index + name.length;
    }
    if (at < text.length || stretches.length === 0) stretches.push({ text: text.slice(at) });
    return stretches;
  }
}
