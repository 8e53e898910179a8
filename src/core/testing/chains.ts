import type { Track } from '../chain/cells';
import type { ChainStep } from '../chain/chain';
import { ChainedVoice } from '../chain/chained';

/** Audio as a track, silent before it and after it. */
export const trackOf = (...audio: readonly Float32Array[]): Track => ({
  channels: audio.length,
  reach: 0,
  read: (from, count) =>
    Promise.resolve(
      audio.map((samples) => {
        const values = new Float32Array(count);
        const [first, last] = [Math.max(0, from), Math.min(samples.length, from + count)];
        if (last > first) values.set(samples.subarray(first, last), first - from);
        return values;
      }),
    ),
});

export const voiceThrough = (
  audio: readonly Float32Array[],
  steps: readonly ChainStep[],
  rateHz: number,
): ChainedVoice => ChainedVoice.of(trackOf(...audio), steps, rateHz);

/** One channel through steps, whole. */
export async function through(
  audio: Float32Array,
  steps: readonly ChainStep[],
  rateHz: number,
): Promise<Float32Array<ArrayBuffer>> {
  const [made] = await voiceThrough([audio], steps, rateHz).read(0, audio.length);
  return made;
}
