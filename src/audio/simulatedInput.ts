import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { formatBytes } from '@/core/base/units';
import type { OpenInput } from './inputs';
import type { SimulatedOptions, ToSimulated } from './worklets/simulatedProtocol';

/**
 * The shipped readings: the script of the demo with flubs, claps and re-readings; a conversation on two
 * microphones; what an interpreter says over the visitor's statement, with a mistake; the lines of the film.
 */
const readings = {
  narration: ['/demo/practice-reader.mp3'],
  interpretation: ['/demo/interpretation.mp3'],
  conversation: ['/demo/boat-builder-1.mp3', '/demo/boat-builder-2.mp3'],
  cues: ['/demo/keepers-reader.mp3'],
} as const;
/**
 * The lines of the film twice over, each as long as the film: they are read where they stand on the sheet,
 * and the second time another way.
 */
const roundsOfCues = 2;
/** Read so long before the place that is asked for: somebody may be early. */
const earlySeconds = 0.5;
const firstLineSeconds = 4;
export type ReaderScript = keyof typeof readings;

/** The room before the reader begins, and after it stops: this stretch of the reading is looped. */
const roomSeconds = { from: 0.05, to: 0.18 };
/** Beyond this a decoded file would not fit into memory. */
const largestFileBytes = 400e6;

const decoded = new Map<string, Promise<AudioBuffer>>();
/**
 * Where the next take goes on reading, in frames, by reading; kept while the page is open, as a reader keeps
 * the place.
 */
const places = new Map<string, number>();

async function load(context: BaseAudioContext, address: string): Promise<AudioBuffer> {
  const key = `${address} ${context.sampleRate}`;
  const known = decoded.get(key);
  if (known) return known;
  const loading = fetch(address)
    .then((response) => response.arrayBuffer())
    .then((bytes) => context.decodeAudioData(bytes));
  decoded.set(key, loading);
  loading.catch(() => decoded.delete(key));
  return loading;
}

const channelsOf = (buffer: AudioBuffer) =>
  Array.from({ length: buffer.numberOfChannels }, (_, channel) => buffer.getChannelData(channel).slice());

export interface ReaderSettings {
  script: ReaderScript;
  /** Frames by which everything arrives later, to stand in for a real device's latency. */
  delayFrames: number;
  /** Whether it hears what is played, as a microphone beside loudspeakers does. */
  hearsOutput: boolean;
}

/**
 * Reads while a take runs, goes on where it stopped, is a quiet room otherwise. `playing` is what the
 * application plays.
 */
export async function openPracticeReader(
  context: AudioContext,
  playing: AudioNode,
  { script, delayFrames, hearsOutput }: ReaderSettings,
): Promise<OpenInput> {
  const buffers = await Promise.all(readings[script].map((address) => load(context, address)));
  const reading = buffers.map((buffer) => buffer.getChannelData(0).slice());
  const room = {
    from: Math.round(roomSeconds.from * context.sampleRate),
    to: Math.round(roomSeconds.to * context.sampleRate),
  };
  const input = simulate(context, script, { reading, room, delayFrames }, playing, hearsOutput);
  return script === 'cues' ? byCue(input, reading[0].length / roundsOfCues, context.sampleRate) : input;
}

/** How often each place of the sheet has been read, while the page is open. */
const readBefore = new Map<number, number>();

/** Reads what stands at a place of the sheet instead of going on where it stopped. */
function byCue({ read, ...input }: SimulatedInput, roundFrames: number, rateHz: number): OpenInput {
  const early = Math.round(earlySeconds * rateHz);
  return {
    ...input,
    start(atFrame, line = { from: firstLineSeconds * rateHz, to: Infinity }) {
      const round = (readBefore.get(line.from) ?? 0) % roundsOfCues;
      readBefore.set(line.from, round + 1);
      const first = Math.max(0, line.from - early);
      read(atFrame - line.from + first, Math.round(round * roundFrames) + first);
      // The next line is another one's.
      if (line.to < Infinity) input.stop?.(atFrame + line.to - line.from + early);
    },
  };
}

/**
 * Any audio file the browser can decode, played into the recording path in real time, from its start on, take
 * after take.
 */
export async function openFileInput(
  context: AudioContext,
  playing: AudioNode,
  file: File,
): Promise<OpenInput> {
  if (file.size > largestFileBytes) {
    throw new ParolaError(
      'too-large',
      say`“${file.name}” is ${formatBytes(file.size)}; as an input a file has at most ${formatBytes(largestFileBytes)}. Cut it into shorter files.`,
    );
  }
  let buffer: AudioBuffer;
  try {
    buffer = await context.decodeAudioData(await file.arrayBuffer());
  } catch {
    throw new ParolaError(
      'not-audio',
      say`“${file.name}” could not be read as audio. Choose a WAV, FLAC, MP3, M4A, Ogg or WebM file.`,
    );
  }
  const key = `${file.name} ${file.size} ${file.lastModified}`;
  const options = { reading: channelsOf(buffer), room: null, delayFrames: 0 };
  return simulate(context, key, options, playing, false);
}

/** One that can be told where to read. */
interface SimulatedInput extends OpenInput {
  read(atFrame: number, place: number): void;
}

function simulate(
  context: AudioContext,
  key: string,
  options: SimulatedOptions,
  playing: AudioNode,
  hearsOutput: boolean,
): SimulatedInput {
  const channels = options.reading.length;
  const node = new AudioWorkletNode(context, 'parola-simulated', {
    numberOfInputs: 1,
    numberOfOutputs: 1,
    outputChannelCount: [channels],
    channelCount: 1,
    channelCountMode: 'explicit',
    processorOptions: options,
  });
  if (hearsOutput) playing.connect(node);
  const send = (message: ToSimulated) => node.port.postMessage(message);
  const length = options.reading[0].length;
  let startedAt: number | null = null;
  return {
    node,
    channels,
    granted: {
      label: '',
      rateHz: context.sampleRate,
      channels,
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
    },
    // It lives in the same graph: what is played is heard in the same frame, unless a delay was asked for.
    estimatedRoundTripFrames: 0,
    onLost: (handler) => node.addEventListener('processorerror', handler, { once: true }),
    start(atFrame) {
      if (startedAt !== null) return;
      if ((places.get(key) ?? 0) >= length - context.sampleRate / 2) places.set(key, 0);
      startedAt = atFrame;
      send({ type: 'read', atFrame, place: places.get(key) ?? 0 });
    },
    read: (atFrame, place) => send({ type: 'read', atFrame, place }),
    stop(atFrame) {
      if (startedAt === null) return send({ type: 'rest', atFrame });
      places.set(key, Math.max(0, (places.get(key) ?? 0) + atFrame - startedAt));
      startedAt = null;
      send({ type: 'rest', atFrame });
    },
    hear(on) {
      if (hearsOutput) return;
      if (on) playing.connect(node);
      else playing.disconnect(node);
    },
    close() {
      send({ type: 'close' });
      if (hearsOutput) playing.disconnect(node);
      node.disconnect();
    },
  };
}
