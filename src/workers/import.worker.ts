import { say } from '@/texts/say';
import type { Planar } from '@/core/base/audio';
import { ParolaError, cancelled } from '@/core/base/errors';
import { Resampler } from '@/core/dsp/resampler';
import { Meter } from '@/core/loudness/measure';
import { BlockReader } from '@/storage/blockReader';
import { BlockWriter } from '@/storage/blocks';
import { repackSource } from '@/storage/repack';
import type { ChannelChoice, ImportJobs, ImportedSound } from './importJobs';
import { readMedia, type MediaSound } from './mediaFile';
import { keepFilm, lookAtPicture } from './filmFile';
import { layFar } from './layFar';
import type { JobContext } from './protocol';
import { serveJobs } from './serve';
import { stretchSource } from './stretchSource';
import { summaryOf } from './takeListener';

/** The channels that are kept of a chunk. */
function chosen(audio: Planar, choice: ChannelChoice): Float32Array[] {
  switch (choice) {
    case 'left':
      return [audio[0]];
    case 'right':
      return [audio[1] ?? audio[0]];
    case 'both':
      return [audio[0], audio[1] ?? audio[0]];
    case 'mean':
      return [audio.length === 1 ? audio[0] : meanOf(audio)];
  }
}

/** The mean of all channels, summed in their order. */
function meanOf(audio: Planar): Float32Array {
  const mean = new Float32Array(audio[0].length);
  if (audio.length === 2) {
    const [left, right] = audio;
    for (let i = 0; i < mean.length; i++) mean[i] = (left[i] + right[i]) / 2;
    return mean;
  }
  const sums = new Float64Array(audio[0]);
  for (const samples of audio.slice(1)) for (let i = 0; i < sums.length; i++) sums[i] += samples[i];
  for (let i = 0; i < mean.length; i++) mean[i] = sums[i] / audio.length;
  return mean;
}

const unread = (): ParolaError =>
  new ParolaError('not-audio', say`There is no audio in this file, or none of it could be decoded.`);

/** How far a file has been read when its length is not known: by its bytes, as nearly as they tell. */
const guessedFrames = (file: File, { rateHz, kind }: MediaSound) =>
  kind === 'mp3' ? (file.size / 16_000) * rateHz : file.size / 4;

/** Reads a file into blocks, converted once to the project's rate. */
async function readInto(
  writer: BlockWriter,
  { file, rateHz, channels: choice }: ImportJobs['read']['input'],
  { signal, progress }: JobContext,
): Promise<ImportedSound> {
  const channels = choice === 'both' ? 2 : 1;
  const meter = new Meter(rateHz, channels);
  let sound: MediaSound | null = null;
  let resamplers: Resampler[] = [];
  let read = 0;
  const put = async (audio: Planar) => {
    if (audio[0].length === 0) return;
    await writer.write(audio);
    meter.process(audio);
  };
  for await (const audio of readMedia(file, (found) => {
    sound = found;
    if (found.rateHz !== rateHz)
      resamplers = Array.from({ length: channels }, () => new Resampler(found.rateHz, rateHz));
  })) {
    if (signal.aborted) throw cancelled();
    const kept = chosen(audio, choice);
    await put(
      resamplers.length === 0 ? kept : kept.map((samples, channel) => resamplers[channel].process(samples)),
    );
    read += audio[0].length;
    if (sound) {
      const total = (sound as MediaSound).frames ?? guessedFrames(file, sound);
      progress(Math.min(0.99, read / Math.max(1, total)), file.name);
    }
  }
  if (resamplers.length > 0) await put(resamplers.map((resampler) => resampler.flush()));
  const frames = await writer.close();
  const found = sound as MediaSound | null;
  if (!found || frames === 0) throw unread();
  const scale = rateHz / found.rateHz;
  return {
    frames,
    channels,
    rateHz: found.rateHz,
    marks: found.marks
      .map(({ at, length, name }) => ({
        at: Math.round(at * scale),
        length: Math.round(length * scale),
        name,
      }))
      .filter(({ at }) => at < frames),
    truncated: found.truncated,
    damaged: found.damaged,
    notNumbers: found.notNumbers,
    summary: summaryOf(meter.finish()),
  };
}

const chunkFrames = 1 << 18;

/** What a film without sound is said to have. */
const mute = { rateHz: 0, channels: 0, marks: 0, origin: null };

/** The sound of a film that has none: it is there to be in step with. */
async function silenceInto(
  writer: BlockWriter,
  { rateHz, silentSeconds = 0 }: ImportJobs['read']['input'],
  { signal, progress }: JobContext,
): Promise<ImportedSound> {
  const total = Math.round(silentSeconds * rateHz);
  for (let at = 0; at < total; at += chunkFrames) {
    if (signal.aborted) throw cancelled();
    await writer.write([new Float32Array(Math.min(chunkFrames, total - at))]);
    progress(at / total);
  }
  const summary = { peakDbfs: null, loudnessLufs: null, clippedSamples: 0 };
  const whole = { marks: [], truncated: false, damaged: false, notNumbers: 0 };
  return { ...whole, frames: await writer.close(), channels: 1, rateHz, summary };
}

async function reclocked(
  writer: BlockWriter,
  { source, channel, clocks, rateHz }: ImportJobs['reclock']['input'],
  { signal, progress }: JobContext,
): Promise<ImportJobs['reclock']['output']> {
  const reader = new BlockReader([source]);
  const resampler = new Resampler(clocks.fromHz, clocks.toHz);
  const meter = new Meter(rateHz, 1);
  const put = async (audio: Float32Array<ArrayBuffer>) => {
    await writer.write([audio]);
    meter.process([audio]);
  };
  for (let at = 0; at < source.frames; at += chunkFrames) {
    if (signal.aborted) throw cancelled();
    const chunk = new Float32Array(Math.min(chunkFrames, source.frames - at));
    await reader.read(source.id, channel, at, chunk.length, chunk, 0);
    await put(resampler.process(chunk));
    progress(at / source.frames);
  }
  await put(resampler.flush());
  return { frames: await writer.close(), summary: summaryOf(meter.finish()) };
}

serveJobs<ImportJobs>({
  async look({ file }) {
    const picture = await lookAtPicture(file).catch(() => null);
    let found: MediaSound | null = null;
    try {
      for await (const audio of readMedia(file, (sound) => (found = sound))) if (audio.length > 0) break;
    } catch (error) {
      if (!picture) throw error;
    }
    const sound = found as MediaSound | null;
    if (!sound && picture) return { ...mute, kind: 'film', seconds: picture.seconds, picture };
    if (!sound) throw unread();
    const { kind, rateHz, channels, frames, marks, origin } = sound;
    return {
      kind,
      rateHz,
      channels,
      seconds: frames === null ? null : frames / rateHz,
      marks: marks.length,
      origin,
      picture,
    };
  },

  film: keepFilm,

  async read(input, context) {
    const writer = new BlockWriter(input.sourceId, input.channels === 'both' ? 2 : 1);
    if (input.silentSeconds) return silenceInto(writer, input, context).finally(() => writer.settled());
    return readInto(writer, input, context).finally(() => writer.settled());
  },

  async reclock(input, context) {
    const writer = new BlockWriter(input.sourceId, 1);
    return reclocked(writer, input, context).finally(() => writer.settled());
  },

  stretch: stretchSource,

  layFar,

  async repack({ sourceId }, { signal }) {
    await repackSource(sourceId, signal);
    return null;
  },
});
