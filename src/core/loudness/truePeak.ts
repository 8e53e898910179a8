import { polyphaseLowPass } from '../dsp/window';

export interface TruePeakMark {
  readonly pending: Float32Array;
  readonly highest: number;
}

const taps = 32;
/**
 * Starting points of the filter are taken in groups of half its length; what a group reaches is three groups
 * of samples.
 */
const groupFrames = taps / 2;
const bufferGroups = 256;

/**
 * True peak of one channel (ITU-R BS.1770-5 annex 2): the largest magnitude of the signal oversampled at
 * least to 176.4 kHz, with a 32-tap polyphase filter per phase (flat within 0.05 dB to 20 kHz, more than the
 * standard's 12 taps). Stretches which cannot exceed the peak found so far, by the filter's largest possible
 * gain, are not oversampled; this changes nothing in the result.
 */
export class TruePeakMeter {
  private readonly factor: number;
  private readonly table: Float64Array;
  private readonly largestGain: number;
  private readonly pending = new Float32Array(bufferGroups * groupFrames);
  /**
   * The same memory as whole numbers: the order of magnitudes is the order of their bits without the sign
   * (IEEE 754).
   */
  private readonly bits = new Int32Array(this.pending.buffer);
  private readonly loud = new Uint8Array(bufferGroups);
  private held = taps - 1;
  private highest = 0;

  constructor(rateHz: number) {
    this.factor = rateHz >= 176_400 ? 1 : rateHz >= 88_200 ? 2 : 4;
    this.table = polyphaseLowPass(this.factor, taps, 0.5, 70);
    let largest = 1;
    for (let phase = 0; phase < this.factor; phase++) {
      let sum = 0;
      for (let tap = 0; tap < taps; tap++) sum += Math.abs(this.table[phase * taps + tap]);
      largest = Math.max(largest, sum);
    }
    this.largestGain = largest;
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
    this.process(new Float32Array(taps));
    this.pending.fill(0, this.held);
    this.drain();
  }

  /** Looks at everything the whole buffer can answer; the last samples stay for the next one. */
  private drain() {
    const { pending, loud } = this;
    this.findLoudGroups();
    for (let group = 0; group + 2 < bufferGroups; group++) {
      if (loud[group] | loud[group + 1] | loud[group + 2]) this.oversample(group * groupFrames);
    }
    // The starting points of the last two groups have not been looked at.
    const rest = 2 * groupFrames;
    pending.copyWithin(0, pending.length - rest);
    this.held = rest;
  }

  /**
   * Marks the groups with a sample that, by the largest gain of the filter, could lead over the peak so far.
   * In whole numbers and without a branch, because this loop sees every sample: a difference is negative
   * where a magnitude is under the limit.
   */
  private findLoudGroups() {
    const { bits, loud } = this;
    // Before anything was heard, digital silence leads over nothing either.
    const limit = Math.max(1, bitsOf(this.highest / this.largestGain) - 1);
    for (let group = 0; group < bufferGroups; group++) {
      let under = -1;
      for (let i = group * groupFrames; i < (group + 1) * groupFrames; i++)
        under &= (bits[i] & 0x7fffffff) - limit;
      loud[group] = under < 0 ? 0 : 1;
    }
  }

  private oversample(first: number) {
    const { pending } = this;
    const centre = taps / 2 - 1;
    let highest = this.highest;
    for (let from = first; from < first + groupFrames; from++) {
      const here = pending[from + centre];
      if (here > highest) highest = here;
      else if (-here > highest) highest = -here;
      const between =
        this.factor === 4 ? this.threeBetween(from) : this.factor === 2 ? this.oneBetween(from) : 0;
      if (between > highest) highest = between;
    }
    this.highest = highest;
  }

  /**
   * Largest magnitude of the three values between two samples; three sums at once keep the processor's
   * pipeline full.
   */
  private threeBetween(from: number): number {
    const { pending, table } = this;
    let first = 0;
    let second = 0;
    let third = 0;
    for (let tap = 0; tap < taps; tap++) {
      const value = pending[from + tap];
      first += table[taps + tap] * value;
      second += table[2 * taps + tap] * value;
      third += table[3 * taps + tap] * value;
    }
    if (first < 0) first = -first;
    if (second < 0) second = -second;
    if (third < 0) third = -third;
    return first > second ? (first > third ? first : third) : second > third ? second : third;
  }

  private oneBetween(from: number): number {
    const { pending, table } = this;
    let sum = 0;
    for (let tap = 0; tap < taps; tap++) sum += table[taps + tap] * pending[from + tap];
    return sum < 0 ? -sum : sum;
  }
}

const one = new Float32Array(1);
const oneBits = new Int32Array(one.buffer);

/** The bits of a magnitude as a 32-bit float. */
function bitsOf(magnitude: number): number {
  one[0] = magnitude;
  return oneBits[0];
}
