import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import { clamp, powerToDb } from '@/core/base/units';
import { safeName } from '@/core/formats/fileNames';
import type { Clip, ClipEdge, ClipLoop, Moment } from '@/core/timeline/bedClips';
import type { Words } from '@/core/timeline/mix';
import { makeRoom } from '@/core/timeline/bedRoom';
import { heardMoment, placedClips } from '@/core/timeline/bedTime';
import {
  addBed,
  addClip,
  bedsOf,
  changeClip,
  changeStrip,
  removeBed,
  removeClip,
  renameBed,
  withWords,
} from '@/core/timeline/mixEdits';
import { clockOf, heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { finishSource } from '@/storage/sources';
import { analysisClient, importClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import {
  isReadOnly,
  rateOfProject,
  rememberSource,
  useProject,
  type SourceRecord,
} from '../project/openProject';
import { receiveFile, receivingSource, warningOf } from '../project/receiving';
import { edit, usePart } from '../sheet/part';
import { choose } from './strips';
import { findWords } from './words';

/** The clip whose sentence is shown. */
export const useChosenClip = create<{ clip: string | null }>(() => ({ clip: null }));
whenProjectCloses(() => useChosenClip.setState({ clip: null }));

export const chooseClip = (clip: string | null) => useChosenClip.setState({ clip });

const seconds = (value: number) => Math.round(value * rateOfProject());

/** Usual times of an intro and an outro; *common practice*. */
const introSeconds = 4;
const outroSeconds = 5;
const fadeInSeconds = 1.5;
const fadeOutSeconds = 4;
/** A bed is begun so far under the voices, before it goes down under them; *common practice*. */
const underVoicesDb = 3;

/** A crossfade at the seam: short where both sides are alike, long where they are not. */
const alikeSeconds = 0.05;
const unlikeSeconds = 0.4;
const alike = 0.6;

/** At most so much of a sound is looked through for its seam. */
const mostLoopSeconds = 600;

/** Where a stretch of a recording can go round; null where it is too short for that. */
async function findLoop(source: SourceRecord, from: number, frames: number): Promise<ClipLoop | null> {
  const { rateHz } = source;
  const seam = await analysisClient.run('loopSeam', {
    source: source.id,
    from,
    frames: Math.min(frames, mostLoopSeconds * rateHz),
    channels: source.channels,
    rateHz,
    marginFrames: unlikeSeconds * rateHz,
  });
  if (!seam) return null;
  const { likeness } = seam;
  const fade = likeness > alike ? alikeSeconds : unlikeSeconds;
  return {
    from: seam.from,
    to: seam.to,
    fadeFrames: Math.round(fade * rateHz),
    shape: likeness > alike ? 'smooth' : 'power',
  };
}

/**
 * The loudness of a recording as it is heard: what has one channel is heard in two, and ITU-R BS.1770 adds
 * their power.
 */
const heardLufs = ({ summary, channels }: SourceRecord): number | null => {
  const lufs = summary?.loudnessLufs ?? null;
  return lufs === null || channels > 1 ? lufs : lufs + powerToDb(2);
};

/** The loudness of most of what is heard of a part's voices: of the recording it has most of. */
function voicesLufs({ tracks }: Timeline): number | null {
  const { sources } = useProject.getState();
  const frames = new Map<string, number>();
  for (const { table } of tracks)
    for (const piece of table.pieces)
      if (piece.kind === 'audio') frames.set(piece.source, (frames.get(piece.source) ?? 0) + piece.length);
  const [most] = [...frames].sort((a, b) => b[1] - a[1]);
  const source = most && sources.get(most[0]);
  return source ? heardLufs(source) : null;
}

/** A whole sound under all that is said: from a little before the first word to a little after the last. */
const underAll = (id: string, source: SourceRecord, loop: ClipLoop | null): Clip => ({
  id,
  source: source.id,
  channels: source.channels === 2 ? 2 : 1,
  from: 0,
  length: source.frames,
  levelDb: 0,
  begin: { moment: { kind: 'firstWord' }, after: -seconds(introSeconds) },
  end: { moment: { kind: 'lastWord' }, after: seconds(outroSeconds) },
  fadeIn: Math.min(seconds(fadeInSeconds), Math.floor(source.frames / 3)),
  fadeOut: Math.min(seconds(fadeOutSeconds), Math.floor(source.frames / 3)),
  loop,
});

/** From the caret on, once. */
const atCaret = (id: string, source: SourceRecord): Clip => ({
  ...underAll(id, source, null),
  begin: { moment: { kind: 'place', at: usePart.getState().caret }, after: 0 },
  end: 'sound',
});

/**
 * Reads a sound file and lays it under the open part: into a bed of its own, under all that is said, or into
 * one that is there, from the caret on. One step that can be undone; room is made at the ends of the part
 * where the sound needs it.
 */
export async function addSound(file: File, bedId: string | null): Promise<void> {
  const { project } = useProject.getState();
  const { id: partId, timeline } = usePart.getState();
  if (!project || !partId || isReadOnly()) return;
  const name = file.name.replace(/\.[^.]+$/, '').trim() || safeName(file.name);
  const told = await runShown(`Reading “${file.name}”`, async (options) => {
    const found = await importClient.run('look', { file }, { limitMs: 15_000 });
    const channels = found.channels > 1 ? 'both' : 'mean';
    const own = { id: newId(), partId, take: 1, name };
    const source = { ...receivingSource(project, file, channels, own), role: 'bed' as const };
    const received = await receiveFile(source, file, channels, options, async ({ source: whole }) => {
      const loop = bedId ? null : await findLoop(whole, 0, whole.frames);
      const words = bedId ? null : await findWords(timeline);
      const kept: SourceRecord = { ...whole, state: 'kept' };
      await finishSource(kept.id, kept);
      rememberSource(kept);
      const clip = bedId ? atCaret(newId(), kept) : underAll(newId(), kept, loop);
      if (usePart.getState().id !== partId)
        throw toParolaError(new Error('Another part was opened meanwhile.'));
      edit(bedId ? `sound ${name}` : `bed ${name}`, (before) => {
        if (bedId) return makeRoom(addClip(before, bedId, clip));
        const bed = newId();
        const laid = addBed(before, { id: bed, name, clips: [clip] });
        const levelDb = startLevel(kept, before);
        const placed = changeStrip(words ? withWords(laid, words) : laid, bed, { levelDb });
        choose(bed);
        return makeRoom(placed);
      });
      chooseClip(clip.id);
    });
    return { warning: warningOf(file.name, received.read) };
  });
  if (told?.warning) notify('warning', told.warning);
}

/** A level at which a sound lies a little under the voices, in steps of half a decibel. */
function startLevel(source: SourceRecord, timeline: Timeline): number {
  const voices = voicesLufs(timeline);
  const own = heardLufs(source);
  if (voices === null || own === null) return 0;
  return clamp(Math.round(2 * (voices - underVoicesDb - own)) / 2, -40, 12);
}

export function removeBedOf(id: string): void {
  const bed = bedsOf(usePart.getState().timeline).find((one) => one.id === id);
  if (bed) edit(`remove bed ${bed.name}`, (timeline) => removeBed(timeline, id));
}

export const removeClipOf = (id: string): boolean =>
  edit('remove sound', (timeline) => removeClip(timeline, id));

export const renameBedOf = (id: string, name: string): boolean =>
  name.trim() !== '' && edit('rename bed', (timeline) => renameBed(timeline, id, name.trim()));

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
      return `mark ${moment.mark}`;
    case 'line':
      return `line ${moment.line}`;
    case 'clip':
      return `clip ${moment.clip}`;
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
    { name: 'the start of the part', moment: { kind: 'start' } },
    { name: 'the first word', moment: { kind: 'firstWord' } },
    { name: 'the last word', moment: { kind: 'lastWord' } },
    { name: 'the end of the part', moment: { kind: 'end' } },
  ];
  const own = clip[edge];
  const place = own !== 'sound' && own.moment.kind === 'place' ? own.moment.at : caret;
  moments.push({ name: 'its place on the sheet', moment: { kind: 'place', at: place } });
  if (edge === 'begin')
    bedsOf(timeline).forEach(({ name, clips }) =>
      clips.forEach((other, index) => {
        if (other.id === clip.id) return;
        const at = clockOf(timeline).heardToSheet(Math.min(end, Math.max(0, endOf(timeline, other.id))));
        const which = clips.length > 1 ? `sound ${index + 1} of ${name}` : name;
        moments.push({ name: `the end of ${which}`, moment: { kind: 'clip', clip: other.id, at } });
      }),
    );
  for (const { id, kind, name, at, line } of timeline.marks.slice(0, mostMarks)) {
    if (kind === 'line' && line) moments.push({ name: 'a line of the script', moment: { kind, line, at } });
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
  edit(edge === 'begin' ? 'where a sound begins' : 'where a sound ends', (current) => {
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
  const found = await runShown('Listening for the first and the last word', (options) =>
    findWords(timeline, options),
  );
  if (!found) notify('info', 'Nobody speaks in this part yet.');
  return found;
}

/** A distance of more than this was not meant: it begins at what it holds on to. */
const mostApartSeconds = 20;
const bounded = (frames: number) => (Math.abs(frames) > seconds(mostApartSeconds) ? 0 : frames);

/** Lets a clip go round for as long as it is needed, or not any more. */
export async function setLoop(clip: Clip, on: boolean): Promise<void> {
  if (!on) return void setClip(clip.id, 'sound once', { loop: null });
  const source = useProject.getState().sources.get(clip.source);
  if (!source) return;
  try {
    const loop = await findLoop(source, clip.from, clip.length);
    if (!loop) return notify('info', 'This sound is too short to go round: two seconds are the least.');
    setClip(clip.id, 'sound goes round', { loop });
  } catch (thrown) {
    notify('error', toParolaError(thrown).message);
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
  if (edit('sound once more', (timeline) => makeRoom(addClip(timeline, bed.id, again)))) chooseClip(again.id);
}
