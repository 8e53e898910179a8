import { RingReader, type RingMemory } from '@/core/base/ring';
import { createSource, finishSource, writeBlock } from '@/storage/sources';
import type { FromRecorder, ToRecorder } from './recorderProtocol';
import { TakeListener } from './takeListener';
import { TakeWriter } from './takeWriter';

/**
 * Drains the capture ring. It always keeps the last seconds, so that a take can begin with a handle; of each take it writes blocks, and
 * listens to it. It runs apart from the page: a busy interface costs no sample.
 */
const pollMs = 30;
/** After this long without audio a stop no longer waits for the rest of its handle. */
const deadInputMs = 400;
/** 2.7 s at 48 kHz. */
const keptFrames = 131_072;

type Start = Extract<ToRecorder, { type: 'start' }>;

interface Recording {
  writer: TakeWriter;
  listener: TakeListener;
  inputs: number[];
  rateHz: number;
  /** Frames of context time; `endFrame` is known once a stop was asked for. */
  startFrame: number;
  endFrame: number;
  stopAfter: number;
  overrunsBefore: number;
}

let ring: RingReader | null = null;
let scratch: Float32Array[] = [];
/** The newest frames read before those in `scratch`. */
let before: Float32Array[] = [];
let beforeFrames = 0;
let waiting: Start[] = [];
let recordings: Recording[] = [];
/** Stops that came before their take had begun. */
const stops = new Map<string, Extract<ToRecorder, { type: 'stop' }>>();
let heardAt = 0;

const send = (message: FromRecorder, transfer: Transferable[] = []) =>
  self.postMessage(message, { transfer });

function attach(memory: RingMemory) {
  ring = new RingReader(memory);
  scratch = Array.from({ length: memory.channels }, () => new Float32Array(memory.capacityFrames));
  before = Array.from({ length: memory.channels }, () => new Float32Array(keptFrames));
  beforeFrames = 0;
}

/** Keeps the newest frames of `scratch` in `before`. */
function remember(count: number) {
  const take = Math.min(count, keptFrames);
  const keep = Math.min(beforeFrames, keptFrames - take);
  for (let channel = 0; channel < before.length; channel++) {
    before[channel].copyWithin(0, beforeFrames - keep, beforeFrames);
    before[channel].set(scratch[channel].subarray(count - take, count), keep);
  }
  beforeFrames = keep + take;
}

function poll() {
  if (!ring) return;
  const at = ring.startFrame + ring.readFrames;
  const count = ring.read(scratch, 0, scratch[0].length);
  if (count > 0) heardAt = performance.now();
  for (const recording of recordings) take(recording, at, 0, count);
  const due = waiting.filter(({ atFrame }) => atFrame < at + count);
  waiting = waiting.filter((start) => !due.includes(start));
  for (const start of due) begin(start, at, count);
  remember(count);
}

/** Starts a take whose first frame has been captured; `scratch` holds `count` frames from context frame `at` on. */
function begin({ source, inputs, atFrame, handleFrames: wanted }: Start, at: number, count: number) {
  if (!ring) return;
  const oldest = at - beforeFrames;
  const from = Math.max(oldest, atFrame - wanted);
  const handleFrames = Math.max(0, atFrame - from);
  const writer = new TakeWriter(source.id, inputs.length, handleFrames, (index, audio) =>
    (index === 0 ? createSource({ ...source, frames: 0, handleFrames }) : Promise.resolve()).then(() =>
      writeBlock(source.id, index, audio),
    ),
  );
  const stop = stops.get(source.id);
  stops.delete(source.id);
  const recording: Recording = {
    writer,
    listener: new TakeListener(source.rateHz, inputs.length),
    inputs,
    rateHz: source.rateHz,
    startFrame: atFrame,
    endFrame: stop ? stop.atFrame : Infinity,
    stopAfter: stop ? stop.atFrame + stop.handleFrames : Infinity,
    overrunsBefore: ring.overrunFrames,
  };
  recordings.push(recording);
  send({ type: 'started', sourceId: source.id, handleFrames });
  if (from < at) append(recording, before, from - oldest, at - from);
  take(recording, at, Math.max(0, from - at), count);
}

