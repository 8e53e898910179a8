import { say } from '@/texts/say';
import type { ErrorCode } from '@/core/base/errors';
import { within } from '@/core/base/waiting';
import { writeBlock } from '@/storage/blocks';
import { createSource, finishSource } from '@/storage/sources';
import { RecorderFeed } from './recorderFeed';
import type { FromRecorder, RecordingStart, TakeResult, ToRecorder } from './recorderProtocol';
import { TakeListener } from './takeListener';
import { TakeWriter, joined } from './takeWriter';

/**
 * Drains the capture rings. It always keeps the last seconds, so that a take can begin with a handle; of each
 * take it writes blocks, and listens to it. It runs apart from the page: a busy interface costs no sample.
 * Whatever happens to an input, each take that was asked for is told to have ended, once.
 */
const pollMs = 50;
/** Nobody waits for what is kept of an input that is only open: it is read every second time. */
const restingPolls = 2;
const aliveMs = 200;
/** What has been recorded is told so often: it is not drawn more often. */
const tellMs = 200;
/** What is known of a take is also known to the page: noting it down is not waited for longer. */
const noteMs = 2000;

interface Recording {
  feed: RecorderFeed;
  input: string;
  writer: TakeWriter;
  listener: TakeListener;
  channels: number[];
  rateHz: number;
  /** Frames of context time; `endFrame` is known once a stop was asked for. */
  startFrame: number;
  endFrame: number;
  stopAfter: number;
  overrunsBefore: number;
  /** Peaks the page has not been told of, by channel, and when it was told last. */
  untold: Float32Array<ArrayBuffer>[][];
  toldMs: number;
}

interface Waiting {
  start: RecordingStart;
  untilMs: number;
}

type Stop = Extract<ToRecorder, { type: 'stop' }>;

const feeds = new Map<string, RecorderFeed>();
let waiting: Waiting[] = [];
let recordings: Recording[] = [];
/** Stops that came before their take had begun. */
const stops = new Map<string, Stop>();
let saidAliveMs = 0;

const send = (message: FromRecorder, transfer: Transferable[] = []) =>
  self.postMessage(message, { transfer });

let polls = 0;

function poll() {
  const resting = recordings.length + waiting.length === 0;
  if (resting && ++polls % restingPolls !== 0) return;
  for (const [input, feed] of feeds) readFeed(input, feed);
  for (const { start, untilMs } of [...waiting])
    if (performance.now() > untilMs)
      neverBegun(start, 'no-answer', say`No sound arrives from the input. Choose it again.`);
  sayAlive();
}

function readFeed(input: string, feed: RecorderFeed) {
  feed.read();
  for (const recording of recordings) if (recording.feed === feed) take(recording, 0);
  const due = waiting.filter(({ start }) => start.input === input && start.atFrame < feed.at + feed.count);
  waiting = waiting.filter((one) => !due.includes(one));
  for (const { start } of due) begin(start, feed);
}

function sayAlive() {
  if (recordings.length + waiting.length + ending === 0 || performance.now() - saidAliveMs < aliveMs) return;
  saidAliveMs = performance.now();
  send({ type: 'alive' });
}

/** Starts a take whose first frame has been captured. */
function begin(
  { source, input, channels, atFrame, handleFrames: wanted }: RecordingStart,
  feed: RecorderFeed,
) {
  const oldest = feed.at - feed.keptCount;
  const from = Math.max(oldest, atFrame - wanted);
  const handleFrames = Math.max(0, atFrame - from);
  const writer = new TakeWriter(source.id, channels.length, handleFrames, (index, audio) =>
    (index === 0 ? createSource({ ...source, frames: 0, handleFrames }) : Promise.resolve()).then(() =>
      writeBlock(source.id, index, audio),
    ),
  );
  const stop = stops.get(source.id);
  stops.delete(source.id);
  const recording: Recording = {
    feed,
    input,
    writer,
    listener: new TakeListener(source.rateHz, channels.length),
    channels,
    rateHz: source.rateHz,
    startFrame: atFrame,
    endFrame: stop ? stop.atFrame : Infinity,
    stopAfter: stop ? stop.atFrame + stop.handleFrames : Infinity,
    overrunsBefore: feed.overrunFrames,
    untold: channels.map(() => []),
    toldMs: 0,
  };
  recordings.push(recording);
  send({ type: 'started', sourceId: source.id, handleFrames });
  if (from < feed.at) append(recording, feed.kept, from - oldest, feed.at - from);
  take(recording, Math.max(0, from - feed.at));
}

