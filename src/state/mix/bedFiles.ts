import { say } from '@/texts/say';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { clamp, powerToDb } from '@/core/base/units';
import { safeName } from '@/core/formats/fileNames';
import type { Clip, ClipLoop } from '@/core/timeline/bedClips';
import { makeRoom } from '@/core/timeline/bedRoom';
import { addBed, addClip, bedsOf, changeStrip, withWords } from '@/core/timeline/mixEdits';
import type { Timeline } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { finishSource } from '@/storage/sources';
import { analysisClient, importClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
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
export async function findLoop(source: SourceRecord, from: number, frames: number): Promise<ClipLoop | null> {
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
 * Reads a sound file and lays it under the open part: into a bed of its own, or one that waits for its sound,
 * under all that is said; or into one that has sounds, from the caret on. One step that can be undone; room
 * is made at the ends of the part where the sound needs it.
 */
export async function addSound(file: File, bedId: string | null): Promise<void> {
  const { project } = useProject.getState();
  const { id: partId, timeline } = usePart.getState();
  if (!project || !partId || isReadOnly()) return;
  const waiting = bedsOf(timeline).some(({ id, clips }) => id === bedId && clips.length === 0);
  const isUnderAll = bedId === null || waiting;
  const name = file.name.replace(/\.[^.]+$/, '').trim() || safeName(file.name);
  const told = await runShown(say`Reading “${file.name}”`, async (options) => {
    const found = await importClient.run('look', { file }, { limitMs: 15_000 }).catch((thrown: unknown) => {
      const { code, message } = toParolaError(thrown);
      throw new ParolaError(code, say`“${file.name}” is not added: ${message}`);
    });
    const channels = found.channels > 1 ? 'both' : 'mean';
    const own = { id: newId(), partId, take: 1, name };
    const source = { ...receivingSource(project, file, channels, own), role: 'bed' as const };
    const received = await receiveFile(source, file, channels, options, async ({ source: whole }) => {
      const loop = isUnderAll ? await findLoop(whole, 0, whole.frames) : null;
      const words = isUnderAll ? await findWords(timeline) : null;
      if (usePart.getState().id !== partId)
        throw new ParolaError(
          'not-found',
          say`Another part was opened meanwhile. Open the part the sound is for, and add it there again.`,
        );
      const kept: SourceRecord = { ...whole, state: 'kept' };
      await finishSource(kept.id, kept);
      rememberSource(kept);
      const clip = isUnderAll ? underAll(newId(), kept, loop) : atCaret(newId(), kept);
      edit(bedId ? say`sound ${name}` : say`bed ${name}`, (before) => {
        if (bedId) {
          const laid = addClip(before, bedId, clip);
          return makeRoom(words ? withWords(laid, words) : laid);
        }
        const bed = newId();
        const laid = addBed(before, { id: bed, name, clips: [clip] });
        const levelDb = startLevel(kept, before);
        const placed = changeStrip(words ? withWords(laid, words) : laid, bed, { levelDb });
        choose(bed);
        return makeRoom(placed);
      });
    });
    return { warning: warningOf(file.name, received.read) };
  });
  if (told?.warning) notify('warning', told.warning, 'finish');
}

/** A level at which a sound lies a little under the voices, in steps of half a decibel. */
function startLevel(source: SourceRecord, timeline: Timeline): number {
  const voices = voicesLufs(timeline);
  const own = heardLufs(source);
  if (voices === null || own === null) return 0;
  return clamp(Math.round(2 * (voices - underVoicesDb - own)) / 2, -40, 12);
}
