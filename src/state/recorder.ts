import type { Finding, Signal } from '@/core/recording/levelWatch';
import { newId } from '@/storage/projects';
import type { SourceRecord } from '@/storage/schema';
import type { FromRecorder, TakeResult } from '@/workers/recorderProtocol';
import { onRecorderMessage, tellRecorder, type Engine } from './engine';
import { rateOfProject, useSession } from './session';

/** What becomes of a recording; `ended` is told once, whatever happens. */
export interface RecordingEvents {
  started?(handleFrames: number): void;
  peaks?(peaks: Float32Array[], frames: number, overrunFrames: number): void;
  found?(findings: Finding[]): void;
  signal?(channel: number, signal: Signal): void;
  ended(take: TakeResult, failure: string | null): void;
}

export interface RecordingStart {
  source: Omit<SourceRecord, 'frames' | 'handleFrames'>;
  inputs: number[];
  atFrame: number;
  handleFrames: number;
}

const running = new Map<string, RecordingEvents>();

/** Asks the recorder for a recording; it begins when its first frame has been captured. */
export function startRecording(engine: Engine, start: RecordingStart, events: RecordingEvents): void {
  running.set(start.source.id, events);
  tellRecorder(engine, { type: 'start', ...start });
}

/** A recording of the input for a check, `frames` long, from a frame of the context on. Resolves when it is stored. */
export function recordStretch(
  engine: Engine,
  role: 'tone' | 'check',
  input: number,
  atFrame: number,
  frames: number,
): { sourceId: string; done: Promise<TakeResult> } {
  const rateHz = rateOfProject();
  const source = {
    id: newId(),
    projectIds: [useSession.getState().project?.id ?? ''],
    partId: '',
    trackId: '',
    take: 0,
    name: role === 'tone' ? 'Room tone' : 'Check',
    rateHz,
    channels: 1,
    state: 'recording' as const,
    startedAt: Date.now(),
    overrunFrames: 0,
    input: '',
    role,
  };
  const done = new Promise<TakeResult>((resolve, reject) => {
    const start = { source, inputs: [input], atFrame, handleFrames: 0 };
    startRecording(engine, start, {
      ended: (take, failure) => (failure ? reject(new Error(failure)) : resolve(take)),
    });
    tellRecorder(engine, { type: 'stop', sourceId: source.id, atFrame: atFrame + frames, handleFrames: 0 });
  });
  return { sourceId: source.id, done };
}

/** Forgets recordings that nobody will end any more: their engine has been stopped. */
export const forgetRecordings = () => running.clear();

onRecorderMessage((message: FromRecorder) => {
  const id = 'take' in message ? message.take.sourceId : message.sourceId;
  const events = running.get(id);
  if (!events) return;
  switch (message.type) {
    case 'started':
      events.started?.(message.handleFrames);
      break;
    case 'peaks':
      events.peaks?.(message.peaks, message.frames, message.overrunFrames);
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
});
