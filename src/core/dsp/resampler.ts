import { polyphaseLowPass } from './window';

/** Outputs a whole turn of phases apart have the same weights: so many are made at a time. */
const together = 4;

/** Sum of `taps` frames of history, from `from` on, each times its weight. */
function weighted(table: Float64Array, row: number, history: Float64Array, from: number, taps: number) {
  let sum = 0;
  for (let tap = 0; tap < taps; tap++) sum += table[row + tap] * history[from + tap];
  return sum;
}

/**
 * `together` such sums, `stride` frames of history apart, into `output` at `at` and every `turn` frames on:
 * in the same order, so to the same bit.
 */
function weightedTogether(
  table: Float64Array,
  row: number,
  history: Float64Array,
  from: number,
  stride: number,
  taps: number,
  output: Float32Array,
  at: number,
  turn: number,
) {
  let s0 = 0;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  for (let tap = 0; tap < taps; tap++) {
    const weight = table[row + tap];
    const frame = from + tap;
    s0 += weight * history[frame];
    s1 += weight * history[frame + stride];
    s2 += weight * history[frame + 2 * stride];
    s3 += weight * history[frame + 3 * stride];
  }
  output[at] = s0;
  output[at + turn] = s1;
  output[at + 2 * turn] = s2;
  output[at + 3 * turn] = s3;
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));

/**
 * Sample-rate converter for one channel: a polyphase windowed-sinc FIR. The pass band reaches 0.907 of the
 * lower Nyquist frequency (20 kHz for 44.1 kHz), the stop band begins at that Nyquist frequency and is at
 * least 120 dB down.
 *
 * Streams: any chunking gives the same output. The output is aligned with the input (no delay) and exactly
 * `round(inputFrames × toHz / fromHz)` frames long, counted over `process` and `flush` together.
 */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly taps: number;
  private readonly table: Float64Array;
  /** In 64 bits, so that no sample is converted for each of its weights. */
  private history: Float64Array;
  private held = 0;
  /** Input frame of history[0]; starts before the signal so that the filter is centred on frame 0. */
  private base: number;
  private received = 0;
  private produced = 0;

  /**
   * `quality` “analysis” is a tenth of the work: the stop band begins a quarter above the lower Nyquist
   * frequency and is 55 dB down, good for looking at sound, not for files. Throws RangeError for rates that
   * are not positive integers or whose ratio has too many phases.
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
    this.taps = 4 * Math.ceil((file ? 50 : 3.5) * narrowing);
    const lowestNyquist = Math.min(fromHz, toHz) / 2;
    const cutoff = (file ? (0.907 + 1) / 2 : 1) * (lowestNyquist / fromHz);
    this.table = polyphaseLowPass(this.up, this.taps, cutoff, file ? 125 : 55);
    this.base = -(this.taps / 2 - 1);
    this.history = new Float64Array(this.taps * 4);
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
      const grown = new Float64Array((this.held + input.length) * 2);
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
    const place = (i: number) => {
      const position = (this.produced + i) * down;
      const centre = Math.floor(position / up);
      return { row: (position - centre * up) * taps, from: centre - half - this.base };
    };
    const turns = together * up;
    let i = 0;
    for (; i + turns <= output.length; i += turns) {
      for (let phase = 0; phase < up; phase++) {
        const { row, from } = place(i + phase);
        weightedTogether(table, row, history, from, down, taps, output, i + phase, up);
      }
    }
    for (; i < output.length; i++) {
      const { row, from } = place(i);
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