/** Gives a recording what is fresh of its feed from frame `skip` on, as far as it wants it. */
function take(recording: Recording, skip: number) {
  const { feed, writer, stopAfter } = recording;
  const wanted = Math.max(0, Math.min(feed.count, stopAfter - feed.at) - skip);
  if (wanted > 0) append(recording, feed.fresh, skip, wanted);
  const silence = feed.silence(stopAfter, recording.rateHz, performance.now());
  if (writer.failure || feed.at + feed.count >= stopAfter || silence === 'ended') void finish(recording);
  else if (silence === 'lost')
    void finish(recording, { code: 'device-lost', message: say`No sound arrives from the input any more.` });
}

function append(recording: Recording, audio: readonly Float32Array[], from: number, count: number) {
  const { writer, listener, channels } = recording;
  const own = channels.map((channel) => audio[Math.min(channel, audio.length - 1)]);
  const received = writer.frames;
  writer.append(own, from, count).forEach((peaks, channel) => recording.untold[channel].push(peaks));
  listen(recording, own, from, count, received);
  if (performance.now() - recording.toldMs >= tellMs) tell(recording);
  for (const changed of listener.changedSignals()) {
    send({ type: 'signal', sourceId: writer.sourceId, ...changed });
  }
}

function tell(recording: Recording) {
  const { feed, writer, overrunsBefore } = recording;
  const peaks = recording.untold.map(joined);
  recording.untold = peaks.map(() => []);
  recording.toldMs = performance.now();
  const message: FromRecorder = {
    type: 'peaks',
    sourceId: writer.sourceId,
    peaks,
    frames: Math.max(0, writer.frames - writer.handleFrames),
    stored: writer.stored,
    overrunFrames: feed.overrunFrames - overrunsBefore,
  };
  send(
    message,
    peaks.map(({ buffer }) => buffer),
  );
}

/**
 * Handles are not the take: neither what came before its first frame nor what comes after its last is judged.
 */
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

/** Takes that are being written to their end. */
let ending = 0;

async function finish(recording: Recording, lost: { code: ErrorCode; message: string } | null = null) {
  recordings = recordings.filter((other) => other !== recording);
  tell(recording);
  ending++;
  const { feed, writer, listener, overrunsBefore } = recording;
  const overrunFrames = feed.overrunFrames - overrunsBefore;
  const length = Math.min(recording.endFrame - recording.startFrame, writer.frames - writer.handleFrames);
  const { findings, summary } = listener.finish();
  const result: TakeResult = { ...(await writer.finish(length, overrunFrames)), summary };
  const told = finishSource(result.sourceId, { frames: result.frames, overrunFrames, summary });
  await within(told, noteMs, '').catch(() => undefined);
  ending--;
  if (findings.length > 0) send({ type: 'found', sourceId: writer.sourceId, findings });
  const failure = writer.failure ?? lost;
  if (failure) send({ type: 'failed', take: result, code: failure.code, message: failure.message });
  else send({ type: 'finished', take: result });
}

const noTake = (sourceId: string): TakeResult => ({
  sourceId,
  frames: 0,
  handleFrames: 0,
  length: 0,
  overrunFrames: 0,
  summary: { peakDbfs: null, loudnessLufs: null, clippedSamples: 0 },
});

function neverBegun({ source }: RecordingStart, code: ErrorCode, message: string) {
  waiting = waiting.filter(({ start }) => start.source.id !== source.id);
  stops.delete(source.id);
  send({ type: 'failed', take: noTake(source.id), code, message });
}

function stop(message: Stop) {
  const { sourceId, atFrame, handleFrames } = message;
  const recording = recordings.find(({ writer }) => writer.sourceId === sourceId);
  if (recording) {
    recording.endFrame = atFrame;
    recording.stopAfter = atFrame + handleFrames;
    return;
  }
  const asked = waiting.find(({ start }) => start.source.id === sourceId);
  if (!asked) return;
  if (atFrame > asked.start.atFrame) {
    stops.set(sourceId, message);
    return;
  }
  // Stopped during the run-up: there is no take.
  waiting = waiting.filter((other) => other !== asked);
  send({ type: 'finished', take: noTake(sourceId) });
}

/**
 * The input is gone: what it has captured is read to its end, and whatever was recorded from it ends there.
 */
function detach(input: string) {
  const feed = feeds.get(input);
  if (!feed) return;
  readFeed(input, feed);
  feeds.delete(input);
  for (const recording of [...recordings]) if (recording.feed === feed) void finish(recording);
  for (const { start } of [...waiting])
    if (start.input === input)
      neverBegun(start, 'device-lost', say`The input went away before the take had begun.`);
}

self.onmessage = ({ data }: MessageEvent<ToRecorder>) => {
  switch (data.type) {
    case 'attach':
      detach(data.input);
      feeds.set(data.input, new RecorderFeed(data.ring));
      break;
    case 'detach':
      detach(data.input);
      break;
    case 'start':
      waiting.push({ start: data, untilMs: performance.now() + data.waitMs });
      break;
    case 'stop':
      stop(data);
      break;
  }
};

setInterval(poll, pollMs);
