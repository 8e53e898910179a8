import { settlingFrames } from '../dsp/cookbook';
import { kernels } from '../dsp/kernels';
import type { BiquadCoefficients } from '../dsp/kernels/kernels';
import { audioTrack, type Grid, type Track } from './cells';

/**
 * Audio through sections in a row. Each cell begins at rest so far before it that what came earlier is
 * under −126 dB in it (`settlingFrames`).
 */
export function filtered(input: Track, sections: readonly BiquadCoefficients[], grid: Grid): Track {
  if (sections.length === 0) return input;
  const before = settlingFrames(sections);
  return audioTrack(input.channels, input.reach + before, grid, async (from) => {
    const audio = await input.read(from - before, before + grid.cellFrames);
    return audio.map((samples) => {
      kernels().sections(samples, sections, new Float64Array(2 * sections.length));
      return samples.subarray(before);
    });
  });
}
