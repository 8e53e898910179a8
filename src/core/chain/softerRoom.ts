import { dbToAmplitude } from '../base/units';
import { FramePairs } from '../dsp/framePairs';
import { audioTrack, type Grid, type Track } from './cells';
import type { RoomStep } from './chain';
import { logMmseGain } from './logMmse';
import { powersOfProfile, profileOf, type RoomProfile } from './roomProfile';

/** How much of what was there a frame ago is expected now (decision-directed, α; the source has 0.98). */
const persistence = 0.98;
/** The least signal-to-noise ratio that is expected, a power: lower ones only make more of chance. */
const leastExpected = 10 ** (-25 / 10);
/**
 * The noise is taken for so much more than it is on average: chance that stands out of it would be heard
 * as tones.
 */
const noiseRoom = 10 ** (1 / 10);
/**
 * Where the power around a bin, over its neighbours and a few frames, is no more than this over the noise
 * there is nothing but chance, and the floor it is; from the second on the estimate counts. (After I.
 * Cohen, B. Berdugo, Speech enhancement for non-stationary noise environments, Signal Processing 81, 2001:
 * presence of speech.)
 */
const absent = 2;
const present = 4;
const lasting = 0.7;
/** Of what is chance so much is taken for found, a power: about what the estimate leaves of noise. */
const chance = 0.01;
/**
 * Frames run before those of a cell: what was expected at rest has been forgotten by then (measured in the
 * tests).
 */
const framesBefore = 32;

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
  grid: Grid,
): Track {
  const size = roomFrame(grid);
  const hop = size / 2;
  const noise = powersOfProfile(profile, size / 2 + 1, grid.rateHz / size);
  const floor = dbToAmplitude(-amountDb);
  const frames = grid.cellFrames / hop + 1;
  return audioTrack(input.channels, input.reach + (framesBefore + 2) * hop, grid, async (from) => {
    // The first frame that is heard in the cell began half a frame before it.
    const start = from - hop - framesBefore * hop;
    const audio = await input.read(start, (framesBefore + frames + 2) * hop);
    return reduced(audio, framesBefore, framesBefore + frames, { size, noise, floor });
  });
}

interface Reduction {
  readonly size: number;
  /** Power of the noise in each bin. */
  readonly noise: Float64Array;
  /** The least gain. */
  readonly floor: number;
}

/** Frames [0, to) of audio worked through, of which those from `kept` on are put together. */
function reduced(
  audio: readonly Float32Array[],
  kept: number,
  to: number,
  { size, noise, floor }: Reduction,
): Float32Array[] {
  const hop = size / 2;
  const pairs = new FramePairs(size, rootHann(size));
  const estimate = new Estimate(noise, size, floor);
  const made = audio.map(() => new Float32Array((to - kept + 2) * hop));
  const powers = [new Float64Array(hop + 1), new Float64Array(hop + 1)] as const;
  const gains = [new Float64Array(hop + 1), new Float64Array(hop + 1)] as const;
  const [first, second] = audio;
  if (audio.length === 2) {
    for (let frame = 0; frame < to; frame++) {
      pairs.forward(first, frame * hop, second, frame * hop);
      pairs.powers(...powers);
      for (let bin = 0; bin <= hop; bin++) powers[0][bin] = (powers[0][bin] + powers[1][bin]) / 2;
      estimate.gains(powers[0], gains[0]);
      if (frame < kept) continue;
      pairs.inverse(gains[0], gains[0]);
      made.forEach((samples, channel) => pairs.addTo(samples, (frame - kept) * hop, channel === 0 ? 0 : 1));
    }
  } else {
    // Two frames after one another; the last one can be over the end, where nothing is kept.
    for (let frame = 0; frame < to; frame += 2) {
      pairs.forward(first, frame * hop, first, (frame + 1) * hop);
      pairs.powers(...powers);
      estimate.gains(powers[0], gains[0]);
      estimate.gains(powers[1], gains[1]);
      if (frame < kept) continue;
      pairs.inverse(...gains);
      pairs.addTo(made[0], (frame - kept) * hop, 0);
      pairs.addTo(made[0], (frame + 1 - kept) * hop, 1);
    }
  }
  return made.map((samples) => samples.subarray(hop, (to - kept) * hop));
}

/** Gains of bins, frame by frame, each expecting what the last one has found. */
class Estimate {
  /** Power over the noise of what was there in the last frame, after its gain. */
  private readonly found: Float64Array;
  /** Power over the noise, over a few frames and the bins beside. */
  private readonly around: Float64Array;
  private readonly ratios: Float64Array;
  private readonly perNoise: Float64Array;
  private isFirst = true;

  constructor(
    noise: Float64Array,
    size: number,
    private readonly floor: number,
  ) {
    // A bin's power is told against full scale; a windowed transform of `size` frames has size²/4 times
    // as much.
    const scale = noiseRoom * ((size * size) / 4);
    this.perNoise = noise.map((power) => 1 / Math.max(power * scale, 1e-12));
    this.found = new Float64Array(noise.length);
    this.around = new Float64Array(noise.length);
    this.ratios = new Float64Array(noise.length);
  }

  gains(powers: Float64Array, gains: Float64Array): void {
    const { found, around, ratios, perNoise, floor, isFirst } = this;
    const last = powers.length - 1;
    for (let bin = 0; bin <= last; bin++) ratios[bin] = powers[bin] * perNoise[bin];
    let before = ratios[0];
    for (let bin = 0; bin <= last; bin++) {
      const now = ratios[bin];
      const beside = (before + now + ratios[bin === last ? last : bin + 1]) / 3;
      before = now;
      const seen = around[bin] + (1 - lasting) * (beside - around[bin]);
      around[bin] = seen;
      if (seen <= absent) {
        found[bin] = chance * now;
        gains[bin] = floor;
        continue;
      }
      const fresh = now > 1 ? now - 1 : 0;
      const expected = isFirst ? fresh : persistence * found[bin] + (1 - persistence) * fresh;
      const gain = logMmseGain(expected > leastExpected ? expected : leastExpected, now);
      found[bin] = gain * gain * now;
      const presence = seen >= present ? 1 : (seen - absent) / (present - absent);
      gains[bin] = gain > floor ? floor + presence * (gain - floor) : floor;
    }
    this.isFirst = false;
  }
}

/**
 * The profile of a room from audio in which nobody speaks (a second or more), one channel. Throws
 * RangeError when there is less than four frames of it.
 */
export function learnRoom(samples: Float32Array, grid: Grid): RoomProfile {
  const size = roomFrame(grid);
  if (samples.length < 4 * size) throw new RangeError('Too little room tone to learn from');
  const hop = size / 2;
  const pairs = new FramePairs(size, rootHann(size));
  const sums = new Float64Array(hop + 1);
  const powers = [new Float64Array(hop + 1), new Float64Array(hop + 1)] as const;
  let frames = 0;
  for (let from = 0; from + size + hop <= samples.length; from += size, frames += 2) {
    pairs.forward(samples, from, samples, from + hop);
    pairs.powers(...powers);
    for (let bin = 0; bin < sums.length; bin++) sums[bin] += powers[0][bin] + powers[1][bin];
  }
  const scale = (size * size) / 4;
  return profileOf(
    sums.map((sum) => sum / frames / scale),
    grid.rateHz / size,
  );
}
