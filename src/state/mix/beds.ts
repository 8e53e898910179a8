import { say } from '@/texts/say';
import type { Clip, ClipEdge, Moment } from '@/core/timeline/bedClips';
import type { Words } from '@/core/timeline/mix';
import { makeRoom } from '@/core/timeline/bedRoom';
import { heardMoment, placedClips } from '@/core/timeline/bedTime';
import {
  addClip,
  bedsOf,
  changeClip,
  removeBed,
  removeClip,
  renameBed,
  withWords,
} from '@/core/timeline/mixEdits';
import { clockOf, heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { runShown } from '../page/jobs';
import { notify, notifyError } from '../page/notices';
import { rateOfProject, useProject } from '../project/openProject';
import { edit, usePart } from '../sheet/part';
import { findLoop } from './bedFiles';
import { findWords } from './words';

export function removeBedOf(id: string): void {
  const bed = bedsOf(usePart.getState().timeline).find((one) => one.id === id);
  if (bed) edit(say`remove bed ${bed.name}`, (timeline) => removeBed(timeline, id));
}

export const removeClipOf = (id: string): boolean =>
  edit(say`remove sound`, (timeline) => removeClip(timeline, id));

export const renameBedOf = (id: string, name: string): boolean =>
  name.trim() !== '' && edit(say`rename bed`, (timeline) => renameBed(timeline, id, name.trim()));

/** Changes a clip; room is made at the ends of the part where it needs it. */
export const setClip = (id: string, label: string, changes: Partial<Omit<Clip, 'id'>>): boolean =>
  edit(label, (timeline) => makeRoom(changeClip(timeline, id, changes)));

/** What a clip can hold on to in a part, in words, with its moment. */
export interface MomentChoice {
  readonly key: string;
  readonly name: string;
  readonly moment: Moment;
}

export const momentKey = (moment: Moment): string => {
  switch (moment.kind) {
    case 'mark':
      return say`mark ${moment.mark}`;
    case 'line':
      return say`line ${moment.line}`;
    case 'clip':
      return say`clip ${moment.clip}`;
    default:
      return moment.kind;
  }
};

/** At most so many marks are offered: a list of thousands is none. */
const mostMarks = 200;

export function momentChoices(timeline: Timeline, clip: Clip, edge: 'begin' | 'end'): MomentChoice[] {
  const { caret } = usePart.getState();
  const end = heardFramesOf(timeline);
  const moments: { name: string; moment: Moment }[] = [
    { name: say`the start of the part`, moment: { kind: 'start' } },
    { name: say`the first word`, moment: { kind: 'firstWord' } },
    { name: say`the last word`, moment: { kind: 'lastWord' } },
    { name: say`the end of the part`, moment: { kind: 'end' } },
  ];
  const own = clip[edge];
  const place = own !== 'sound' && own.moment.kind === 'place' ? own.moment.at : caret;
  moments.push({ name: say`its place on the sheet`, moment: { kind: 'place', at: place } });
  if (edge === 'begin')
    bedsOf(timeline).forEach(({ name, clips }) =>
      clips.forEach((other, index) => {
        if (other.id === clip.id) return;
        const at = clockOf(timeline).heardToSheet(Math.min(end, Math.max(0, endOf(timeline, other.id))));
        const which = clips.length > 1 ? say`sound ${index + 1} of ${name}` : name;
        moments.push({ name: say`the end of ${which}`, moment: { kind: 'clip', clip: other.id, at } });
      }),
    );
  for (const { id, kind, name, at, line } of timeline.marks.slice(0, mostMarks)) {
    if (kind === 'line' && line)
      moments.push({ name: say`a line of the script`, moment: { kind, line, at } });
    else if (kind === 'note' || kind === 'part')
      moments.push({ name: `“${name}”`, moment: { kind: 'mark', mark: id, at } });
  }
  return moments.map(({ name, moment }) => ({ key: momentKey(moment), name, moment }));
}

function endOf(timeline: Timeline, clip: string): number {
  const placed = placedClips(timeline)
    .flat()
    .find(({ id }) => id === clip);
  return placed ? placed.at + placed.frames : 0;
}

/** Lets a clip hold on to something else, from where it is now. Words are looked for where none is known. */
export async function holdOn(clip: Clip, edge: 'begin' | 'end', moment: Moment): Promise<void> {
  const { timeline } = usePart.getState();
  const ofWords = moment.kind === 'firstWord' || moment.kind === 'lastWord';
  const words = timeline.mix?.words ?? (ofWords ? await wordsOf(timeline) : null);
  edit(edge === 'begin' ? say`where a sound begins` : say`where a sound ends`, (current) => {
    const known = words ? withWords(current, words) : current;
    const before = clip[edge];
    const now = before === 'sound' ? endOf(known, clip.id) : heardMoment(known, before);
    const at = clockOf(known).heardToSheet(Math.max(0, now));
    // At a place of its own it stays where it is; a word, a mark or an end is what is meant.
    const held: ClipEdge =
      moment.kind === 'place'
        ? { moment: { kind: 'place', at }, after: 0 }
        : { moment, after: bounded(now - heardMoment(known, { moment, after: 0 })) };
    return makeRoom(changeClip(known, clip.id, { [edge]: held }));
  });
}

async function wordsOf(timeline: Timeline): Promise<Words | null> {
  const found = await runShown(say`Listening for the first and the last word`, (options) =>
    findWords(timeline, options),
  );
  if (!found) notify('info', say`Nobody speaks in this part yet.`);
  return found;
}

/** A distance of more than this was not meant: it begins at what it holds on to. */
const mostApartSeconds = 20;
const bounded = (frames: number) => (Math.abs(frames) > mostApartSeconds * rateOfProject() ? 0 : frames);

/** Lets a clip go round for as long as it is needed, or not any more. */
export async function setLoop(clip: Clip, on: boolean): Promise<void> {
  if (!on) return void setClip(clip.id, say`sound once`, { loop: null });
  const source = useProject.getState().sources.get(clip.source);
  if (!source) return;
  try {
    const loop = await findLoop(source, clip.from, clip.length);
    if (!loop) return notify('info', say`This sound is too short to go round: two seconds are the least.`);
    setClip(clip.id, say`sound goes round`, { loop });
  } catch (thrown) {
    notifyError(thrown, 'finish');
  }
}

/** A clip once more, from the caret on. */
export function repeatClip(clip: Clip): void {
  const bed = bedsOf(usePart.getState().timeline).find(({ clips }) => clips.some(({ id }) => id === clip.id));
  if (!bed) return;
  const again: Clip = {
    ...clip,
    id: newId(),
    begin: { moment: { kind: 'place', at: usePart.getState().caret }, after: 0 },
    end: 'sound',
    loop: null,
  };
  edit(say`sound once more`, (timeline) => makeRoom(addClip(timeline, bed.id, again)));
}
