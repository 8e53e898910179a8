import { clipThreshold } from '../base/audio';
import { kernels } from '../dsp/kernels';
import type { Weighting } from '../dsp/kernels/kernels';
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

function highestOf(samples: Float32Array): number {
  let highest = 0;
  for (let i = 0; i < samples.length; i++) {
    const magnitude = samples[i] < 0 ? -samples[i] : samples[i];
    if (magnitude > highest) highest = magnitude;
  }
  return highest;
}

/**
 * One channel's running sums: plain and K-weighted squares per hop, sample peak, clipped samples. Hops are
 * computed whole (see `weightedHops`), so any chunking gives the same.
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
  /** The hop that is not whole yet. */
  private readonly pending: Float32Array;
  private filled = 0;
  private frames = 0;
  private readonly state = new Float64Array(4);
  private readonly weighting: Weighting;

  constructor(
    rateHz: number,
    readonly hopFrames: number,
  ) {
    this.weighting = kWeighting(rateHz);
    this.pending = new Float32Array(hopFrames);
  }

  process(samples: Float32Array): void {
    const { hopFrames } = this;
    let from = 0;
    if (this.filled > 0) {
      from = Math.min(samples.length, hopFrames - this.filled);
      this.wait(samples.subarray(0, from));
      if (this.filled < hopFrames) return;
      this.sum(this.pending);
      this.filled = 0;
    }
    const whole = Math.floor((samples.length - from) / hopFrames) * hopFrames;
    if (whole > 0) {
      const hops = samples.subarray(from, from + whole);
      const peaks = this.sum(hops);
      peaks.forEach((peak, hop) => {
        if (peak >= clipThreshold)
          this.countClipped(hops.subarray(hop * hopFrames, (hop + 1) * hopFrames), hop * hopFrames);
      });
      this.frames += whole;
    }
    this.wait(samples.subarray(from + whole));
  }

  /** A last hop that was not filled counts for sums and peaks, but not for windows. */
  get squares() {
    let sum = sumOf(this.plain.toArray());
    for (const sample of this.rest) sum += sample * sample;
    return sum;
  }

  get peak() {
    return this.hopPeaks.toArray().reduce((highest, peak) => Math.max(highest, peak), highestOf(this.rest));
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
      filter: [...this.state],
    };
  }

  resume(mark: ChannelMark): void {
    this.weighted.resume(mark.weighted);
    this.plain.resume(mark.plain);
    this.totals.resume(mark.totals);
    this.hopPeaks.resume(mark.hopPeaks);
    this.clippedRuns.push(...mark.clippedRuns.map((run) => ({ ...run })));
    this.clippedSamples = mark.clippedSamples;
    this.state.set(mark.filter);
    this.frames = mark.plain.length * this.hopFrames;
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
    this.pending.set(other.pending);
    this.filled = other.filled;
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

  private get rest() {
    return this.pending.subarray(0, this.filled);
  }

  /** Keeps what makes no whole hop yet. */
  private wait(samples: Float32Array) {
    if (highestOf(samples) >= clipThreshold) this.countClipped(samples, 0);
    this.pending.set(samples, this.filled);
    this.filled += samples.length;
    this.frames += samples.length;
  }

  /** Sums of whole hops; returns their peaks. */
  private sum(samples: Float32Array): Float64Array {
    const hops = samples.length / this.hopFrames;
    const sums = new Float64Array(4 * hops);
    kernels().weightedHops(samples, this.hopFrames, this.weighting, this.state, sums);
    const peaks = new Float64Array(hops);
    for (let hop = 0, at = 0; hop < hops; hop++) {
      this.totals.push(sums[at++]);
      this.plain.push(sums[at++]);
      this.weighted.push(sums[at++]);
      peaks[hop] = sums[at++];
      this.hopPeaks.push(peaks[hop]);
    }
    return peaks;
  }

  /** Counts in samples that come so many frames after those that have been taken in. */
  private countClipped(samples: Float32Array, after: number) {
    for (let i = 0; i < samples.length; i++) {
      if (samples[i] < clipThreshold && samples[i] > -clipThreshold) continue;
      this.clippedSamples++;
      const at = this.frames + after + i;
      const last = this.clippedRuns[this.clippedRuns.length - 1];
      if (last && last.from + last.frames === at) last.frames++;
      else if (this.clippedRuns.length < mostRuns) this.clippedRuns.push({ from: at, frames: 1 });
    }
  }
}
