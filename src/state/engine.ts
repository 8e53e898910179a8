import { Capture, loadWorklets } from '@/audio/capture';
import { openMicrophone, type OpenInput } from '@/audio/inputs';
import { openFileInput, openPracticeReader } from '@/audio/simulatedInput';
import { assert, ParolaError } from '@/core/base/errors';
import { RingLevels } from '@/core/base/ring';
import type { InputChoice } from '@/storage/schema';
import type { FromRecorder, ToRecorder } from '@/workers/recorderProtocol';

/**
 * One audio context at the project's rate, one recorder worker, and the input with its capture: playing and capture share a clock. Opened
 * when an input is chosen or something is played, closed with the project.
 */
export interface Engine {
  context: AudioContext;
  /** Everything Parola plays goes through here; the input heard through the software does not. */
  bus: GainNode;
  recorder: Worker;
  input: OpenInput | null;
  capture: Capture | null;
  monitoring: boolean;
}

let engine: Promise<Engine> | null = null;
let outputDevice = '';
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
  await loadWorklets(context);
  const bus = new GainNode(context);
  bus.connect(context.destination);
  const recorder = new Worker(new URL('../workers/recorder.worker.ts', import.meta.url), { type: 'module' });
  recorder.onmessage = ({ data }: MessageEvent<FromRecorder>) => onRecorder(data);
  await sendOutput(context).catch(() => (outputDevice = ''));
  return { context, bus, recorder, input: null, capture: null, monitoring: false };
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
  release(current);
  current.recorder.terminate();
  await current.context.close();
}

export const tellRecorder = ({ recorder }: Engine, message: ToRecorder) => recorder.postMessage(message);

function release(current: Engine) {
  const { input, capture } = current;
  if (capture) tellRecorder(current, { type: 'detach' });
  input?.close();
  capture?.close();
  current.input = null;
  current.capture = null;
  current.monitoring = false;
}

async function openChosen(
  { context, bus }: Engine,
  choice: InputChoice,
  file: File | null,
): Promise<{ input: OpenInput; choice: InputChoice }> {
  switch (choice.kind) {
    case 'reader': {
      const { script = 'narration', delayFrames = 0, hearsOutput = false } = choice;
      return { input: await openPracticeReader(context, bus, { script, delayFrames, hearsOutput }), choice };
    }
    case 'file':
      if (!file)
        throw new ParolaError(
          'not-found',
          `Choose the file “${choice.name}” again: a browser does not keep it.`,
        );
      return { input: await openFileInput(context, bus, file), choice };
    case 'microphone': {
      const { input, deviceId, label } = await openMicrophone(context, choice.deviceId);
      return { input, choice: { kind: 'microphone', deviceId, label } };
    }
  }
}

/** Opens the chosen input in place of the one before. Resolves to it and to the choice with the device's real name. */
export async function openInput(
  choice: InputChoice,
  rateHz: number,
  file: File | null,
  onLost: () => void,
): Promise<{ input: OpenInput; choice: InputChoice }> {
  const current = await startEngine(rateHz);
  release(current);
  const opened = await openChosen(current, choice, file);
  const { input } = opened;
  const capture = Capture.create(current.context, input.channels);
  input.node.connect(capture.node);
  current.input = input;
  current.capture = capture;
  tellRecorder(current, { type: 'attach', ring: capture.ring });
  input.onLost(onLost);
  return opened;
}

export async function closeInput(): Promise<void> {
  const current = await engine;
  if (current) release(current);
}

/** The input's levels on one of its channels, for a level column; null while none is open. */
export async function levels(channel: number): Promise<RingLevels | null> {
  const capture = (await engine?.catch(() => null))?.capture;
  return capture ? new RingLevels(capture.ring, Math.min(channel, capture.ring.channels - 1)) : null;
}

/** Lets the user hear the input through the software, or not; it never reaches what is played into a simulated input. */
export async function setMonitoring(on: boolean): Promise<void> {
  const current = await engine;
  const input = current?.input;
  if (!current || !input || current.monitoring === on) return;
  if (on) input.node.connect(current.context.destination);
  else input.node.disconnect(current.context.destination);
  current.monitoring = on;
}

/** Only some browsers let a page choose where it is heard. */
export const canChooseOutput = () =>
  typeof AudioContext !== 'undefined' && 'setSinkId' in AudioContext.prototype;

async function sendOutput(context: AudioContext) {
  const movable = context as AudioContext & { setSinkId?: (id: string) => Promise<void> };
  if (outputDevice !== '') await movable.setSinkId?.(outputDevice);
}

/** Plays on another device from now on; the empty name is the system's own choice. Throws `device-lost` when it is not there. */
export async function setOutput(deviceId: string): Promise<void> {
  outputDevice = deviceId;
  const current = await engine;
  if (!current) return;
  assert(canChooseOutput(), 'only offered where it is possible');
  try {
    await (current.context as AudioContext & { setSinkId: (id: string) => Promise<void> }).setSinkId(
      deviceId,
    );
  } catch {
    outputDevice = '';
    throw new ParolaError('device-lost', 'This output is not there any more. Choose another one.');
  }
}
export const outputId = () => outputDevice;
