import { language, say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import type { RingMemory } from '@/core/base/ring';
import { within } from '@/core/base/waiting';
import type { Finding, Signal } from '@/core/recording/levelWatch';
import { mainInput } from '@/core/recording/routing';
import { newId } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import { storedFrames } from '@/storage/blocks';
import { sourceRecord } from '@/storage/sources';
import type { FromRecorder, RecordingStart, TakeResult, ToRecorder } from '@/workers/recorderProtocol';

/** What becomes of a recording; `ended` is told once, whatever happens. */
export interface RecordingEvents {
  started?(handleFrames: number): void;
  peaks?(peaks: Float32Array[], frames: number, overrunFrames: number, stored: number): void;
  found?(findings: Finding[]): void;
  signal?(channel: number, signal: Signal): void;
  ended(take: TakeResult, failure: string | null): void;
}

const running = new Map<string, RecordingEvents>();
const rings = new Map<string, RingMemory>();
let worker: Worker | null = null;

// — The worker, and its death —

/**
 * The recorder says so often that it is alive; when this many turns of the watch pass without a word, it is
 * not.
 */
const watchMs = 250;
const silentTurns = 5;
let silent = 0;
let watch: ReturnType<typeof setInterval> | undefined;

function connect(): Worker {
  const fresh = new Worker(new URL('../../workers/recorder.worker.ts', import.meta.url), {
    type: 'module',
    name: language,
  });
  fresh.onmessage = ({ data }: MessageEvent<FromRecorder>) => receive(data);
  const died = () => lost(fresh);
  fresh.onerror = died;
  fresh.onmessageerror = died;
  for (const [input, ring] of rings) fresh.postMessage({ type: 'attach', input, ring } satisfies ToRecorder);
  return fresh;
}

const tell = (message: ToRecorder) => (worker ??= connect()).postMessage(message);

function follow() {
  silent = 0;
  watch ??= setInterval(() => {
    if (running.size === 0) {
      clearInterval(watch);
      watch = undefined;
    } else if (++silent >= silentTurns && worker) lost(worker);
  }, watchMs);
}

/**
 * The recorder has died: what it had stored of each recording is what there is, and the next one gets a new
 * recorder.
 */
function lost(dead: Worker) {
  if (worker !== dead) return;
  dead.terminate();
  worker = null;
  const ended = [...running];
  running.clear();
  for (const [id, events] of ended)
    void storedResult(id).then((take) =>
      events.ended(take, say`The recorder stopped unexpectedly, and a new one has been started.`),
    );
}

const noSummary = { peakDbfs: null, loudnessLufs: null, clippedSamples: 0 };
const nothing = (sourceId: string): TakeResult => ({
  sourceId,
  frames: 0,
  handleFrames: 0,
  length: 0,
  overrunFrames: 0,
  summary: noSummary,
});
const readMs = 5000;

/** What of a recording is on disk, when nobody else can say it. */
async function storedResult(sourceId: string): Promise<TakeResult> {
  try {
    const read = Promise.all([sourceRecord(sourceId), storedFrames(sourceId)]);
    const [record, frames] = await within(read, readMs, say`The storage of this browser does not answer.`);
    const { handleFrames = 0, overrunFrames = 0 } = record ?? {};
    const length = Math.max(0, frames - handleFrames);
    return { sourceId, frames, handleFrames, length, overrunFrames, summary: noSummary };
  } catch {
    // It is found when the project is opened again.
    return nothing(sourceId);
  }
}

// — Inputs —

/** The recorder listens to an input from now on: it always holds the last seconds. */
export function attachRing(input: string, ring: RingMemory): void {
  rings.set(input, ring);
  if (worker) tell({ type: 'attach', input, ring });
  else worker = connect();
}

/** The input is gone: what was captured is read to its end, and its recordings end there. */
export function detachRing(input: string): void {
  rings.delete(input);
  if (worker) tell({ type: 'detach', input });
}

/** Ends the recorder with the project; whatever still ran is told to have ended. */
export function stopRecorder(): void {
  rings.clear();
  worker?.terminate();
  worker = null;
  const ended = [...running];
  running.clear();
  for (const [id, events] of ended) events.ended(nothing(id), say`The project was closed.`);
}

// — Recordings —

/**
 * Asks for a recording; it begins when its first frame has been captured, and ends by itself when it has not
 * begun in time.
 */
export function startRecording(start: RecordingStart, events: RecordingEvents): void {
  running.set(start.source.id, events);
  tell({ type: 'start', ...start });
  follow();
}

/**
 * The take ends at `atFrame`, which may lie ahead. `ended` is told within a few seconds, even by a recorder
 * that is dead.
 */
export function endRecording(sourceId: string, atFrame: number, handleFrames: number): void {
  tell({ type: 'stop', sourceId, atFrame, handleFrames });
  follow();
}

/** A stretch of a check takes no longer than this beyond its own length. */
const checkSpareMs = 6000;

interface StretchWanted {
  readonly role: 'tone' | 'check';
  /** Of the main input. */
  readonly channel: number;
  readonly atFrame: number;
  readonly frames: number;
  readonly rateHz: number;
  /** Whose it is. */
  readonly projectId: string;
}

/**
 * A recording of the main input for a check, `frames` long, from a frame of the context on. Resolves when it
 * is stored; rejects with ParolaError `device-lost` when the input goes away meanwhile, `no-answer` when
 * nothing comes.
 */
export function recordStretch({ role, channel, atFrame, frames, rateHz, projectId }: StretchWanted): {
  sourceId: string;
  done: Promise<TakeResult>;
} {
  const source = {
    id: newId(),
    projectIds: [projectId],
    partId: '',
    trackId: '',
    take: 0,
    name: role === 'tone' ? say`Room tone` : say`Check`,
    rateHz,
    channels: 1,
    state: 'recording' as const,
    startedAt: Date.now(),
    overrunFrames: 0,
    input: '',
    role,
  };
  const whole = new Promise<TakeResult>((resolve, reject) => {
    startRecording(
      { source, input: mainInput, channels: [channel], atFrame, handleFrames: 0, waitMs: checkSpareMs },
      {
        ended(take, failure) {
          if (failure) reject(new ParolaError('device-lost', failure));
          else if (take.length < frames)
            reject(new ParolaError('device-lost', say`The input went away before the check was over.`));
          else resolve(take);
        },
      },
    );
    endRecording(source.id, atFrame + frames, 0);
  });
  const ms = (frames / rateHz) * 1000 + checkSpareMs;
  const done = within(whole, ms, say`No sound arrives from the input. Choose it again.`).finally(() =>
    running.delete(source.id),
  );
  return { sourceId: source.id, done };
}

function receive(message: FromRecorder) {
  silent = 0;
  if (message.type === 'alive') return;
  const id = 'take' in message ? message.take.sourceId : message.sourceId;
  const events = running.get(id);
  if (!events) return;
  switch (message.type) {
    case 'started':
      events.started?.(message.handleFrames);
      break;
    case 'peaks':
      events.peaks?.(message.peaks, message.frames, message.overrunFrames, message.stored);
      break;
    case 'found':
      events.found?.(message.findings);
      break;
    case 'signal':
      events.signal?.(message.channel, message.signal);
      break;
    case 'finished':
      running.delete(id);
      events.ended(message.take, null);
      break;
    case 'failed':
      running.delete(id);
      events.ended(message.take, message.message);
      break;
  }
}

export type { RecordingStart } from '@/workers/recorderProtocol';
export type RecordedSource = Omit<SourceRecord, 'frames' | 'handleFrames'>;
