import { cancelled } from '@/core/base/errors';
import { findAlignment, type Alignment, type TwoRecordings } from '@/core/dsp/alignment';
import { Resampler } from '@/core/dsp/resampler';
import { BlockReader } from '@/storage/blockReader';
import type { AnalysisJobs } from './analysisJobs';
import type { JobContext } from './protocol';

/** Where the two are compared: a thousandth of a second is eight of its samples. */
const comparedHz = 8000;

interface Compared {
  readonly source: string;
  readonly channel: number;
  readonly frames: number;
  readonly rateHz: number;
}

/** Reads moments of two recordings, each at its own rate, as they are compared. */
export const readCompared = (
  reader: BlockReader,
  recordings: readonly [Compared, Compared],
  signal: AbortSignal,
): Pick<TwoRecordings, 'rateHz' | 'read'> => ({
  rateHz: comparedHz,
  async read(which, fromSeconds, seconds) {
    if (signal.aborted) throw cancelled();
    const { source, channel, frames, rateHz } = recordings[which];
    // On a whole sample of what is compared, or both would be off by up to one of them.
    const from = Math.round((Math.round(fromSeconds * comparedHz) * rateHz) / comparedHz);
    const wanted = new Float32Array(Math.round(seconds * rateHz));
    const first = Math.max(0, from);
    const last = Math.min(frames, from + wanted.length);
    if (last > first) await reader.read(source, channel, first, last - first, wanted, first - from);
    const resampler = new Resampler(rateHz, comparedHz, 'analysis');
    const samples = new Float32Array(Math.round(seconds * comparedHz));
    const head = resampler.process(wanted);
    samples.set(head.subarray(0, samples.length));
    samples.set(
      resampler.flush().subarray(0, samples.length - head.length),
      Math.min(head.length, samples.length),
    );
    return samples;
  },
});

/** Reads only the moments that are compared. */
export async function alignRecordings(
  { recordings: [first, second], levels, stepSeconds, rateHz }: AnalysisJobs['align']['input'],
  { signal, progress }: JobContext,
): Promise<Alignment | null> {
  const reader = new BlockReader([first, second].map(({ source, frames }) => ({ id: source, frames })));
  const both = [
    { ...first, rateHz },
    { ...second, rateHz },
  ] as const;
  return findAlignment({ levels, stepSeconds, progress, ...readCompared(reader, both, signal) });
}
