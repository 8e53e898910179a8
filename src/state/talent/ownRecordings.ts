import { say } from '@/texts/say';
import { contextFrame } from '@/audio/contextFrame';
import { blockFrames } from '@/core/base/audio';
import { toParolaError } from '@/core/base/errors';
import { within } from '@/core/base/waiting';
import { writeBlockMessage } from '@/core/far/blockMessage';
import type { FarRecording, WantedTake } from '@/core/far/messages';
import type { BegunRecording } from '@/core/far/talentSide';
import { mainInput } from '@/core/recording/routing';
import { readBlock, storedFrames } from '@/storage/blocks';
import { newId } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import { createSource, finishSource, removeSource, sourceRecord, sourcesOfProject } from '@/storage/sources';
import { currentEngine } from '../hearing/engine';
import { openedInput } from '../recording/openInputs';
import { endRecording, startRecording } from '../recording/recorder';
import { useTalent, type OwnRecording } from './talent';

/** Captured before a take begins and after it ends: the studio's joins reach into it. */
const handleSeconds = { before: 1.5, after: 1 };
/**
 * So long after its beginning a take is still recorded from there; what is held of the input is a little
 * more.
 */
const heldSeconds = 1.1;
const waitMs = 6000;
const readMs = 10_000;

/** Recordings of a talent belong to no project here, but to the room of the session. */
export const projectOfRoom = (room: string) => `talent/${room}`;

/**
 * What of its own a room has, of this life and earlier ones: those were cut off at the last block on disk.
 */
export async function storedRecordings(room: string): Promise<OwnRecording[]> {
  const sources = await sourcesOfProject(projectOfRoom(room));
  const found = await Promise.all(
    sources.map(async (source): Promise<OwnRecording[]> => {
      if (!source.far) return [];
      const frames = source.state === 'kept' ? source.frames : await storedFrames(source.id);
      const recording = { ...source.far.recording, frames, closed: true };
      const kept = source.far.kept === true;
      return [{ recording, name: source.name, source: source.id, sentFrames: kept ? frames : 0, kept }];
    }),
  );
  return found.flat().sort((a, b) => a.recording.startsAt - b.recording.startsAt);
}

const change = (id: string, changes: (own: OwnRecording) => Partial<OwnRecording>) =>
  useTalent.setState(({ own }) => ({
    own: own.map((one) => (one.recording.id === id ? { ...one, ...changes(one) } : one)),
  }));

const ownOf = (id: string) => useTalent.getState().own.find(({ recording }) => recording.id === id);

/** What is told of a recording that has been asked for. */
interface Events {
  began(recording: BegunRecording): void;
  grown(id: string, frames: number, closed: boolean): void;
  failed(code: string, text: string): void;
}

/** Recordings that are being made, until they are on disk. */
const running = new Set<Promise<void>>();
const endMs = 4000;

/** Resolves when everything that was recorded is on disk, or after a while. */
export const allEnded = (): Promise<unknown> =>
  within(Promise.all(running), endMs, '').catch(() => undefined);

/**
 * Records a take from a second of the own clock on, into blocks of this browser. A take that was told of late
 * begins with what is still held of it.
 */
