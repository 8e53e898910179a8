/**
 * Faster or slower speech at its own pitch: waveform-similarity overlap-add (W. Verhelst and M. Roelands,
 * ICASSP 1993). Segments of 40 ms are laid half over each other; each is taken from where, within ±8 ms, it
 * goes on best from the one before. `speed` 0.5 to 3; 1 gives back the input. Streams: any chunking gives the
 * same output, all channels are cut at the same places.
 */
export class TimeStretch {
  private readonly half: number;
  private readonly reach: number;
  private readonly window: Float32Array;
  private held: Float32Array[];
  /** Input frame of held[0]. */
  private base = 0;
  private segments = 0;
  /** Where the segment before was taken from, and its second half, still to be overlapped. */
  private lastFrom = 0;
  private tail: Float32Array[];

  constructor(
    rateHz: number,
    private readonly channels: number,
    private readonly speed: number,
  ) {
    if (!(speed >= 0.5 && speed <= 3)) throw new RangeError(`Speed ${speed} is not between 0.5 and 3`);
    this.half = Math.round(rateHz * 0.02);
    this.reach = Math.round(rateHz * 0.008);
    this.window = Float32Array.from(
      { length: this.half },
      (_, i) => 0.5 - 0.5 * Math.cos((Math.PI * (i + 0.5)) / this.half),
    );
    this.held = this.empty();
    this.tail = Array.from({ length: channels }, () => new Float32Array(this.half));
  }

  private empty() {
    return Array.from({ length: this.channels }, () => new Float32Array(0));
  }

  /** Takes planar input and returns what is ready, a multiple of 20 ms. */
  process(input: readonly Float32Array[]): Float32Array<ArrayBuffer>[] {
    this.held = this.held.map((samples, channel) => {
      const all = new Float32Array(samples.length + input[channel].length);
      all.set(samples);
      all.set(input[channel], samples.length);
      return all;
    });
    const { half, reach } = this;
    const ready: Float32Array[][] = [];
    for (;;) {
      const wanted = Math.round(this.segments * half * this.speed);
      if (wanted + reach + 2 * half > this.base + this.held[0].length) break;
      const from = this.segments === 0 ? 0 : this.best(wanted);
      ready.push(this.overlap(from));
      this.lastFrom = from;
      this.segments++;
      const next = Math.round(this.segments * half * this.speed) - reach;
      this.drop(Math.min(next, this.lastFrom + half));
    }
    return Array.from({ length: this.channels }, (_, channel) => {
      const output = new Float32Array(ready.length * half);
      ready.forEach((segment, i) => output.set(segment[channel], i * half));
      return output;
    });
  }

  /** What the last whole segments leave: call once after the input's end. */
  flush(): Float32Array<ArrayBuffer>[] {
    const pad = 2 * this.half + 2 * this.reach;
    return this.process(Array.from({ length: this.channels }, () => new Float32Array(pad)));
  }

  /**
   * The start near `wanted` whose sound goes on best from the segment before: the highest correlation over
   * half a segment.
   */
  private best(wanted: number): number {
    const { half, reach } = this;
    const natural = this.lastFrom + half - this.base;
    const [samples] = this.held;
    const first = Math.max(this.base, wanted - reach) - this.base;
    const last = wanted + reach - this.base;
    const correlation = (at: number, step: number) => {
      let product = 0;
      let energy = 1e-9;
      for (let i = 0; i < half; i += step) {
        const value = samples[at + i];
        product += samples[natural + i] * value;
        energy += value * value;
      }
      return product / Math.sqrt(energy);
    };
    let best = Math.max(0, wanted - this.base);
    let most = -Infinity;
    const search = (from: number, to: number, step: number, every: number) => {
      for (let at = from; at <= to; at += step) {
        const value = correlation(at, every);
        if (value > most) {
          most = value;
          best = at;
        }
      }
    };
    search(first, last, 8, 4);
    most = -Infinity;
    search(Math.max(first, best - 8), Math.min(last, best + 8), 1, 2);
    return best + this.base;
  }

  private overlap(from: number): Float32Array[] {
    const { half, window } = this;
    const at = from - this.base;
    return this.held.map((samples, channel) => {
      const output = new Float32Array(half);
      const tail = this.tail[channel];
      const first = this.segments === 0;
      for (let i = 0; i < half; i++) {
        output[i] = first ? samples[at + i] : tail[i] + samples[at + i] * window[i];
        tail[i] = samples[at + half + i] * window[half - 1 - i];
      }
      return output;
    });
  }

  private drop(before: number) {
    const gone = Math.max(0, Math.min(before - this.base, this.held[0].length));
    this.held = this.held.map((samples) => samples.slice(gone));
    this.base += gone;
  }
}
