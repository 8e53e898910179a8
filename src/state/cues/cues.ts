import { say } from '@/texts/say';
import { create } from 'zustand';
import { turnsIn } from '@/core/cues/againstGuide';
import { audioFrameOf, frameOfTimecode, pictureFrameAt, rates } from '@/core/cues/timecode';
import { spokenFrames } from '@/core/cues/cueList';
import * as cueEdits from '@/core/timeline/cueEdits';
import { nextUndone } from '@/core/timeline/cueState';
import type { Cue, CueTime } from '@/core/timeline/cues';
import { guidesOf } from '@/core/timeline/guides';
import { peakFrames } from '@/core/timeline/peaks';
import { lineReadings } from '@/core/timeline/scriptLines';
import { sheetFramesOf } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { levelsOf } from '../finds/tableLevels';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { setView } from '../page/view';
import { rateOfProject } from '../project/openProject';
import { recordSettings, setRecordSettings } from '../project/settings';
import { edit, openPartRecord, setCaret, usePart } from '../sheet/part';

interface Cues {
  /** The cue keys are for. */
  readonly chosen: string | null;
  /** Cues of one character alone; of all when null. */
  readonly character: string | null;
  readonly toDoOnly: boolean;
  /** The cue sheet is open as a table. */
  readonly open: boolean;
}

const none: Cues = { chosen: null, character: null, toDoOnly: false, open: false };

export const useCues = create<Cues>(() => none);
whenProjectCloses(() => useCues.setState(none));
// What is chosen and listed is of the open part, and of a character there is.
usePart.subscribe((now, before) => {
  if (now.id !== before.id) useCues.setState(none);
  else if (now.timeline.cueSheet !== before.timeline.cueSheet) {
    const { character } = useCues.getState();
    if (
      character !== null &&
      !cueEdits.cueSheetOf(now.timeline).characters.some(({ id }) => id === character)
    )
      useCues.setState({ character: null });
  }
});

const sheetNow = () => cueEdits.cueSheetOf(usePart.getState().timeline);

export const openCueSheet = () => useCues.setState({ open: true });
export const closeCueSheet = () => useCues.setState({ open: false });

/** Goes to a cue: the caret stands where it begins, and it is what Record records. */
export function chooseCue(id: string): void {
  const cue = sheetNow().cues.find((one) => one.id === id);
  if (!cue) return;
  if (recordSettings().mode !== 'cue') setRecordSettings({ mode: 'cue' });
  useCues.setState({ chosen: id });
  setCaret(Math.min(cue.from, sheetFramesOf(usePart.getState().timeline)));
}

/** The cue that Record and a dry run are for: the one that is chosen. */
export const cueNow = (): Cue | null => {
  const { chosen } = useCues.getState();
  return sheetNow().cues.find(({ id }) => id === chosen) ?? null;
};

/** Those that are listed, as they are filtered. */
export const isListed = (cue: Cue, { character, toDoOnly }: Pick<Cues, 'character' | 'toDoOnly'>): boolean =>
  (character === null || cue.character === character) && !(toDoOnly && cue.done);

/** The chosen cue, while the caret stands where it begins: whoever has gone elsewhere goes on from there. */
function chosenAtCaret(): string | null {
  const { chosen } = useCues.getState();
  const { timeline, caret } = usePart.getState();
  const cue = sheetNow().cues.find(({ id }) => id === chosen);
  return cue && Math.min(cue.from, sheetFramesOf(timeline)) === caret ? cue.id : null;
}

const noCues = () =>
  notify('info', say`This part has no cues yet. Open the cue sheet to make them, or to read a list of them.`);

export function stepCue(by: -1 | 1): void {
  const state = useCues.getState();
  const cues = sheetNow().cues.filter((cue) => isListed(cue, state));
  if (cues.length === 0) return noCues();
  const { caret } = usePart.getState();
  const chosen = chosenAtCaret();
  const at = cues.findIndex(({ id }) => id === chosen);
  const before = cues.filter(({ from }) => from < caret).length;
  const next = at >= 0 ? at + by : by > 0 ? before : before - 1;
  const cue = cues[(next + cues.length) % cues.length];
  setView({ panel: 'cues' });
  chooseCue(cue.id);
}

