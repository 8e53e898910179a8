import { amplitudeToDb, dbToAmplitude } from '../base/units';
import { Limiter } from '../dsp/limiter';
import { audioTrack, Cells, type Grid, type Track } from './cells';
import type { CeilingStep } from './chain';
import type { Turned } from './gainTrack';

/** Gain, then the limiter (limiter.ts), which is a function of a window. */
export function ceiling(input: Track, { gainDb, ceilingDb, peaks }: CeilingStep, grid: Grid): Turned {
  const { cellFrames, cellTicks, tickFrames } = grid;
  const limiter = new Limiter(grid.rateHz, { dbfs: ceilingDb, kind: peaks });
  const gain = dbToAmplitude(gainDb);
  const cells = new Cells(8, async (index) => {
    const { reach } = limiter;
    const audio = await input.read(index * cellFrames - reach, cellFrames + 2 * reach);
    if (gain !== 1) for (const samples of audio) for (let i = 0; i < samples.length; i++) samples[i] *= gain;
    return limiter.process(audio);
  });
  const reach = input.reach + limiter.reach;
  const gainsDb: Track = {
    channels: 1,
    reach,
    read: async (from, count) => {
      const values = new Float32Array(count).fill(gainDb);
      for (let index = Math.floor(from / cellTicks); index * cellTicks < from + count; index++) {
        const { gains } = await cells.at(index);
        if (!gains) continue;
        const start = index * cellTicks;
        for (let tick = Math.max(from, start); tick < Math.min(from + count, start + cellTicks); tick++) {
          const at = (tick - start) * tickFrames;
          values[tick - from] += amplitudeToDb(Math.min(...gains.subarray(at, at + tickFrames)));
        }
      }
      return [values];
    },
  };
  return {
    audio: audioTrack(input.channels, reach, grid, async (from) => (await cells.at(from / cellFrames)).audio),
    gainsDb,
  };
}
