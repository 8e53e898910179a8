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
/**
 * Frames run before those of a cell: what was expected at rest has been forgotten by then (measured in the
 * tests).
 */
const framesBefore = 40;

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
    const audio = await input.read(start, (framesBefore + frames + 1) * hop);
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
  const pairs = new FramePairs(size);
  const window = rootHann(size);
  const estimate = new Estimate(noise, size, floor);
  const made = audio.map(() => new Float32Array((to - kept + 1) * hop));
  const [first, second] = [new Float64Array(size), new Float64Array(size)];
  const cut = (samples: Float32Array, frame: number, into: Float64Array) => {
    for (let i = 0; i < size; i++) into[i] = samples[frame * hop + i] * window[i];
  };
  const put = (samples: Float32Array, frame: number, out: Float64Array) => {
    if (frame < kept || frame >= to) return;
    const at = (frame - kept) * hop;
    for (let i = 0; i < size; i++) samples[at + i] += out[i] * window[i];
  };
  const [powers, morePowers] = [new Float64Array(hop + 1), new Float64Array(hop + 1)];
  const [gains, moreGains] = [new Float64Array(hop + 1), new Float64Array(hop + 1)];
  if (audio.length === 2) {
    for (let frame = 0; frame < to; frame++) {
      audio.forEach((samples, channel) => cut(samples, frame, channel === 0 ? first : second));
      pairs.forward(first, second);
      pairs.powers(powers, morePowers);
      for (let bin = 0; bin <= hop; bin++) powers[bin] = (powers[bin] + morePowers[bin]) / 2;
      estimate.gains(powers, gains);
      if (frame < kept) continue;
      pairs.inverse([gains, gains], first, second);
      made.forEach((samples, channel) => put(samples, frame, channel === 0 ? first : second));
    }
  } else {
    for (let frame = 0; frame < to; frame += 2) {
      const [samples] = audio;
      cut(samples, frame, first);
      if (frame + 1 < to) cut(samples, frame + 1, second);
      else second.fill(0);
      pairs.forward(first, second);
      pairs.powers(powers, morePowers);
      estimate.gains(powers, gains);
      estimate.gains(morePowers, moreGains);
      if (frame + 1 < kept) continue;
      pairs.inverse([gains, moreGains], first, second);
      put(made[0], frame, first);
      put(made[0], frame + 1, second);
    }
  }
  return made.map((samples) => samples.subarray(hop, samples.length - hop));
}

/** Gains of bins, frame by frame, each expecting what the last one has found. */
class Estimate {
  /** Power over the noise of what was there in the last frame, after its gain. */
  private readonly found: Float64Array;
  /** Power over the noise, over a few frames and the bins beside. */
  private readonly around: Float64Array;
  private readonly ratios: Float64Array;
  private readonly noise: Float64Array;
  private isFirst = true;

  constructor(
    noise: Float64Array,
    size: number,
    private readonly floor: number,
  ) {
    // A bin's power is told against full scale; a windowed transform of `size` frames has size²/4 times
    // as much.
    const scale = noiseRoom * ((size * size) / 4);
    this.noise = noise.map((power) => Math.max(power * scale, 1e-12));
    this.found = new Float64Array(noise.length);
    this.around = new Float64Array(noise.length);
    this.ratios = new Float64Array(noise.length);
  }

  gains(powers: Float64Array, gains: Float64Array): void {
    const { found, around, ratios, noise, floor, isFirst } = this;
    const last = powers.length - 1;
    for (let bin = 0; bin <= last; bin++) ratios[bin] = powers[bin] / noise[bin];
    for (let bin = 0; bin <= last; bin++) {
      const now = ratios[bin];
      const fresh = now > 1 ? now - 1 : 0;
      const expected = isFirst ? fresh : persistence * found[bin] + (1 - persistence) * fresh;
      const gain = logMmseGain(expected > leastExpected ? expected : leastExpected, now);
      found[bin] = gain * gain * now;
      const beside = (ratios[bin === 0 ? 0 : bin - 1] + now + ratios[bin === last ? last : bin + 1]) / 3;
      const seen = around[bin] + (1 - lasting) * (beside - around[bin]);
      around[bin] = seen;
      const presence = seen >= present ? 1 : seen <= absent ? 0 : (seen - absent) / (present - absent);
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
  const pairs = new FramePairs(size);
  const window = rootHann(size);
  const sums = new Float64Array(size / 2 + 1);
  const [powers, nothing] = [new Float64Array(size / 2 + 1), new Float64Array(size / 2 + 1)];
  const [frame, none] = [new Float64Array(size), new Float64Array(size)];
  let frames = 0;
  for (let from = 0; from + size <= samples.length; from += size / 2, frames++) {
    for (let i = 0; i < size; i++) frame[i] = samples[from + i] * window[i];
    pairs.forward(frame, none);
    pairs.powers(powers, nothing);
    for (let bin = 0; bin < sums.length; bin++) sums[bin] += powers[bin];
  }
  const scale = (size * size) / 4;
  return profileOf(
    sums.map((sum) => sum / frames / scale),
    grid.rateHz / size,
  );
}
