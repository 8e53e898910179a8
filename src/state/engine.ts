import { Capture } from '@/audio/capture';
import { listMicrophones, openMicrophone, type Microphone, type OpenInput } from '@/audio/inputs';
import { openPracticeReader } from '@/audio/practiceReader';
import { ParolaError } from '@/core/base/errors';
import type { RingLevels } from '@/core/base/ring';
import type { InputChoice } from '@/storage/schema';
import type { FromRecorder, ToRecorder } from '@/workers/recorderProtocol';

/**
 * One audio context at the project's rate, one capture, one recorder worker: playing and capture share a clock. Opened when an
 * input is chosen or something is played, closed with the project.
 */
interface Engine {
  context: AudioContext;
  capture: Capture;
  recorder: Worker;
  input: OpenInput | null;
}

let engine: Promise<Engine> | null = null;
let onRecorder: (message: FromRecorder) => void = () => undefined;

export function onRecorderMessage(handler: (message: FromRecorder) => void): void {
  onRecorder = handler;
}

async function start(rateHz: number): Promise<Engine> {
  if (!globalThis.crossOriginIsolated) {
    throw new ParolaError(
      'unsupported',
      'This page is not isolated, so the recorder has no shared memory. Open Parola at the address it printed when it started.',
    );
  }
  const context = new AudioContext({ sampleRate: rateHz, latencyHint: 'interactive' });
  const capture = await Capture.create(context);
  const recorder = new Worker(new URL('../workers/recorder.worker.ts', import.meta.url), { type: 'module' });
  recorder.onmessage = ({ data }: MessageEvent<FromRecorder>) => onRecorder(data);
  const attach: ToRecorder = { type: 'attach', ring: capture.ring };
  recorder.postMessage(attach);
  return { context, capture, recorder, input: null };
}

/** The engine at this rate; a context that the browser had put to sleep is woken. */
export async function startEngine(rateHz: number): Promise<Engine> {
  engine ??= start(rateHz).catch((error) => {
    engine = null;
    throw error;
  });
  const current = await engine;
  if (current.context.state === 'suspended') await current.context.resume();
  return current;
}

export async function stopEngine(): Promise<void> {
  const current = await engine?.catch(() => null);
  engine = null;
  if (!current) return;
  current.input?.close();
  current.recorder.terminate();
  await current.context.close();
}

/** Opens the chosen input in place of the one before. Resolves to the choice as granted, with the device's real name. */
export async function openInput(
  choice: InputChoice,
  rateHz: number,
  onLost: () => void,
): Promise<{ choice: InputChoice; granted: string }> {
  const current = await startEngine(rateHz);
  current.input?.close();
  current.input = null;
  if (choice.kind === 'reader') {
    current.input = await openPracticeReader(current.context);
  } else {
    const { input, deviceId, label } = await openMicrophone(current.context, choice.deviceId);
    current.input = input;
    choice = { kind: 'microphone', deviceId, label };
  }
  current.input.node.connect(current.capture.node);
  current.input.onLost(onLost);
  return { choice, granted: current.input.granted };
}

export async function closeInput(): Promise<void> {
  const current = await engine;
  current?.input?.close();
  if (current) current.input = null;
}

export const microphones = (): Promise<Microphone[]> => listMicrophones();

export async function levels(): Promise<RingLevels | null> {
  return (await engine)?.capture.levels ?? null;
}
