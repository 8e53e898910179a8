import { amplitudeToDb, dbToAmplitude } from '../base/units';
import { kernels } from './kernels';
import { bendOf, groupBounds, overGroup, overTaps, staysUnder } from './kernels/oversampling';
import { peakStretch } from './kernels/reference';
import { polyphaseLowPass } from './window';

/**
 * What no peak may pass: sample values, or the true peak as the reconstructed wave has it (ITU-R BS.1770-5
 * annex 2).
 */
export interface Ceiling {
  readonly dbfs: number;
  readonly kind: 'sample' | 'true';
}

/**
 * The gain goes down and comes back over this long on each side of a peak: long enough to be no distortion,
 * short enough to be no fading.
 */
const swingSeconds = 0.02;
const taps = overTaps;
const phases = 4;
/**
 * Gains are whole multiples of this, so that sums of them are exact and do not depend on how audio is cut
 * into chunks.
 */
const gainSteps = 2 ** 24;
/** A result is rounded to 32-bit float once more: as far under the ceiling as that can lift it. */
const roundingRoom = 1 - 1.2e-7;

/** What comes out of a limiter. */
export interface Limited {
  readonly audio: Float32Array<ArrayBuffer>[];
  /** The largest gain reduction, dB; 0 for none. */
  readonly reductionDb: number;
  /** The gain of each frame; null where nothing was turned down. */
  readonly gains: Float32Array | null;
}

/**
 * A look-ahead limiter as a function of a window of audio: the gain at a frame depends on what is up to
 * `reach` frames away on either side, and on nothing else. So it can start anywhere, and any chunking gives
 * the same samples. Channels are turned down together.
 *
 * The gain each frame needs is held over its neighbourhood (a moving minimum) and smoothed by a kernel no
 * wider than the hold (two moving means), so the smoothed gain never is above what any frame needs: sample
 * peaks never pass the ceiling. With a true-peak ceiling the same holds for the values between samples but
 * for what the moving gain changes in them, which the flat bottom of the hold keeps under 0.01 dB.
 */
export class Limiter {
  /** Frames of audio that must be given on each side of those that are wanted. */
  readonly reach: number;
  private readonly half: number;
  private readonly hold: number;
  private readonly limit: number;
  private readonly table = polyphaseLowPass(phases, taps, 0.5, 70);
  private readonly bend = bendOf(phases, this.table);
  /** How far what is made of samples can lead over the largest of them. */
  private readonly lead: number;

  constructor(
    rateHz: number,
    private readonly ceiling: Ceiling,
  ) {
    this.half = Math.max(1, Math.round((swingSeconds * rateHz) / 2));
    this.hold = 2 * this.half + taps / 2;
    this.reach = this.hold + 2 * this.half + taps;
    this.limit = dbToAmplitude(ceiling.dbfs) * roundingRoom;
    // A second difference is at most four times the largest sample; see staysUnder.
    this.lead = ceiling.kind === 'true' ? 1.01 + 4 * this.bend : 1;
  }

  /**
   * Limits all but the first and last `reach` frames of `audio`, which is left as it is.
   */
  process(audio: readonly Float32Array[]): Limited {
    const { reach } = this;
    const frames = audio[0].length - 2 * reach;
    const limited = audio.map((samples) => samples.slice(reach, reach + frames));
    const needs = this.needs(audio);
    if (!needs) return { audio: limited, reductionDb: 0, gains: null };
    const sums = this.smooth(heldMinimum(needs, this.hold));
    const scale = 1 / (gainSteps * (2 * this.half + 1) ** 2);
    const first = (sums.length - frames) / 2;
    const gains = new Float32Array(frames).fill(1);
    let lowest = 1;
    for (let i = 0; i < frames; i++) {
      const gain = sums[first + i] * scale;
      if (gain >= 1) continue;
      gains[i] = gain;
      if (gain < lowest) lowest = gain;
      for (const samples of limited) samples[i] *= gain;
    }
    return { audio: limited, reductionDb: -amplitudeToDb(lowest), gains };
  }

