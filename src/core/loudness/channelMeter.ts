import { clipThreshold } from '../base/audio';
import { kWeighting } from './kWeighting';

export interface HopMark {
  readonly values: Float64Array;
  readonly length: number;
}

/** Where a channel's measurement stands: enough to go on from there. */
export interface ChannelMark {
  readonly weighted: HopMark;
  readonly plain: HopMark;
  readonly totals: HopMark;
  readonly hopPeaks: HopMark;
  readonly clippedRuns: readonly { from: number; frames: number }[];
  readonly clippedSamples: number;
  readonly filter: readonly number[];
}

/** Sums over consecutive hops of 10 ms, growing as audio comes in. */
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

  /** The values so far, without copying: later ones are written behind them. */
  mark(): HopMark {
    return { values: this.values, length: this.length };
  }

  resume({ values, length }: HopMark): void {
    this.values = new Float64Array(Math.max(1024, length * 2));
    this.values.set(values.subarray(0, length));
    this.length = length;
  }

  append(values: Float64Array): void {
    for (const value of values) this.push(value);
  }
}

const mostRuns = 100;

function sumOf(values: Float64Array): number {
  let sum = 0;
  for (const value of values) sum += value;
  return sum;
}

/**
 * One channel's running sums: plain and K-weighted squares per hop, sample peak, clipped samples. One pass
 * over the samples with the filter state in local variables, because this loop is nearly all the time a
 * measurement takes.
 */
export class ChannelMeter {
  readonly weighted = new HopSums();
  readonly plain = new HopSums();
  /** Largest magnitude in each hop. */
  readonly hopPeaks = new HopSums();
  /** Runs of clipped samples, at most the first hundred. */
  readonly clippedRuns: { from: number; frames: number }[] = [];
  /** Sum of the samples of each hop. */
  readonly totals = new HopSums();
  clippedSamples = 0;
  private filled = 0;
  /** Frames before the hop that is being filled. */
  private hopStart = 0;
  private hopPeak = 0;
  private hopTotal = 0;
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

  /** A last hop that was not filled counts for sums and peaks, but not for windows. */
  get squares() {
    return sumOf(this.plain.toArray()) + this.hopPlain;
  }

  get peak() {
    return this.hopPeaks.toArray().reduce((highest, peak) => Math.max(highest, peak), this.hopPeak);
  }

  /** Only between two hops. */
  mark(): ChannelMark {
    return {
      weighted: this.weighted.mark(),
      plain: this.plain.mark(),
      totals: this.totals.mark(),
      hopPeaks: this.hopPeaks.mark(),
      clippedRuns: this.clippedRuns.map((run) => ({ ...run })),
      clippedSamples: this.clippedSamples,
      filter: [this.s1, this.s2, this.t1, this.t2],
    };
  }

  resume(mark: ChannelMark): void {
    this.weighted.resume(mark.weighted);
    this.plain.resume(mark.plain);
    this.totals.resume(mark.totals);
    this.hopPeaks.resume(mark.hopPeaks);
    this.clippedRuns.push(...mark.clippedRuns.map((run) => ({ ...run })));
    this.clippedSamples = mark.clippedSamples;
    [this.s1, this.s2, this.t1, this.t2] = mark.filter;
    this.hopStart = mark.plain.length * this.hopFrames;
  }

  /** Takes over what another meter found after `mark`, for audio that is the same from there on. */
  append(other: ChannelMeter, mark: ChannelMark): void {
    const rest = (sums: HopSums, from: HopMark) => sums.toArray().subarray(from.length);
    this.weighted.append(rest(other.weighted, mark.weighted));
    this.plain.append(rest(other.plain, mark.plain));
    this.totals.append(rest(other.totals, mark.totals));
    this.hopPeaks.append(rest(other.hopPeaks, mark.hopPeaks));
    const start = mark.plain.length * this.hopFrames;
    this.clippedRuns.push(...other.clippedRuns.filter(({ from }) => from >= start));
    this.clippedSamples += other.clippedSamples - mark.clippedSamples;
    this.hopPlain = other.hopPlain;
    this.hopTotal = other.hopTotal;
    this.hopPeak = other.hopPeak;
  }

  /**
   * A later mark of another meter, `base` being that meter's mark at the frame of `here`: as if this meter
   * had come there.
   */
  rebase(mark: ChannelMark, base: ChannelMark, here: ChannelMark): ChannelMark {
    const start = base.plain.length * this.hopFrames;
    const own = (sums: HopSums, { length }: HopMark) => ({ values: sums.mark().values, length });
    return {
      weighted: own(this.weighted, mark.weighted),
      plain: own(this.plain, mark.plain),
      totals: own(this.totals, mark.totals),
      hopPeaks: own(this.hopPeaks, mark.hopPeaks),
      clippedRuns: [...here.clippedRuns, ...mark.clippedRuns.filter(({ from }) => from >= start)],
      clippedSamples: here.clippedSamples + mark.clippedSamples - base.clippedSamples,
      filter: mark.filter,
    };
  }

  /** The runs are all there, and none goes across `frame`. */
  clipsSplitAt(frame: number): boolean {
    return (
      this.clippedRuns.length < mostRuns &&
      !this.clippedRuns.some(({ from, frames }) => from < frame && from + frames >= frame)
    );
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
    this.hopTotal += total;
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
    this.totals.push(this.hopTotal);
    this.hopTotal = 0;
    this.hopPlain = 0;
    this.hopWeighted = 0;
    this.filled = 0;
    // Tails that decay towards zero would end in denormal numbers, which are many times slower.
    if (Math.abs(this.s1) + Math.abs(this.s2) + Math.abs(this.t1) + Math.abs(this.t2) < 1e-20) {
      this.s1 = this.s2 = this.t1 = this.t2 = 0;
    }
  }
}
