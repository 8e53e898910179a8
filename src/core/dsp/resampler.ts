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

/** ⌊(frames × times − less) / by⌋ without a product that passes what a double holds exactly. */
function scaledDown(frames: number, times: number, by: number, less = 0): number {
  const whole = Math.floor(frames / by);
  return whole * times + Math.floor(((frames - whole * by) * times - less) / by);
}

/** A table of more weights than these is not made: its phases are interpolated then. */
const mostWeights = 1_000_000;
/**
 * Phases of a table that is interpolated, for each input frame of a kernel that narrows nothing: between two
 * neighbours a straight line is off by π² ÷ 8 ÷ 4096², −143 dB of full scale.
 */
const closePhases = 4096;

interface Weights {
  /** Phases between two input frames; one more row of the table stands for the next frame. */
  phases: number;
  table: Float64Array;
}

/** Tables take a while; both sides of a stereo file, and one file after another, want the same. */
const tables = new Map<string, Weights>();
const keptTables = 4;

function weightsFor(up: number, taps: number, cutoff: number, attenuationDb: number): Weights {
  const exact = up * taps <= mostWeights;
  const narrowing = 0.5 / cutoff;
  const phases = exact ? up : Math.ceil(closePhases / Math.max(1, narrowing));
  const key = `${phases}/${taps}/${cutoff}/${attenuationDb}/${exact}`;
  const known = tables.get(key);
  if (known) return known;
  const made = { phases, table: polyphaseLowPass(phases, taps, cutoff, attenuationDb, exact ? 0 : 1) };
  for (const old of tables.keys()) if (tables.size >= keptTables) tables.delete(old);
  tables.set(key, made);
  return made;
}

/**
 * Sample-rate converter for one channel: a polyphase windowed-sinc FIR between any two whole rates. The pass
 * band reaches 0.907 of the lower Nyquist frequency (20 kHz for 44.1 kHz), the stop band begins at that
 * Nyquist frequency and is at least 120 dB down. Rates whose ratio has too many phases for a table (44,101 to
 * 48,000 Hz) take the two nearest of a table of close ones; what that adds is 130 dB down at least.
 *
 * Streams: any chunking gives the same output. The output is aligned with the input (no delay) and exactly
 * `round(inputFrames × toHz / fromHz)` frames long, counted over `process` and `flush` together.
 */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly taps: number;
  private readonly weights: Weights;
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
   * are not positive integers.
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
    const narrowing = Math.max(1, fromHz / toHz);
    const file = quality === 'file';
    this.taps = 4 * Math.ceil((file ? 50 : 3.5) * narrowing);
    const lowestNyquist = Math.min(fromHz, toHz) / 2;
    const cutoff = (file ? (0.907 + 1) / 2 : 1) * (lowestNyquist / fromHz);
    this.weights = weightsFor(this.up, this.taps, cutoff, file ? 125 : 55);
    this.base = -(this.taps / 2 - 1);
    this.history = new Float64Array(this.taps * 4);
    this.held = this.taps / 2 - 1;
  }

  /** The length after conversion of `frames` input frames. */
  outputFrames(frames: number): number {
    const whole = Math.floor(frames / this.down);
    return whole * this.up + Math.round(((frames - whole * this.down) * this.up) / this.down);
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
    const { up, down, taps } = this;
    const half = taps / 2 - 1;
    const lastCentre = this.base + this.held - (taps - half);
    const end = Math.min(upTo, scaledDown(lastCentre + 1, up, down, 1) + 1);
    const output = new Float32Array(Math.max(0, end - this.produced));
    if (this.weights.phases === up) this.fillExact(output);
    else this.fillBetween(output);
    this.produced += output.length;
    const keepFrom = scaledDown(this.produced, down, up) - half - this.base;
    if (keepFrom > 0) {
      this.history.copyWithin(0, keepFrom, this.held);
      this.held -= keepFrom;
      this.base += keepFrom;
    }
    return output;
  }

  /** Where output `i` from here on lies: a place in the history, and so many of `up` parts after it. */
  private placer() {
    const { up, down, produced } = this;
    const start = scaledDown(produced, down, up);
    const startPart = ((produced % up) * down) % up;
    const first = start - (this.taps / 2 - 1) - this.base;
    return (i: number) => {
      const position = startPart + i * down;
      const frames = Math.floor(position / up);
      return { part: position - frames * up, from: first + frames };
    };
  }

  private fillExact(output: Float32Array) {
    const { up, down, taps, history, weights } = this;
    const place = this.placer();
    const turns = together * up;
    let i = 0;
    for (; i + turns <= output.length; i += turns) {
      for (let phase = 0; phase < up; phase++) {
        const { part, from } = place(i + phase);
        weightedTogether(weights.table, part * taps, history, from, down, taps, output, i + phase, up);
      }
    }
    for (; i < output.length; i++) {
      const { part, from } = place(i);
      output[i] = weighted(weights.table, part * taps, history, from, taps);
    }
  }

  private fillBetween(output: Float32Array) {
    const { up, taps, history, weights } = this;
    const place = this.placer();
    for (let i = 0; i < output.length; i++) {
      const { part, from } = place(i);
      const phase = (part * weights.phases) / up;
      const below = Math.floor(phase);
      const row = below * taps;
      const low = weighted(weights.table, row, history, from, taps);
      const high = weighted(weights.table, row + taps, history, from, taps);
      output[i] = low + (phase - below) * (high - low);
    }
  }
}