  /** The gain every frame needs by itself, in steps; null when none needs any. */
  private needs(audio: readonly Float32Array[]): Float64Array | null {
    let needs: Float64Array | null = null;
    const need = (frame: number, magnitude: number) => {
      needs ??= new Float64Array(audio[0].length).fill(gainSteps);
      const steps = Math.floor((this.limit / magnitude) * gainSteps);
      if (steps < needs[frame]) needs[frame] = steps;
    };
    for (const samples of audio) {
      const { limit } = this;
      for (const { from, to } of loudStretches(samples, limit / this.lead)) {
        for (let i = from; i < to; i++) {
          const sample = samples[i];
          if (sample > limit || sample < -limit) need(i, Math.abs(sample));
        }
        if (this.ceiling.kind === 'true') {
          const first = Math.max(0, from - taps);
          this.needsBetween(samples.subarray(first, to + taps), (frame, magnitude) =>
            need(first + frame, magnitude),
          );
        }
      }
    }
    return needs;
  }

  /** Values between samples; groups of starting points which cannot pass the ceiling are left out. */
  private needsBetween(samples: Float32Array, need: (frame: number, magnitude: number) => void) {
    const { table, limit, bend } = this;
    const bounds = groupBounds(samples);
    const known = bounds.largest.length - 2;
    const centre = taps / 2 - 1;
    for (let from = 0; from + taps <= samples.length; from++) {
      if (from % overGroup === 0 && from / overGroup < known) {
        if (staysUnder(bounds, from / overGroup, bend, limit)) {
          from += overGroup - 1;
          continue;
        }
      }
      // The three between two samples at once: each sample is read once for all of them.
      let [first, second, third] = [0, 0, 0];
      for (let tap = 0; tap < taps; tap++) {
        const sample = samples[from + tap];
        first += table[taps + tap] * sample;
        second += table[2 * taps + tap] * sample;
        third += table[3 * taps + tap] * sample;
      }
      const highest = Math.max(Math.abs(first), Math.abs(second), Math.abs(third));
      if (highest > limit) {
        need(from + centre, highest);
        need(from + centre + 1, highest);
      }
    }
  }

  /**
   * Two moving sums of whole numbers, `2 × half + 1` long each: exact, and as if by one kernel that rises and
   * falls.
   */
  private smooth(held: Float64Array): Float64Array {
    return movingSum(movingSum(held, this.half), this.half);
  }
}

/**
 * Stretches outside of which no sample's magnitude is over `limit`: most audio is under a ceiling, and
 * nothing but comparing is done for it.
 */
function loudStretches(samples: Float32Array, limit: number): { from: number; to: number }[] {
  const whole = Math.floor(samples.length / peakStretch);
  const peaks = new Float32Array(3 * whole);
  kernels().peaks(samples, peaks);
  const stretches: { from: number; to: number }[] = [];
  for (let i = 0; i < whole; i++) {
    if (peaks[3 * i + 1] <= limit && peaks[3 * i] >= -limit) continue;
    const from = i * peakStretch;
    const last = stretches.at(-1);
    if (last?.to === from) last.to += peakStretch;
    else stretches.push({ from, to: from + peakStretch });
  }
  // What is left over at the end is looked at.
  const from = whole * peakStretch;
  if (from < samples.length) stretches.push({ from, to: samples.length });
  return stretches;
}

/** Minimum over [i − reach, i + reach] for every i that has all of it. */
function heldMinimum(values: Float64Array, reach: number): Float64Array {
  const width = 2 * reach + 1;
  const result = new Float64Array(values.length - width + 1);
  // Candidates in rising order of place and value; the first is the minimum.
  const queue = new Int32Array(values.length);
  let head = 0;
  let tail = 0;
  for (let i = 0; i < values.length; i++) {
    while (tail > head && values[queue[tail - 1]] >= values[i]) tail--;
    queue[tail++] = i;
    if (queue[head] <= i - width) head++;
    if (i >= width - 1) result[i - width + 1] = values[queue[head]];
  }
  return result;
}

/** Sum over [i − half, i + half] for every i that has all of it. */
function movingSum(values: Float64Array, half: number): Float64Array {
  const width = 2 * half + 1;
  const result = new Float64Array(values.length - width + 1);
  let sum = 0;
  for (let i = 0; i < values.length; i++) {
    sum += values[i];
    if (i >= width) sum -= values[i - width];
    if (i >= width - 1) result[i - width + 1] = sum;
  }
  return result;
}
