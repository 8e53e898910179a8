import { byCueTime, emptyCueSheet, type Character, type Cue, type CueSheet, type CueTime } from './cues';
import type { Timeline } from './timeline';

export const cueSheetOf = ({ cueSheet }: Pick<Timeline, 'cueSheet'>): CueSheet => cueSheet ?? emptyCueSheet;

const withSheet = (timeline: Timeline, cueSheet: CueSheet): Timeline => {
  const { cueSheet: _, ...rest } = timeline;
  const isEmpty = cueSheet.cues.length === 0 && cueSheet.characters.length === 0;
  return isEmpty && sameTime(cueSheet, emptyCueSheet) ? rest : { ...rest, cueSheet };
};

const sameTime = (a: CueTime, b: CueTime) => a.rate === b.rate && a.start === b.start;

const withCues = (timeline: Timeline, cues: readonly Cue[]): Timeline =>
  withSheet(timeline, { ...cueSheetOf(timeline), cues: [...cues].sort(byCueTime) });

export const addCues = (timeline: Timeline, cues: readonly Cue[]): Timeline =>
  withCues(timeline, [...cueSheetOf(timeline).cues, ...cues]);

/** Changes cues by their ids. What is empty is left out: nobody's character, not done. */
export function changeCues(
  timeline: Timeline,
  ids: ReadonlySet<string>,
  change: (cue: Cue) => Partial<Omit<Cue, 'id' | 'done'>> & { readonly done?: boolean },
): Timeline {
  const cues = cueSheetOf(timeline).cues.map((cue): Cue => {
    if (!ids.has(cue.id)) return cue;
    const { done, character, ...rest } = { ...cue, ...change(cue) };
    return {
      ...rest,
      to: Math.max(rest.from, rest.to),
      ...(character && { character }),
      ...(done && { done: true as const }),
    };
  });
  return withCues(timeline, cues);
}

export const removeCues = (timeline: Timeline, ids: ReadonlySet<string>): Timeline =>
  withCues(
    timeline,
    cueSheetOf(timeline).cues.filter(({ id }) => !ids.has(id)),
  );

/**
 * Cuts a cue in two at a sheet frame inside it; its text is cut between the words nearest to there. As it is
 * where the frame is not inside.
 */
export function splitCue(timeline: Timeline, id: string, at: number, newId: string): Timeline {
  const { cues } = cueSheetOf(timeline);
  const cue = cues.find((one) => one.id === id);
  if (!cue || at <= cue.from || at >= cue.to) return timeline;
  const [before, after] = splitText(cue.text, (at - cue.from) / (cue.to - cue.from));
  const { done: _, ...rest } = cue;
  const first: Cue = { ...rest, to: at, text: before };
  const second: Cue = {
    ...rest,
    id: newId,
    number: nextLetter(cue.number, cues),
    from: at,
    text: after,
    note: '',
  };
  return withCues(timeline, [...cues.filter((one) => one !== cue), first, second]);
}

/** Words are cut apart where about so much of the text is before. */
function splitText(text: string, share: number): [string, string] {
  const gaps = [...text.matchAll(/\s+/g)].filter(({ index }) => index > 0 && index < text.trimEnd().length);
  if (gaps.length === 0) return [text, ''];
  const wanted = share * text.length;
  const best = gaps.reduce((a, b) => (Math.abs(b.index - wanted) < Math.abs(a.index - wanted) ? b : a));
  return [text.slice(0, best.index), text.slice(best.index + best[0].length)];
}

/** 12 → 12a → 12b: the first that nobody has. */
function nextLetter(number: string, cues: readonly Cue[]): string {
  const taken = new Set(cues.map((cue) => cue.number));
  const bare = number.replace(/[a-z]$/, '');
  const letter = 'abcdefghijklmnopqrstuvwxyz'.split('').find((one) => !taken.has(bare + one));
  return letter ? bare + letter : `${number}+`;
}

/**
 * Makes one cue of several, from the first one's beginning to the last one's end; who speaks first speaks it.
 */
export function joinCues(timeline: Timeline, ids: ReadonlySet<string>): Timeline {
  const { cues } = cueSheetOf(timeline);
  const own = cues.filter(({ id }) => ids.has(id));
  if (own.length < 2) return timeline;
  const { done: _, ...first } = own[0];
  const joined: Cue = {
    ...first,
    to: Math.max(...own.map(({ to }) => to)),
    text: own
      .map(({ text }) => text)
      .filter(Boolean)
      .join(' '),
    note: own
      .map(({ note }) => note)
      .filter(Boolean)
      .join('; '),
  };
  return withCues(timeline, [...cues.filter(({ id }) => !ids.has(id)), joined]);
}

/** The number a new cue has: one more than the highest. */
export const nextNumber = (cues: readonly Cue[]): number =>
  1 + cues.reduce((highest, { number }) => Math.max(highest, parseInt(number, 10) || 0), 0);

/** Counts all cues anew in order of time, from 1. */
export const renumberCues = (timeline: Timeline): Timeline =>
  withCues(
    timeline,
    cueSheetOf(timeline).cues.map((cue, index) =>
      cue.number === String(index + 1) ? cue : { ...cue, number: String(index + 1) },
    ),
  );

export const setCueTime = (timeline: Timeline, time: CueTime): Timeline =>
  withSheet(timeline, { ...cueSheetOf(timeline), rate: time.rate, start: time.start });

/** Names are told apart without regard to case and space around them. */
const folded = (name: string) => name.trim().toLocaleLowerCase('en');

export const characterNamed = ({ characters }: CueSheet, name: string): Character | undefined =>
  characters.find((one) => folded(one.name) === folded(name));

/** Characters that are not there yet, with an id for each; names without letters are nobody. */
export function addCharacters(timeline: Timeline, names: readonly string[], newId: () => string): Timeline {
  const sheet = cueSheetOf(timeline);
  const known = new Set(sheet.characters.map(({ name }) => folded(name)));
  const added = names.flatMap((name): Character[] => {
    if (folded(name) === '' || known.has(folded(name))) return [];
    known.add(folded(name));
    return [{ id: newId(), name: name.trim() }];
  });
  return added.length === 0
    ? timeline
    : withSheet(timeline, { ...sheet, characters: [...sheet.characters, ...added] });
}

export const changeCharacter = (
  timeline: Timeline,
  id: string,
  changes: { readonly name?: string; readonly track?: string | null },
): Timeline => {
  const sheet = cueSheetOf(timeline);
  const characters = sheet.characters.map((one): Character => {
    if (one.id !== id) return one;
    const { track, name } = { ...one, ...changes };
    return { id, name, ...(track && { track }) };
  });
  return withSheet(timeline, { ...sheet, characters });
};

/** Their cues are nobody's then. */
export function removeCharacter(timeline: Timeline, id: string): Timeline {
  const sheet = cueSheetOf(timeline);
  return withSheet(timeline, {
    ...sheet,
    characters: sheet.characters.filter((one) => one.id !== id),
    cues: sheet.cues.map(({ character, ...cue }) =>
      character === id || !character ? cue : { ...cue, character },
    ),
  });
}