export function stepToUndone(): void {
  const { timeline, caret } = usePart.getState();
  if (sheetNow().cues.length === 0) return noCues();
  const next = nextUndone(timeline, caret, chosenAtCaret());
  if (!next) return notify('success', say`Every cue of this part is done.`);
  setView({ panel: 'cues' });
  chooseCue(next.id);
}

export function toggleDone(ids: ReadonlySet<string>): void {
  const own = sheetNow().cues.filter(({ id }) => ids.has(id));
  const done = own.some((cue) => !cue.done);
  const label = done ? say`cue done` : say`cue not done`;
  edit(label, (timeline) => cueEdits.changeCues(timeline, ids, () => ({ done })));
}

export function toggleChosenDone(): void {
  const { chosen } = useCues.getState();
  if (!sheetNow().cues.some(({ id }) => id === chosen)) return notify('info', say`Choose a cue first.`);
  if (chosen) toggleDone(new Set([chosen]));
}

/** A cue without a selection lasts so long. */
const plainSeconds = 2;

/** Makes a cue of the selection, or of two seconds at the caret; null where nothing can be changed. */
export function addCue(): string | null {
  const { selection, caret } = usePart.getState();
  const from = selection?.from ?? caret;
  const to = selection?.to ?? caret + plainSeconds * rateOfProject();
  const { character } = useCues.getState();
  const { cues } = sheetNow();
  const cue: Cue = {
    ...{ id: newId(), number: String(cueEdits.nextNumber(cues)), from, to, text: '', note: '' },
    ...(character && { character }),
  };
  if (!edit(say`new cue`, (timeline) => cueEdits.addCues(timeline, [cue]))) return null;
  useCues.setState({ chosen: cue.id });
  return cue.id;
}

/**
 * Makes cues of the lines of the script that are none yet: where they were read, or one after another behind
 * the last cue, as long as it takes to say them.
 */
export function cuesFromScript(): void {
  const { timeline } = usePart.getState();
  const script = openPartRecord()?.script ?? [];
  const sheet = sheetNow();
  const rateHz = rateOfProject();
  const known = new Set(sheet.cues.map(({ text }) => text));
  const readings = new Map(lineReadings(timeline).map((reading) => [reading.line, reading]));
  let number = cueEdits.nextNumber(sheet.cues);
  let end = sheet.cues.reduce((latest, { to }) => Math.max(latest, to), 0);
  const added = script.flatMap(({ id, text }): Cue[] => {
    if (text.trim() === '' || known.has(text)) return [];
    const reading = readings.get(id);
    const from = reading?.from ?? end + rateHz;
    const to = reading && reading.to > reading.from ? reading.to : from + spokenFrames(text, rateHz);
    end = Math.max(end, to);
    return [{ id: newId(), number: String(number++), from, to, text, note: '' }];
  });
  if (added.length === 0) return notify('info', say`The script has no line that is not a cue already.`);
  edit(say`${added.length} cues from the script`, (before) => cueEdits.addCues(before, added));
}

/**
 * Makes a cue of every turn that is found in the guide and has none yet, in the time that is spoken there;
 * its words are to be written.
 */
export async function cuesFromGuide(): Promise<void> {
  const { id, timeline } = usePart.getState();
  const [guide] = guidesOf(timeline);
  if (!guide) return notify('info', say`This part has no guide, and no picture with sound.`);
  const levels = await levelsOf(guide.table, guide.table.frames);
  if (usePart.getState().id !== id) return;
  const { cues } = sheetNow();
  let number = cueEdits.nextNumber(cues);
  const turns = turnsIn(levels, peakFrames / rateOfProject())
    .map(({ from, to }) => ({ from: from * peakFrames, to: to * peakFrames }))
    .filter(({ from, to }) => !cues.some((cue) => cue.from < to && cue.to > from));
  if (turns.length === 0)
    return notify('info', say`No turn is found in the guide that is not a cue already.`);
  const added = turns.map((turn) => ({ ...turn, id: newId(), number: String(number++), text: '', note: '' }));
  edit(say`${added.length} cues from the guide`, (before) => cueEdits.addCues(before, added));
  notify('success', say`${added.length} turns are found in the guide: each is a cue, without words yet.`);
}

