import { polyphaseLowPass } from './window';

/** Sum of `taps` frames of history, from `from` on, each times its weight; `taps` a multiple of four. */
function weighted(
  table: Float64Array,
  row: number,
  history: Float32Array,
  from: number,
  taps: number,
): number {
  // Four sums side by side: none has to wait for the one before.
  let s0 = 0;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  for (let tap = 0; tap < taps; tap += 4) {
    s0 += table[row + tap] * history[from + tap];
    s1 += table[row + tap + 1] * history[from + tap + 1];
    s2 += table[row + tap + 2] * history[from + tap + 2];
    s3 += table[row + tap + 3] * history[from + tap + 3];
  }
  return s0 + s1 + (s2 + s3);
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/**
 * Sample-rate converter for one channel: a polyphase windowed-sinc FIR. The pass band reaches 0.907 of the lower Nyquist
 * frequency (20 kHz for 44.1 kHz), the stop band begins at that Nyquist frequency and is at least 120 dB down.
 *
 * Streams: any chunking gives the same output. The output is aligned with the input (no delay) and exactly
 * `round(inputFrames × toHz / fromHz)` frames long, counted over `process` and `flush` together.
 */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly taps: number;
  private readonly table: Float64Array;
  private history: Float32Array;
  private held = 0;
  /** Input frame of history[0]; starts before the signal so that the filter is centred on frame 0. */
  private base: number;
  private received = 0;
  private produced = 0;

  /**
   * `quality` “analysis” is a tenth of the work: the stop band begins a quarter above the lower Nyquist frequency and is 55 dB down, good for
   * looking at sound, not for files. Throws RangeError for rates that are not positive integers or whose ratio has too many phases.
   */
  constructor(
    readonly fromHz: number,
    readonly toHz: number,
    quality: 'file' | 'analysis' = 'file',
  ) {
    if (!Number.isInteger(fromHz) || !Number.isInteger(toHz) || fromHz <= 0 || toHz <= 0) {
      throw new RangeError(`Sample rates must be whole hertz: ${fromHz} to ${toHz}`);
    }
    const divisor = gcd(fromHz, toHz);
    this.up = toHz / divisor;
    this.down = fromHz / divisor;
    if (this.up > 4096) throw new RangeError(`No converter from ${fromHz} Hz to ${toHz} Hz`);
    const narrowing = Math.max(1, fromHz / toHz);
    const file = quality === 'file';
    // A multiple of four: sums go four at a time.
    this.taps = 4 * Math.ceil((file ? 50 : 3.5) * narrowing);
    const lowestNyquist = Math.min(fromHz, toHz) / 2;
    const cutoff = (file ? (0.907 + 1) / 2 : 1) * (lowestNyquist / fromHz);
    this.table = polyphaseLowPass(this.up, this.taps, cutoff, file ? 125 : 55);
    this.base = -(this.taps / 2 - 1);
    this.history = new Float32Array(this.taps * 4);
    this.held = this.taps / 2 - 1;
  }

  /** The length after conversion of `frames` input frames. */
  outputFrames(frames: number): number {
    return Math.round((frames * this.up) / this.down);
  }

  process(input: Float32Array): Float32Array<ArrayBuffer> {
    this.append(input);
    this.received += input.length;
    return this.produce(Infinity);
  }

  /** The tail after the last input; the converter is spent afterwards until `reset`. */
  flush(): Float32Array<ArrayBuffer> {
    const total = this.outputFrames(this.received);
    this.append(new Float32Array(this.taps));
    return this.produce(total);
  }

  reset(): void {
    this.base = -(this.taps / 2 - 1);
    this.history.fill(0);
    this.held = this.taps / 2 - 1;
    this.received = 0;
    this.produced = 0;
  }

  private append(input: Float32Array) {
    if (this.held + input.length > this.history.length) {
      const grown = new Float32Array((this.held + input.length) * 2);
      grown.set(this.history.subarray(0, this.held));
      this.history = grown;
    }
    this.history.set(input, this.held);
    this.held += input.length;
  }

  private produce(upTo: number): Float32Array<ArrayBuffer> {
    const { up, down, taps, table, history } = this;
    const half = taps / 2 - 1;
    const lastCentre = this.base + this.held - (taps - half);
    const end = Math.min(upTo, Math.floor(((lastCentre + 1) * up - 1) / down) + 1);
    const output = new Float32Array(Math.max(0, end - this.produced));
    for (let i = 0; i < output.length; i++) {
      const position = (this.produced + i) * down;
      const centre = Math.floor(position / up);
      const row = (position - centre * up) * taps;
      const from = centre - half - this.base;
      output[i] = weighted(table, row, history, from, taps);
    }
    this.produced += output.length;
    const keepFrom = Math.floor((this.produced * down) / up) - half - this.base;
    if (keepFrom > 0) {
      this.history.copyWithin(0, keepFrom, this.held);
      this.held -= keepFrom;
      this.base += keepFrom;
    }
    return output;
  }
}
