import type { ChainStep } from '@/core/chain/chain';
import type { Track as Values } from '@/core/chain/cells';
import { ChainedVoice } from '@/core/chain/chained';
import type { ToneRegion } from '@/core/timeline/pieces';
import type { SourceReader } from '@/core/timeline/sourceReader';

/** The first tenth of a second stands beside silence, and steps look back into it. */
const settleSeconds = 0.1;

/** A room alone, through steps: a voice, and the frames of it that have settled. */
export interface RoomAlone {
  readonly voice: ChainedVoice;
  readonly from: number;
  readonly frames: number;
}

/** A stretch of a recording in which nobody speaks, as it comes out of some steps. */
export function roomAlone(
  { source, channel, start, end }: ToneRegion,
  sources: SourceReader,
  steps: readonly ChainStep[],
  rateHz: number,
): RoomAlone {
  const length = end - start;
  const region: Values = {
    channels: 1,
    reach: 0,
    read: async (from, count) => {
      const values = new Float32Array(count);
      const [first, last] = [Math.max(0, from), Math.min(length, from + count)];
      if (last > first)
        await sources.read(source, channel, start + first, last - first, values, first - from);
      return [values];
    },
  };
  const from = Math.min(Math.round(settleSeconds * rateHz), length >> 2);
  return { voice: ChainedVoice.of(region, steps, rateHz), from, frames: length - from };
}
