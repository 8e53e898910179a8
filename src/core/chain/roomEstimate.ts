import { logMmseGain } from './logMmse';

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
/** Gains of bins, frame by frame, each expecting what the last one has found. */
export class RoomEstimate {
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

  /** Gains of one of a pair of frames (0 or 1), from its spectra on every channel (see `Kernels.spectra`). */
  next(spectra: readonly Float64Array[], which: 0 | 1, gains: Float64Array): void {
    const { found, around, ratios, perNoise, floor, isFirst } = this;
    const last = ratios.length - 1;
    ratios.fill(0);
    for (const spectrum of spectra)
      for (let bin = 0, at: number = which; bin <= last; bin++, at += 4)
        ratios[bin] += spectrum[at] * spectrum[at] + spectrum[at + 2] * spectrum[at + 2];
    for (let bin = 0; bin <= last; bin++) ratios[bin] *= perNoise[bin];
    if (spectra.length > 1) for (let bin = 0; bin <= last; bin++) ratios[bin] /= spectra.length;
    let before = ratios[0];
    for (let bin = 0, at: number = which; bin <= last; bin++, at += 2) {
      const now = ratios[bin];
      const beside = (before + now + ratios[bin === last ? last : bin + 1]) / 3;
      before = now;
      const seen = around[bin] + (1 - lasting) * (beside - around[bin]);
      around[bin] = seen;
      if (seen <= absent) {
        found[bin] = chance * now;
        gains[at] = floor;
        continue;
      }
      const fresh = now > 1 ? now - 1 : 0;
      const expected = isFirst ? fresh : persistence * found[bin] + (1 - persistence) * fresh;
      const gain = logMmseGain(expected > leastExpected ? expected : leastExpected, now);
      found[bin] = gain * gain * now;
      const presence = seen >= present ? 1 : (seen - absent) / (present - absent);
      gains[at] = gain > floor ? floor + presence * (gain - floor) : floor;
    }
    this.isFirst = false;
  }
}
