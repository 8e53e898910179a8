import { clipThreshold } from '../base/audio';
import { kWeighting } from './kWeighting';

/** Sums of squares over consecutive hops of 10 ms, growing as audio comes in. */
export class HopSums {
  private values = new Float64Array(1024);
  length = 0;

  push(value: number): void {
    if (this.length === this.values.length) {
      const grown = new Float64Array(this.values.length * 2);
      grown.set(this.values);
      this.values = grown;
    }
    this.values[this.length++] = value;
  }

  toArray(): Float64Array {
    return this.values.subarray(0, this.length);
  }
}

const mostRuns = 100;

/**
 * One channel's running sums: plain and K-weighted squares per hop, sample peak, clipped samples. One pass over the samples with
 * the filter state in local variables, because this loop is nearly all the time a measurement takes.
 */
export class ChannelMeter {
  readonly weighted = new HopSums();
  readonly plain = new HopSums();
  /** Largest magnitude in each hop. */
  readonly hopPeaks = new HopSums();
  /** Runs of clipped samples, at most the first hundred. */
  readonly clippedRuns: { from: number; frames: number }[] = [];
  peak = 0;
  /** Sum of all samples: the DC offset times the frames. */
  total = 0;
  clippedSamples = 0;
  totalSquares = 0;
  private filled = 0;
  /** Frames before the hop that is being filled. */
  private hopStart = 0;
  private hopPeak = 0;
  private hopWeighted = 0;
  private hopPlain = 0;
  private s1 = 0;
  private s2 = 0;
  private t1 = 0;
  private t2 = 0;
  private readonly filters;

  constructor(
    rateHz: number,
    readonly hopFrames: number,
  ) {
    this.filters = kWeighting(rateHz);
  }

  process(samples: Float32Array): void {
    for (let from = 0; from < samples.length;) {
      const to = Math.min(samples.length, from + this.hopFrames - this.filled);
      this.run(samples, from, to);
      this.filled += to - from;
      from = to;
      if (this.filled === this.hopFrames) this.endHop();
    }
  }

  /** Plain squares of a last hop that was not filled; they count for the RMS but not for windows. */
  finish(): void {
    this.totalSquares += this.hopPlain;
    this.hopPlain = 0;
  }

  private run(samples: Float32Array, from: number, to: number) {
    const { b0, b1, b2, a1, a2 } = this.filters.shelf;
    const { a1: c1, a2: c2 } = this.filters.highPass;
    let { s1, s2, t1, t2 } = this;
    let peak = 0;
    let plain = 0;
    let weighted = 0;
    let total = 0;
    for (let i = from; i < to; i++) {
      const x = samples[i];
      const shelved = b0 * x + s1;
      s1 = b1 * x - a1 * shelved + s2;
      s2 = b2 * x - a2 * shelved;
      const y = shelved + t1;
      t1 = -2 * shelved - c1 * y + t2;
      t2 = shelved - c2 * y;
      total += x;
      plain += x * x;
      weighted += y * y;
      const magnitude = x < 0 ? -x : x;
      if (magnitude > peak) peak = magnitude;
    }
    if (peak >= clipThreshold) this.countClipped(samples, from, to);
    if (peak > this.hopPeak) this.hopPeak = peak;
    if (peak > this.peak) this.peak = peak;
    this.total += total;
    this.hopPlain += plain;
    this.hopWeighted += weighted;
    this.s1 = s1;
    this.s2 = s2;
    this.t1 = t1;
    this.t2 = t2;
  }

  private countClipped(samples: Float32Array, from: number, to: number) {
    for (let i = from; i < to; i++) {
      if (samples[i] < clipThreshold && samples[i] > -clipThreshold) continue;
      this.clippedSamples++;
      const at = this.hopStart + this.filled + i - from;
      const last = this.clippedRuns[this.clippedRuns.length - 1];
      if (last && last.from + last.frames === at) last.frames++;
      else if (this.clippedRuns.length < mostRuns) this.clippedRuns.push({ from: at, frames: 1 });
    }
  }

  private endHop() {
    this.plain.push(this.hopPlain);
    this.weighted.push(this.hopWeighted);
    this.hopPeaks.push(this.hopPeak);
    this.hopPeak = 0;
    this.hopStart += this.hopFrames;
    this.totalSquares += this.hopPlain;
    this.hopPlain = 0;
    this.hopWeighted = 0;
    this.filled = 0;
    // Tails that decay towards zero would end in denormal numbers, which are many times slower.
    if (Math.abs(this.s1) + Math.abs(this.s2) + Math.abs(this.t1) + Math.abs(this.t2) < 1e-20) {
      this.s1 = this.s2 = this.t1 = this.t2 = 0;
    }
  }
}