/** Gives a recording the frames [skip, count) of `scratch`, as far as it wants them. */
function take(recording: Recording, at: number, skip: number, count: number) {
  const wanted = Math.max(0, Math.min(count, recording.stopAfter - at) - skip);
  if (wanted > 0) append(recording, scratch, skip, wanted);
  const dead = recording.endFrame < Infinity && performance.now() - heardAt > deadInputMs;
  if (recording.writer.failure || at + count >= recording.stopAfter || dead) void finish(recording);
}

function append(recording: Recording, audio: readonly Float32Array[], from: number, count: number) {
  const { writer, listener, inputs, overrunsBefore } = recording;
  const channels = inputs.map((input) => audio[Math.min(input, audio.length - 1)]);
  const received = writer.frames;
  const peaks = writer.append(channels, from, count);
  listen(recording, channels, from, count, received);
  const message: FromRecorder = {
    type: 'peaks',
    sourceId: writer.sourceId,
    peaks,
    frames: Math.max(0, writer.frames - writer.handleFrames),
    overrunFrames: (ring?.overrunFrames ?? 0) - overrunsBefore,
  };
  send(
    message,
    peaks.map(({ buffer }) => buffer),
  );
  for (const changed of listener.changedSignals()) {
    send({ type: 'signal', sourceId: writer.sourceId, ...changed });
  }
}

/** Handles are not the take: neither what came before its first frame nor what comes after its last is judged. */
function listen(
  { writer, listener, startFrame, endFrame }: Recording,
  audio: readonly Float32Array[],
  from: number,
  count: number,
  received: number,
) {
  const first = Math.max(0, writer.handleFrames - received);
  const last = Math.min(count, writer.handleFrames + (endFrame - startFrame) - received);
  if (last <= first) return;
  const findings = listener.process(audio.map((samples) => samples.subarray(from + first, from + last)));
  if (findings.length > 0) send({ type: 'found', sourceId: writer.sourceId, findings });
}

async function finish(recording: Recording) {
  recordings = recordings.filter((other) => other !== recording);
  const { writer, listener, overrunsBefore } = recording;
  const overrunFrames = (ring?.overrunFrames ?? 0) - overrunsBefore;
  const length = Math.min(recording.endFrame - recording.startFrame, writer.frames - writer.handleFrames);
  const { findings, summary } = listener.finish();
  const result = { ...(await writer.finish(length, overrunFrames)), summary };
  const { failure } = writer;
  await finishSource(result.sourceId, { frames: result.frames, overrunFrames, summary }).catch(
    () => undefined,
  );
  if (findings.length > 0) send({ type: 'found', sourceId: writer.sourceId, findings });
  if (failure) send({ type: 'failed', take: result, code: failure.code, message: failure.message });
  else send({ type: 'finished', take: result });
}

function stop(message: Extract<ToRecorder, { type: 'stop' }>) {
  const { sourceId, atFrame, handleFrames } = message;
  const recording = recordings.find(({ writer }) => writer.sourceId === sourceId);
  if (recording) {
    recording.endFrame = atFrame;
    recording.stopAfter = atFrame + handleFrames;
    return;
  }
  const start = waiting.find(({ source }) => source.id === sourceId);
  if (!start) return;
  if (atFrame > start.atFrame) {
    stops.set(sourceId, message);
    return;
  }
  // Stopped during the run-up: there is no take.
  waiting = waiting.filter((other) => other !== start);
  const summary = { peakDbfs: null, loudnessLufs: null, clippedSamples: 0 };
  send({
    type: 'finished',
    take: { sourceId, frames: 0, handleFrames: 0, length: 0, overrunFrames: 0, summary },
  });
}

self.onmessage = ({ data }: MessageEvent<ToRecorder>) => {
  switch (data.type) {
    case 'attach':
      attach(data.ring);
      break;
    case 'detach':
      ring = null;
      break;
    case 'start':
      waiting.push(data);
      break;
    case 'stop':
      stop(data);
      break;
  }
};

setInterval(poll, pollMs);
