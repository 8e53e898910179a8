import { kernels } from '../dsp/kernels';
import type { BiquadCoefficients } from '../dsp/kernels/kernels';

/** About so many samples are filtered at a time. */
const pieceSamples = 2048;

/**
 * Audio filtered through sections in a row, from rest, of which only the powers of its hops are kept: half an
 * hour of it needs no room. Filtered samples are made again where they are asked for, from what the filters
 * held there: they are the same.
 */
export class FilteredBand {
  /** Mean squares of hops of `hop` samples; what is left over at the end does not count. */
  readonly powers: Float64Array;
  private readonly step: number;
  private readonly states: Float64Array[] = [];
  /** The piece that was filtered last. */
  private readonly scratch: Float32Array;

  constructor(
    private readonly samples: Float32Array,
    private readonly coefficients: readonly BiquadCoefficients[],
    hop: number,
  ) {
    this.step = hop * Math.ceil(pieceSamples / hop);
    this.scratch = new Float32Array(this.step);
    this.powers = new Float64Array(Math.floor(samples.length / hop));
    const state = new Float64Array(2 * coefficients.length);
    for (let from = 0; from < samples.length; from += this.step) {
      this.states.push(state.slice());
      const powers = this.powers.subarray(from / hop, (from + this.step) / hop);
      kernels().hopSquares(this.piece(from, state), hop, powers);
    }
    for (let i = 0; i < this.powers.length; i++) this.powers[i] /= hop;
  }

  /** Filtered samples [from, to); those beyond the end are 0. */
  read(from: number, to: number): Float32Array {
    const { step } = this;
    const result = new Float32Array(to - from);
    const end = Math.min(to, this.samples.length);
    for (let first = Math.floor(from / step) * step; first < end; first += step) {
      const piece = this.piece(first, this.states[first / step].slice());
      const start = Math.max(from, first);
      result.set(piece.subarray(start - first, end - first), start - from);
    }
    return result;
  }

  /** Until the next one; `state` goes on. */
  private piece(from: number, state: Float64Array): Float32Array {
    const samples = this.samples.subarray(from, from + this.step);
    const piece = this.scratch.subarray(0, samples.length);
    piece.set(samples);
    kernels().sections(piece, this.coefficients, state);
    return piece;
  }
}
