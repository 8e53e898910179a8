import { cancelled } from '@/core/base/errors';
import { TimeStretch } from '@/core/dsp/timeStretch';
import { Meter } from '@/core/loudness/measure';
import { BlockReader } from '@/storage/blockReader';
import { BlockWriter } from '@/storage/blocks';
import type { ImportJobs } from './importJobs';
import type { JobContext } from './protocol';
import { summaryOf } from './takeListener';

const chunkFrames = 1 << 18;

/**
 * Makes a source faster or slower into the blocks of another one; it is as long as the first over the speed,
 * to the frame, but for what the last segment lacks.
 */
export async function stretchSource(
  { source, sourceId, speed, rateHz }: ImportJobs['stretch']['input'],
  { signal, progress }: Pick<JobContext, 'signal' | 'progress'>,
): Promise<ImportJobs['stretch']['output']> {
  const writer = new BlockWriter(sourceId, source.channels);
  const reader = new BlockReader([source]);
  const stretch = new TimeStretch(rateHz, source.channels, speed);
  const meter = new Meter(rateHz, source.channels);
  const whole = Math.round(source.frames / speed);
  let written = 0;
  const put = async (audio: Float32Array<ArrayBuffer>[]) => {
    const kept = audio.map((samples) => samples.subarray(0, whole - written));
    if (kept[0].length === 0) return;
    written += kept[0].length;
    await writer.write(kept);
    meter.process(kept);
  };
  try {
    for (let at = 0; at < source.frames; at += chunkFrames) {
      if (signal.aborted) throw cancelled();
      const frames = Math.min(chunkFrames, source.frames - at);
      const chunk = Array.from({ length: source.channels }, () => new Float32Array(frames));
      for (const [channel, samples] of chunk.entries())
        await reader.read(source.id, channel, at, frames, samples, 0);
      await put(stretch.process(chunk));
      progress(at / source.frames);
    }
    await put(stretch.flush());
    return { frames: await writer.close(), summary: summaryOf(meter.finish()) };
  } finally {
    await writer.settled();
  }
}
