import { say } from '@/texts/say';
import { loadWorklets } from '@/audio/capture';
import { assert, ParolaError } from '@/core/base/errors';
import { within } from '@/core/base/waiting';

/**
 * One audio context at the project's rate: playing and capture share its clock. Opened when an input is
 * chosen or something is played, closed with the project.
 */
export interface Engine {
  context: AudioContext;
  /** Everything Parola plays goes through here; the input heard through the software does not. */
  bus: GainNode;
}

let engine: Promise<Engine> | null = null;
let opened: Engine | null = null;
let outputDevice = '';
let onStopped: (gone: boolean) => void = () => undefined;

/** Told when the browser stops the context by itself: `gone` when it cannot be woken any more. */
export function onEngineStopped(handler: (gone: boolean) => void): void {
  onStopped = handler;
}

const startMs = 8000;
const wakeMs = 3000;

async function start(rateHz: number): Promise<Engine> {
  if (!globalThis.crossOriginIsolated) {
    throw new ParolaError(
      'unsupported',
      say`This page is not isolated, so the recorder has no shared memory. Open Parola at the address it printed when it started.`,
    );
  }
  const context = new AudioContext({ sampleRate: rateHz, latencyHint: 'interactive' });
  await within(loadWorklets(context), startMs, say`The browser does not start its sound. Reload the page.`);
  const bus = new GainNode(context);
  bus.connect(context.destination);
  await sendOutput(context).catch(() => (outputDevice = ''));
  const started = { context, bus };
  context.onstatechange = () => watch(started);
  return started;
}

/** A context that runs may be put to sleep, interrupted (a call comes in) or closed by the browser. */
function watch(current: Engine) {
  if (opened !== current) return;
  const state = current.context.state as AudioContextState | 'interrupted';
  if (state === 'running') return;
  const gone = state === 'closed';
  if (gone) {
    opened = null;
    engine = null;
  }
  onStopped(gone);
}

/**
 * The engine at this rate; a context that the browser had put to sleep is woken. Rejects with ParolaError
 * `no-answer` where it stays asleep.
 */
export async function startEngine(rateHz: number): Promise<Engine> {
  engine ??= start(rateHz).catch((error) => {
    engine = null;
    throw error;
  });
  const current = await engine;
  opened = current;
  if (current.context.state !== 'running')
    await within(
      current.context.resume(),
      wakeMs,
      say`The browser does not let sound begin. Click into the page, then try again.`,
    );
  return current;
}

/** The engine as it is, asleep or not; null while there is none. */
export const currentEngine = (): Engine | null => opened;

export async function stopEngine(): Promise<void> {
  const current = await engine?.catch(() => null);
  engine = null;
  opened = null;
  if (current && current.context.state !== 'closed')
    await within(current.context.close(), wakeMs, '').catch(() => undefined);
}

/** Only some browsers let a page choose where it is heard. */
export const canChooseOutput = () =>
  typeof AudioContext !== 'undefined' && 'setSinkId' in AudioContext.prototype;

async function sendOutput(context: AudioContext) {
  const movable = context as AudioContext & { setSinkId?: (id: string) => Promise<void> };
  if (outputDevice !== '') await movable.setSinkId?.(outputDevice);
}

/**
 * Plays on another device from now on; the empty name is the system's own choice. Throws `device-lost` when
 * it is not there.
 */
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
    throw new ParolaError('device-lost', say`This output is not there any more. Choose another one.`);
  }
}
export const outputId = () => outputDevice;
