import { cancelled } from '@/core/base/errors';
import { alignNear, type Alignment } from '@/core/dsp/alignment';
import { Resampler } from '@/core/dsp/resampler';
import { placeByClocks, planLaying, type Laying } from '@/core/far/laying';
import { Meter } from '@/core/loudness/measure';
import { BlockReader } from '@/storage/blockReader';
import { BlockWriter } from '@/storage/blocks';
import { readCompared } from './alignRecordings';
import type { ArrivedRecording, ImportJobs } from './importJobs';
import type { JobContext } from './protocol';
import { summaryOf } from './takeListener';

const chunkFrames = 1 << 17;
/** From the line's sound to the recording, and back where there is none. */
const fadeSeconds = 0.01;
/** How long the sound was on its way is known to this. */
const searchSeconds = 0.45;
/** Where no clocks were compared, a recording begins so long before its take. */
const handleSeconds = 1;
/** Mean squares are not asked for where the place is known. */
const stepSeconds = 0.01;

type Input = ImportJobs['layFar']['input'];

/** A recording, converted, from its beginning on: read forwards only. */
class Converted {
  private readonly resampler: Resampler | null;
  private at = 0;
  private readFrames = 0;
  private held = new Float32Array(0);
  readonly frames: number;

  constructor(
    private readonly reader: BlockReader,
    private readonly source: { id: string; frames: number },
    { convert }: Laying,
  ) {
    this.resampler = convert && new Resampler(convert.fromHz, convert.toHz);
    this.frames = this.resampler?.outputFrames(source.frames) ?? source.frames;
  }

  /** Frames [from, from + count), which lie within it and after those read before. */
  async read(from: number, count: number): Promise<Float32Array> {
    while (this.at + this.held.length < from + count) {
      const length = Math.min(chunkFrames, this.source.frames - this.readFrames);
      const chunk = new Float32Array(length);
      if (length > 0) await this.reader.read(this.source.id, 0, this.readFrames, length, chunk, 0);
      this.readFrames += length;
      const fresh = this.resampler
        ? length > 0
          ? this.resampler.process(chunk)
          : this.resampler.flush()
        : chunk;
      const drop = Math.min(this.held.length, Math.max(0, from - this.at));
      const joined = new Float32Array(this.held.length - drop + fresh.length);
      joined.set(this.held.subarray(drop));
      joined.set(fresh, this.held.length - drop);
      this.at += drop;
      this.held = joined;
      if (length === 0) break;
    }
    return this.held.subarray(from - this.at, from - this.at + count);
  }
}

/** What lies where over the line's sound. */
interface Laid {
  readonly converted: Converted;
  readonly first: number;
  readonly from: number;
  readonly to: number;
}

/**
 * Makes of a take that came over a line one of the same length in which the voice of one channel is what was
 * recorded at the line's other end: placed by the clocks, then by the sound, at the project's rate and clock.
 * Where that has nothing the line's sound stays. Other channels are as they were.
 */
export async function layFar(
  { take, channel, line, life, arrived, sourceId }: Input,
  { signal, progress }: Pick<JobContext, 'signal' | 'progress'>,
): Promise<ImportJobs['layFar']['output']> {
  const writer = new BlockWriter(sourceId, take.channels);
  const reader = new BlockReader([
    take,
    ...arrived.map(({ id, recording }) => ({ id, frames: recording.frames })),
  ]);
  const meter = new Meter(take.rateHz, take.channels);
  const startsAt = line.startsAt - take.handleFrames / take.rateHz;
  const places = [];
  const laid: Laid[] = [];
  for (const one of arrived) {
    if (one.recording.frames === 0) continue;
    const expected = expectedPlace(one, { startsAt, delaySeconds: line.delaySeconds }, life, take);
    const found = await alignNear(twoOf(reader, take, channel, one, signal), expected, searchSeconds);
    const place = found ?? expected;
    const plan = planLaying(place, one.recording.rateHz, take.rateHz, take.frames / take.rateHz);
    const converted = new Converted(reader, { id: one.id, frames: one.recording.frames }, plan);
    const [from, to] = [Math.max(0, -plan.first), Math.min(take.frames, converted.frames - plan.first)];
    if (to > from) laid.push({ converted, first: plan.first, from, to });
    places.push({
      moments: found?.moments ?? 0,
      ppm: place.ppm,
      lateSeconds: found ? found.offsetSeconds - expected.offsetSeconds : null,
      more: Math.max(0, converted.frames - plan.first - take.frames),
    });
  }
  try {
    for (let at = 0; at < take.frames; at += chunkFrames) {
      if (signal.aborted) throw cancelled();
      const count = Math.min(chunkFrames, take.frames - at);
      const audio = Array.from({ length: take.channels }, () => new Float32Array(count));
      for (const [index, samples] of audio.entries())
        await reader.read(take.id, index, at, count, samples, 0);
      for (const one of laid) await lay(audio[channel], at, one, take);
      await writer.write(audio);
      const skip = Math.min(count, Math.max(0, take.handleFrames - at));
      meter.process(audio.map((samples) => samples.subarray(skip)));
      progress(at / take.frames);
    }
    const covered = laid.reduce((sum, { from, to }) => sum + to - Math.max(from, take.handleFrames), 0);
    return { frames: await writer.close(), summary: summaryOf(meter.finish()), covered, places };
  } finally {
    await writer.settled();
  }
}

async function lay(
  samples: Float32Array,
  at: number,
  { converted, first, from, to }: Laid,
  take: Input['take'],
) {
  const [begin, end] = [Math.max(from, at), Math.min(to, at + samples.length)];
  if (end <= begin) return;
  const fresh = await converted.read(begin + first, end - begin);
  const fade = Math.round(fadeSeconds * take.rateHz);
  for (let frame = begin; frame < end; frame++) {
    // At the ends of the take there is nothing to come from.
    const up = from > 0 ? Math.min(1, (frame - from + 0.5) / fade) : 1;
    const down = to < take.frames ? Math.min(1, (to - frame - 0.5) / fade) : 1;
    const weight = Math.min(up, down);
    const sample = fresh[frame - begin];
    samples[frame - at] = weight === 1 ? sample : weight * sample + (1 - weight) * samples[frame - at];
  }
}

function expectedPlace(
  { recording }: ArrivedRecording,
  line: { startsAt: number; delaySeconds: number },
  life: string,
  { handleFrames, rateHz }: Input['take'],
): Pick<Alignment, 'offsetSeconds' | 'ppm'> {
  const byClocks = recording.studioLife === life ? placeByClocks(recording, line) : null;
  return byClocks ?? { offsetSeconds: handleSeconds - handleFrames / rateHz, ppm: 0 };
}

function twoOf(
  reader: BlockReader,
  take: Input['take'],
  channel: number,
  { id, recording }: ArrivedRecording,
  signal: AbortSignal,
) {
  const recordings = [
    { source: take.id, channel, frames: take.frames, rateHz: take.rateHz },
    { source: id, channel: 0, frames: recording.frames, rateHz: recording.rateHz },
  ] as const;
  const levels = recordings.map(
    ({ frames, rateHz }) => new Float32Array(Math.max(1, Math.round(frames / rateHz / stepSeconds))),
  );
  return {
    levels: [levels[0], levels[1]] as const,
    stepSeconds,
    ...readCompared(reader, recordings, signal),
  };
}