export function recordTake(
  room: string,
  life: string,
  take: WantedTake,
  atSeconds: number,
  events: Events,
): void {
  const context = currentEngine()?.context;
  if (!context) return events.failed('no-device', say`The microphone of the talent is not open.`);
  const rateHz = context.sampleRate;
  const from = Math.max(atSeconds, context.currentTime - heldSeconds);
  const id = newId();
  const source: Omit<SourceRecord, 'frames' | 'handleFrames'> = {
    id,
    projectIds: [projectOfRoom(room)],
    partId: '',
    trackId: '',
    take: 0,
    name: take.name,
    rateHz,
    channels: 1,
    state: 'recording',
    startedAt: Date.now(),
    overrunFrames: 0,
    input: useTalent.getState().microphoneName,
    role: 'far',
  };
  const atFrame = Math.round(from * rateHz);
  // A simulated microphone reads while a take runs.
  openedInput()?.start?.(atFrame);
  let begun: FarRecording | null = null;
  let over: () => void = () => undefined;
  const done = new Promise<void>((resolve) => (over = resolve));
  running.add(done);
  startRecording(
    {
      source,
      input: mainInput,
      channels: [0],
      atFrame,
      handleFrames: Math.round(handleSeconds.before * rateHz),
      waitMs: Math.max(0, from - context.currentTime) * 1000 + waitMs,
    },
    {
      started(handleFrames) {
        const startsAt = (atFrame - handleFrames) / rateHz;
        const made = { id, take: take.id, rateHz, channels: 1, startsAt };
        begun = { ...made, frames: 0, closed: false, life, clock: null, studioLife: null };
        const own = { recording: begun, name: take.name, source: id, sentFrames: 0, kept: false };
        useTalent.setState((state) => ({ own: [...state.own, own], recording: true }));
        events.began(made);
      },
      peaks(_peaks, _frames, _overruns, stored) {
        if (!begun) return;
        change(id, ({ recording }) => ({ recording: { ...recording, frames: stored } }));
        events.grown(id, stored, false);
      },
      ended(result, failure) {
        useTalent.setState({ recording: false });
        running.delete(done);
        over();
        if (currentEngine()) openedInput()?.stop?.(contextFrame(context));
        if (failure) events.failed('device-lost', say`Recording stopped where the talent is: ${failure}`);
        if (!begun) {
          if (!failure) events.failed('not-found', say`Nothing was recorded where the talent is.`);
          return;
        }
        change(id, ({ recording }) => ({
          recording: { ...recording, frames: Math.max(result.frames, recording.frames), closed: true },
        }));
        events.grown(id, result.frames, true);
        void finishSource(id, { state: 'kept', frames: result.frames }).catch(() => undefined);
      },
    },
  );
}

/** The recording ends at a second of the own clock. */
export function endTake(id: string, atSeconds: number): void {
  const rateHz = currentEngine()?.context.sampleRate ?? 48_000;
  endRecording(id, Math.round(atSeconds * rateHz), Math.round(handleSeconds.after * rateHz));
}

const noted = new Map<string, string>();

/** Keeps what is known of a recording with it. */
export function noteRecording(recording: FarRecording, person: string): void {
  change(recording.id, () => ({ recording }));
  const said = JSON.stringify({ ...recording, frames: 0 });
  if (noted.get(recording.id) === said) return;
  noted.set(recording.id, said);
  void keep(recording.id, { far: { recording, person } });
}

/** Its record is made with the first block: until then there is nothing to keep it with. */
async function keep(id: string, changes: Partial<SourceRecord>): Promise<void> {
  try {
    const record = await sourceRecord(id);
    if (record) await createSource({ ...record, ...changes });
    else noted.delete(id);
  } catch (thrown) {
    noted.delete(id);
    useTalent.setState({ trouble: toParolaError(thrown).message });
  }
}

/** All of a recording stands at the studio; it stays here as well until it is removed. */
export function markKept(id: string): void {
  const own = ownOf(id);
  if (!own) return;
  change(id, ({ recording }) => ({ kept: true, sentFrames: recording.frames }));
  void sourceRecord(id)
    .then((record) => record?.far && createSource({ ...record, far: { ...record.far, kept: true } }))
    .catch(() => undefined);
}

export const showSent = (id: string, blocks: number) =>
  change(id, ({ recording }) => ({ sentFrames: Math.min(recording.frames, blocks * blockFrames) }));

/** A block as it is sent; null where it is not on disk yet. */
export async function blockToSend(id: string, index: number): Promise<Uint8Array<ArrayBuffer> | null> {
  const read = readBlock(id, index);
  const audio = await within(read, readMs, say`The storage of this browser does not answer.`);
  return audio ? writeBlockMessage({ recording: id, index, audio }) : null;
}

/**
 * Removes from this browser what stands whole at the studio. Rejects with ParolaError where storage fails.
 */
export async function removeKept(): Promise<void> {
  for (const { source, recording, kept } of useTalent.getState().own) {
    if (!kept) continue;
    await removeSource(source);
    useTalent.setState(({ own }) => ({ own: own.filter((one) => one.recording.id !== recording.id) }));
  }
}
