import { dbToAmplitude } from '../base/units';
import { kernels } from '../dsp/kernels';
import { pairNumbers } from '../dsp/kernels/spectra';
import { audioTrack, Cells, type Grid, type Track } from './cells';
import type { RoomStep } from './chain';
import { RoomEstimate } from './roomEstimate';
import { powersOfProfile, profileOf, type RoomProfile } from './roomProfile';

/**
 * Frames whose spectra are made together; they stand on the grid, so cells that follow one another share
 * them.
 */
const blockFrames = 32;
/** Blocks that are kept: those a cell looks at, and as many again. */
const blocksKept = 6;
/**
 * Frames run before those of a cell: what was expected at rest has been forgotten by then (measured in the
 * tests).
 */
const framesBefore = blockFrames - 1;

/** Two cells of a chain are made as one: half as much is run before them. */
const longer = (grid: Grid): Grid => ({
  ...grid,
  cellFrames: 2 * grid.cellFrames,
  cellTicks: 2 * grid.cellTicks,
});

/** 21 ms at 48 kHz; two to a frame's length. */
export const roomFrame = ({ tickFrames }: Grid) => 64 * tickFrames;

/** The square root of a Hann window, for cutting and for putting together: together they are 1. */
const rootHann = (size: number) =>
  Float64Array.from({ length: size }, (_, i) => Math.sin((Math.PI * i) / size));

/**
 * Noise reduction: each bin of frames half over each other is turned down as far as a log-spectral
 * amplitude estimate says, and never by more than the amount. That floor is what the room goes down to, so
 * what is left of it sounds like the room (O. Cappé, Elimination of the musical noise phenomenon, IEEE SAP
 * 2, 1994). Channels are turned down together.
 */
export function softerRoom(
  input: Track,
  profile: RoomProfile,
  { amountDb }: Pick<RoomStep, 'amountDb'>,
  chainGrid: Grid,
): Track {
  const grid = longer(chainGrid);
  const size = roomFrame(grid);
  const hop = size / 2;
  const window = rootHann(size);
  const noise = powersOfProfile(profile, size / 2 + 1, grid.rateHz / size);
  const floor = dbToAmplitude(-amountDb);
  const numbers = pairNumbers(size);
  const blocks = new Cells(blocksKept, async (index) => {
    const audio = await input.read(index * blockFrames * hop, (blockFrames + 1) * hop);
    return audio.map((samples) => {
      const spectra = new Float64Array((blockFrames / 2) * numbers);
      kernels().spectra(samples, window, spectra);
      return spectra;
    });
  });
  const frames = grid.cellFrames / hop;
  return audioTrack(input.channels, input.reach + (framesBefore + 2) * hop, grid, async (from) => {
    // The first frame that is heard in the cell began half a frame before it: the last one of a block.
    const first = from / hop / blockFrames - 1;
    const estimate = new RoomEstimate(noise, size, floor);
    const gains = new Float64Array(((blockFrames / 2) * numbers) / 2);
    // From the pair on in which that first frame is the second one.
    const made = Array.from({ length: input.channels }, () => new Float32Array((frames + 3) * hop));
    for (let index = first; index < first + 1 + frames / blockFrames; index++) {
      const spectra = await blocks.at(index);
      for (let pair = 0; pair < blockFrames / 2; pair++) {
        const here = spectra.map((all) => all.subarray(pair * numbers));
        const into = gains.subarray((pair * numbers) / 2);
        estimate.next(here, 0, into);
        estimate.next(here, 1, into);
      }
      const skipped = index === first ? blockFrames / 2 - 1 : 0;
      const at = index === first ? 0 : ((index - first - 1) * blockFrames + 2) * hop;
      spectra.forEach((all, channel) =>
        kernels().addFrames(
          all.subarray(skipped * numbers),
          gains.subarray((skipped * numbers) / 2),
          window,
          made[channel].subarray(at),
        ),
      );
    }
    return made.map((samples) => samples.subarray(2 * hop, (frames + 2) * hop));
  });
}

/**
 * The profile of a room from audio in which nobody speaks (a second or more), one channel. Throws
 * RangeError when there is less than four frames of it.
 */
export function learnRoom(samples: Float32Array, grid: Grid): RoomProfile {
  const size = roomFrame(grid);
  if (samples.length < 4 * size) throw new RangeError('Too little room tone to learn from');
  const hop = size / 2;
  const pairs = Math.floor((samples.length - hop) / size);
  const spectra = new Float64Array(pairs * pairNumbers(size));
  kernels().spectra(samples, rootHann(size), spectra);
  const sums = new Float64Array(hop + 1);
  for (let pair = 0, at = 0; pair < pairs; pair++)
    for (let bin = 0; bin <= hop; bin++)
      for (const end = at + 4; at < end; at++) sums[bin] += spectra[at] * spectra[at];
  const scale = (size * size) / 4;
  return profileOf(
    sums.map((sum) => sum / (2 * pairs) / scale),
    grid.rateHz / size,
  );
}