/** Cuts the chosen cue at the caret. */
export function splitAtCaret(id: string): void {
  const { caret } = usePart.getState();
  const done = edit(say`split cue`, (timeline) => cueEdits.splitCue(timeline, id, caret, newId()));
  if (!done) notify('info', say`Put the caret inside the cue first: it is cut there.`);
}

export const joinCues = (ids: ReadonlySet<string>) =>
  edit(say`join cues`, (timeline) => cueEdits.joinCues(timeline, ids));

export const removeCues = (ids: ReadonlySet<string>) =>
  edit(ids.size === 1 ? say`cue away` : say`${ids.size} cues away`, (timeline) =>
    cueEdits.removeCues(timeline, ids),
  );

export const renumberCues = () => edit(say`count cues anew`, cueEdits.renumberCues);

/** Changes one of a cue’s words. */
export const writeCue = (id: string, changes: Partial<Pick<Cue, 'number' | 'text' | 'note'>>) =>
  edit('cue', (timeline) => cueEdits.changeCues(timeline, new Set([id]), () => changes));

/** Gives cues to a character by name, who is made where there is none; to nobody without a name. */
export function giveCues(ids: ReadonlySet<string>, name: string): void {
  edit(say`character of cues`, (timeline) => {
    const known = cueEdits.addCharacters(timeline, [name], newId);
    const character = cueEdits.characterNamed(cueEdits.cueSheetOf(known), name)?.id ?? '';
    return cueEdits.changeCues(known, ids, () => ({ character }));
  });
}

export const changeCharacter = (id: string, changes: { name?: string; track?: string | null }) =>
  edit('character', (timeline) => cueEdits.changeCharacter(timeline, id, changes));

export const removeCharacter = (id: string) =>
  edit(say`character away`, (timeline) => cueEdits.removeCharacter(timeline, id));

export const setCueTime = (time: CueTime) =>
  edit('timecode', (timeline) => cueEdits.setCueTime(timeline, time));

/**
 * The sheet frame of what somebody has typed: timecode, or minutes and seconds from the beginning. A sentence
 * that says what is wrong where it is neither.
 */
export function frameOfTyped(text: string): number | string {
  const sheet = sheetNow();
  const rate = rates[sheet.rate];
  const clock = /^\s*(\d{1,3}):(\d{1,2}(?:[.,]\d+)?)\s*$/.exec(text);
  if (clock)
    return Math.round((Number(clock[1]) * 60 + Number(clock[2].replace(',', '.'))) * rateOfProject());
  const read = frameOfTimecode(text, rate);
  if ('fault' in read) return `${read.fault}.`;
  if (read.frame < sheet.start) return say`“${text.trim()}” is before the picture begins.`;
  return audioFrameOf(read.frame - sheet.start, rate, rateOfProject());
}

/** What is wrong with an end of a cue as it is typed, in a sentence; null where nothing is. */
export function faultOfTyped(id: string, end: 'from' | 'to', text: string): string | null {
  const frame = frameOfTyped(text);
  if (typeof frame === 'string') return frame;
  const cue = sheetNow().cues.find((one) => one.id === id);
  return cue && end === 'to' && frame <= cue.from ? say`A cue has to end after it begins.` : null;
}

/** Moves an end of a cue. Returns what is wrong, or null. */
export function placeCue(id: string, end: 'from' | 'to', text: string): string | null {
  const fault = faultOfTyped(id, end, text);
  if (fault) return fault;
  const frame = frameOfTyped(text);
  const cue = sheetNow().cues.find((one) => one.id === id);
  if (!cue || typeof frame === 'string') return null;
  // What is typed as it was told is where it was: a timecode has no samples.
  if (pictureFrame(frame) === pictureFrame(cue[end])) return null;
  if (end === 'from' && frame >= cue.to) {
    const length = cue.to - cue.from;
    edit(say`move cue`, (timeline) =>
      cueEdits.changeCues(timeline, new Set([id]), () => ({ from: frame, to: frame + length })),
    );
    return null;
  }
  edit(say`move cue`, (timeline) => cueEdits.changeCues(timeline, new Set([id]), () => ({ [end]: frame })));
  return null;
}

const pictureFrame = (frame: number) => pictureFrameAt(frame, rates[sheetNow().rate], rateOfProject());
