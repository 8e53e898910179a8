import { kernels } from '../dsp/kernels';
import type { Oversampling } from '../dsp/kernels/kernels';
import { bendOf, overGroup, overTaps } from '../dsp/kernels/oversampling';
import { polyphaseLowPass } from '../dsp/window';

export interface TruePeakMark {
  readonly pending: Float32Array;
  readonly highest: number;
}

const bufferFrames = 256 * overGroup;

/**
 * What makes `factor` values of each sample: a 32-tap polyphase filter, flat within 0.05 dB to 0.45 of the
 * rate.
 */
export function oversamplingBy(factor: number): Oversampling {
  const table = polyphaseLowPass(factor, overTaps, 0.5, 70);
  return { factor, table, bend: bendOf(factor, table) };
}

/**
 * True peak of one channel (ITU-R BS.1770-5 annex 2): the largest magnitude of the signal oversampled at
 * least to 176.4 kHz, with a 32-tap polyphase filter per phase (flat within 0.05 dB to 20 kHz, more than the
 * standard's 12 taps). Stretches which cannot exceed the peak found so far are not oversampled; this changes
 * nothing in the result.
 */
export class TruePeakMeter {
  private readonly oversampling: Oversampling;
  private readonly pending = new Float32Array(bufferFrames);
  private held = overTaps - 1;
  private highest = 0;

  constructor(rateHz: number) {
    this.oversampling = oversamplingBy(rateHz >= 176_400 ? 1 : rateHz >= 88_200 ? 2 : 4);
  }

  /** Linear amplitude, 0 for silence; call after `finish`. */
  get peak() {
    return this.highest;
  }

  process(samples: Float32Array): void {
    const { pending } = this;
    for (let from = 0; from < samples.length;) {
      const count = Math.min(samples.length - from, pending.length - this.held);
      pending.set(samples.subarray(from, from + count), this.held);
      this.held += count;
      from += count;
      if (this.held === pending.length) this.drain();
    }
  }

  /** Where the measurement stands: enough to go on from there. */
  mark(): TruePeakMark {
    return { pending: this.pending.slice(0, this.held), highest: this.highest };
  }

  resume({ pending, highest }: TruePeakMark): void {
    this.pending.set(pending);
    this.held = pending.length;
    this.highest = highest;
  }

  /** A peak that was found elsewhere counts as well. */
  raise(peak: number): void {
    if (peak > this.highest) this.highest = peak;
  }

  /** The filter's tail after the last sample. */
  finish(): void {
    this.process(new Float32Array(overTaps));
    this.pending.fill(0, this.held);
    this.drain();
  }

  /** Looks at everything the whole buffer can answer; the last samples stay for the next one. */
  private drain() {
    const { pending } = this;
    this.highest = kernels().truePeak(pending, this.highest, this.oversampling);
    // The starting points of the last two groups have not been looked at.
    const rest = 2 * overGroup;
    pending.copyWithin(0, pending.length - rest);
    this.held = rest;
  }
}
