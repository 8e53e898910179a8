import { cancelled } from '@/core/base/errors';
import { Resampler } from '@/core/dsp/resampler';
import { analyse } from '@/core/speech/findings';
import { FullScaleFinder } from '@/core/speech/clipping';
import { analysisRateHz } from '@/core/speech/cepstra';
import type { Speech } from '@/core/speech/voiceActivity';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { BlockReader } from '@/storage/blockReader';
import type { FindInput, Found } from './analysisJobs';
import type { JobContext } from './protocol';

/** Listened to before and after the range: a good reading can begin this long after the one it replaces. */
const contextSeconds = { before: 8, after: 24 };
const chunkSeconds = 12;

/** Renders a range of what is heard at `analysisRateHz`, and looks for everything in it. */
export async function findInRange(input: FindInput, { signal, progress }: JobContext): Promise<Found> {
  const { sounding, range, sources, options } = input;
  const { rateHz } = sounding;
  const part = new PartRenderer(sounding, new BlockReader(sources));
  const from = Math.max(0, range.from - contextSeconds.before * rateHz);
  const to = Math.min(part.heardFrames, range.to + contextSeconds.after * rateHz);
  const resampler = new Resampler(rateHz, analysisRateHz, 'analysis');
  const samples = new Float32Array(resampler.outputFrames(to - from) + 1);
  const clips = new FullScaleFinder(rateHz);
  let at = 0;
  let done = 0;
  const put = (some: Float32Array) => {
    samples.set(some.subarray(0, samples.length - at), at);
    at += some.length;
  };
  for await (const [chunk] of part.stream({ delivering: 1 }, { from, to }, chunkSeconds * rateHz)) {
    if (signal.aborted) throw cancelled();
    clips.process(chunk);
    put(resampler.process(chunk));
    progress((0.3 * (done += chunk.length)) / Math.max(1, to - from));
  }
  put(resampler.flush());
  const scale = rateHz / analysisRateHz;
  const toSamples = (frame: number) => Math.round((frame - from) / scale);
  const toFrames = (sample: number) => Math.min(to, from + Math.round(sample * scale));
  const span = <T extends Speech>(speech: T): T => ({
    ...speech,
    from: toFrames(speech.from),
    to: toFrames(speech.to),
  });
  const { findings, speech, tone } = analyse(
    {
      samples: samples.subarray(0, Math.min(at, samples.length)),
      marks: input.marks.filter((mark) => mark >= from && mark < to).map(toSamples),
      clipped: clips.found.map((clip) => ({
        from: Math.round(clip.from / scale),
        to: Math.round(clip.to / scale),
      })),
    },
    options,
  );
  const mine = ({ from: start }: Speech) => start >= range.from && start < range.to;
  return {
    findings: findings
      .map((finding) => ({ ...span(finding), again: finding.again && span(finding.again) }))
      .filter(mine),
    speech: speech.map(span).filter(mine),
    tone: tone && span(tone),
  };
}
