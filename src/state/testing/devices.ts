import type { OpenInput } from '@/audio/inputs';
import type { FromRecorder, RecordingStart, TakeResult, ToRecorder } from '@/workers/recorderProtocol';
import { rate } from './fixture';

/**
 * Stand-ins for what a browser gives: an audio context whose clock stands still until it is moved, inputs
 * that can be unplugged, and a recorder that says only what a test lets it say.
 */

// — The clock and what is heard —

export const clock = { frame: 1000 };

export const engine = {
  context: {
    get currentTime() {
      return clock.frame / rate;
    },
    sampleRate: rate,
    destination: 'ears',
  },
  bus: 'bus',
};

let isOpen = false;
let onStopped: (gone: boolean) => void = () => undefined;
/** Set to make the browser's sound wait for ever, until it is let go. */
export const held: { engine: Promise<void> | null } = { engine: null };

export const engineModule = {
  startEngine: async () => {
    await held.engine;
    isOpen = true;
    return engine;
  },
  currentEngine: () => (isOpen ? engine : null),
  stopEngine: () => {
    isOpen = false;
    return Promise.resolve();
  },
  onEngineStopped: (handler: (gone: boolean) => void) => (onStopped = handler),
  outputId: () => '',
};

/** The browser stops its sound by itself. */
export function stopSound(gone: boolean): void {
  if (gone) isOpen = false;
  onStopped(gone);
}

/** What was given to the browser to play, with the frame at which it begins. */
export const heard: { frames: number; at: number; stopped: boolean }[] = [];

export const playAtModule = {
  countIn: (beats: number, rateHz: number) => new Float32Array(beats * rateHz).fill(0.5),
  playAt: (_context: unknown, _bus: unknown, [samples]: Float32Array[], at: number) => {
    if (!samples) return null;
    const sound = {
      frames: samples.length,
      samples,
      at,
      stopped: false,
      stop: () => (sound.stopped = true),
    };
    heard.push(sound);
    return sound;
  },
};

// — Inputs —

export interface FakeInput extends OpenInput {
  unplug: () => void;
  closed: boolean;
  started: number[];
  stopped: number[];
  connected: unknown[];
}

export function fakeInput(channels: number, simulated = false): FakeInput {
  let lost: () => void = () => undefined;
  const connected: unknown[] = [];
  const started: number[] = [];
  const stopped: number[] = [];
  const input: FakeInput = {
    node: {
      connect: (to: unknown) => connected.push(to),
      disconnect: (from: unknown) => connected.splice(connected.indexOf(from), 1),
    } as unknown as AudioNode,
    channels,
    granted: {
      label: 'Fake',
      rateHz: rate,
      channels,
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
    },
    estimatedRoundTripFrames: 480,
    onLost: (handler) => (lost = handler),
    ...(simulated && { start: (at) => started.push(at), stop: (at) => stopped.push(at) }),
    close: () => (input.closed = true),
    unplug: () => lost(),
    closed: false,
    started,
    stopped,
    connected,
  };
  return input;
}

/** What the next choices of an input open, in order; an error is thrown. */
export const inputs: (FakeInput | Error | Promise<FakeInput>)[] = [];
export const microphones: { deviceId: string; label: string }[] = [];
let devicesChanged: () => void = () => undefined;

async function nextInput(): Promise<FakeInput> {
  const next = await inputs.shift();
  if (!next) throw new Error('no input was prepared');
  if (next instanceof Error) throw next;
  return next;
}

export const inputsModule = {
  listMicrophones: () => Promise.resolve([...microphones]),
  listOutputs: () => Promise.resolve([]),
  onDevicesChanged: (handler: () => void) => {
    devicesChanged = handler;
    return () => (devicesChanged = () => undefined);
  },
  openMicrophone: async (_context: unknown, deviceId: string) => ({
    input: await nextInput(),
    deviceId: deviceId || 'granted',
    label: microphones.find((device) => device.deviceId === deviceId)?.label ?? 'Microphone',
  }),
};

export const simulatedInputModule = { openPracticeReader: nextInput, openFileInput: nextInput };

export const plug = () => devicesChanged();

export const captureModule = {
  Capture: {
    create: (_context: unknown, channels: number) => ({
      node: 'capture',
      ring: { buffer: new SharedArrayBuffer(8), channels, capacityFrames: 1 },
      onLost: () => undefined,
      close: () => undefined,
    }),
  },
};

// — The recorder —

export class FakeRecorder {
  static all: FakeRecorder[] = [];
  onmessage: (event: { data: FromRecorder }) => void = () => undefined;
  onerror: () => void = () => undefined;
  terminated = false;
  readonly told: ToRecorder[] = [];

  constructor() {
    FakeRecorder.all.push(this);
  }

  postMessage(message: ToRecorder) {
    this.told.push(message);
  }

  terminate() {
    this.terminated = true;
  }

  say(message: FromRecorder) {
    this.onmessage({ data: message });
  }

  of<T extends ToRecorder['type']>(type: T): Extract<ToRecorder, { type: T }>[] {
    return this.told.filter((message): message is Extract<ToRecorder, { type: T }> => message.type === type);
  }
}

export const recorder = () => FakeRecorder.all[FakeRecorder.all.length - 1];

/** The last recording that was asked for. */
export function asked(): RecordingStart {
  const start = recorder().of('start').at(-1);
  if (!start) throw new Error('nothing was asked for');
  return start;
}

export const resultOf = (
  sourceId: string,
  length: number,
  changes: Partial<TakeResult> = {},
): TakeResult => ({
  sourceId,
  frames: length,
  handleFrames: 0,
  length,
  overrunFrames: 0,
  summary: { peakDbfs: -6, loudnessLufs: -20, clippedSamples: 0 },
  ...changes,
});

/** As much is captured and stored as is said; the take has ended as it was asked to. */
export const finish = (length: number, changes: Partial<TakeResult> = {}) =>
  recorder().say({ type: 'finished', take: resultOf(asked().source.id, length, changes) });

export const begun = (handleFrames = 0) =>
  recorder().say({ type: 'started', sourceId: asked().source.id, handleFrames });

/** So much has come of the take that is asked for. */
export const captured = (frames: number) =>
  recorder().say({
    type: 'peaks',
    sourceId: asked().source.id,
    peaks: [new Float32Array(3)],
    frames,
    stored: 0,
    overrunFrames: 0,
  });

/** Everything as it is before an input was chosen. */
export function resetDevices(): void {
  Object.assign(globalThis, { Worker: FakeRecorder });
  FakeRecorder.all = [];
  clock.frame = 1000;
  held.engine = null;
  heard.length = 0;
  inputs.length = 0;
  microphones.length = 0;
}
