import { kernels } from './kernels';
import type { Weights } from './kernels/kernels';
import { polyphaseLowPass } from './window';

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
  private history: Float32Array;
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
    this.history = new Float32Array(this.taps * 4);
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
      const grown = new Float32Array((this.held + input.length) * 2);
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
    this.fill(output);
    this.produced += output.length;
    const keepFrom = scaledDown(this.produced, down, up) - half - this.base;
    if (keepFrom > 0) {
      this.history.copyWithin(0, keepFrom, this.held);
      this.held -= keepFrom;
      this.base += keepFrom;
    }
    return output;
  }

  private fill(output: Float32Array) {
    const { up, down, taps, weights, produced } = this;
    const first = scaledDown(produced, down, up) - (taps / 2 - 1) - this.base;
    const startPart = ((produced % up) * down) % up;
    const history = this.history.subarray(0, this.held);
    kernels().resample(history, { up, down, taps, weights, first, startPart }, output);
  }
}
