import { RingReader, type RingMemory } from '@/core/base/ring';
import { createSource, finishSource, writeBlock } from '@/storage/sources';
import type { FromRecorder, ToRecorder } from './recorderProtocol';
import { TakeWriter } from './takeWriter';

/**
 * Drains the capture ring. Between takes it keeps the last second, so that a take can begin with a handle; during a take it writes blocks.
 * It runs apart from the page: a busy interface costs no sample.
 */
const pollMs = 30;
/** After this long without audio a stop no longer waits for the rest of its handle. */
const deadInputMs = 400;

interface Recording {
  writer: TakeWriter;
  /** Frames of context time. */
  startFrame: number;
  endFrame: number;
  stopAfter: number;
  overrunsBefore: number;
}

let ring: RingReader | null = null;
let scratch: Float32Array[] = [];
let before: Float32Array[] = [];
let beforeFrames = 0;
let recording: Recording | null = null;
let starting: Extract<ToRecorder, { type: 'start' }> | null = null;
let heardAt = 0;

const send = (message: FromRecorder, transfer: Transferable[] = []) =>
  self.postMessage(message, { transfer });

function attach(memory: RingMemory) {
  ring = new RingReader(memory);
  scratch = Array.from({ length: memory.channels }, () => new Float32Array(memory.capacityFrames));
  before = Array.from({ length: memory.channels }, () => new Float32Array(65_536));
  beforeFrames = 0;
}

/** Keeps the newest frames of `scratch` in `before`. */
function remember(count: number) {
  const size = before[0].length;
  const take = Math.min(count, size);
  const keep = Math.min(beforeFrames, size - take);
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
  if (recording) take(recording, at, count);
  else {
    remember(count);
    if (starting) begin(starting, at + count);
  }
}

/** Starts the take once its first frame has been captured. `now` is the context frame after the newest one. */
function begin(command: Extract<ToRecorder, { type: 'start' }>, now: number) {
  if (!ring || now < command.atFrame) return;
  starting = null;
  const { source, atFrame } = command;
  const oldest = now - beforeFrames;
  const from = Math.max(oldest, atFrame - command.handleFrames);
  const handleFrames = Math.max(0, atFrame - from);
  const writer = new TakeWriter(source.id, ring.channels, handleFrames, (index, audio) =>
    (index === 0 ? createSource({ ...source, frames: 0, handleFrames }) : Promise.resolve()).then(() =>
      writeBlock(source.id, index, audio),
    ),
  );
  recording = {
    writer,
    startFrame: atFrame,
    endFrame: Infinity,
    stopAfter: Infinity,
    overrunsBefore: ring.overrunFrames,
  };
  send({ type: 'started', sourceId: source.id, handleFrames });
  report(recording, writer.append(before, from - oldest, now - from));
  beforeFrames = 0;
}

function report({ writer, overrunsBefore }: Recording, peaks: Float32Array<ArrayBuffer>) {
  const message: FromRecorder = {
    type: 'peaks',
    sourceId: writer.sourceId,
    peaks,
    frames: Math.max(0, writer.frames - writer.handleFrames),
    overrunFrames: (ring?.overrunFrames ?? 0) - overrunsBefore,
  };
  send(message, [peaks.buffer]);
}

function take(current: Recording, at: number, count: number) {
  const wanted = Math.max(0, Math.min(count, current.stopAfter - at));
  if (wanted > 0) report(current, current.writer.append(scratch, 0, wanted));
  const dead = current.endFrame < Infinity && performance.now() - heardAt > deadInputMs;
  if (current.writer.failure || at + count >= current.stopAfter || dead) void finish(current);
}

async function finish(current: Recording) {
  recording = null;
  const { writer, overrunsBefore } = current;
  const overrunFrames = (ring?.overrunFrames ?? 0) - overrunsBefore;
  const length = Math.min(current.endFrame - current.startFrame, writer.frames - writer.handleFrames);
  const result = await writer.finish(length, overrunFrames);
  const failure = writer.failure;
  await finishSource(result.sourceId, { frames: result.frames, overrunFrames }).catch(() => undefined);
  if (failure) send({ type: 'failed', take: result, code: failure.code, message: failure.message });
  else send({ type: 'finished', take: result });
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
      starting = data;
      break;
    case 'stop':
      if (recording) {
        recording.endFrame = data.atFrame;
        recording.stopAfter = data.atFrame + data.handleFrames;
      } else if (starting) {
        const sourceId = starting.source.id;
        starting = null;
        send({
          type: 'finished',
          take: { sourceId, frames: 0, handleFrames: 0, length: 0, overrunFrames: 0 },
        });
      }
      break;
  }
};

setInterval(poll, pollMs);
