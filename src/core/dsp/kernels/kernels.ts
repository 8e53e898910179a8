/** Coefficients of a second-order section, normalised to a0 = 1. */
export interface BiquadCoefficients {
  readonly b0: number;
  readonly b1: number;
  readonly b2: number;
  readonly a1: number;
  readonly a2: number;
}

/** The two filters of K-weighting; the high-pass has b = 1, −2, 1. */
export interface Weighting {
  readonly shelf: BiquadCoefficients;
  readonly highPass: BiquadCoefficients;
}

/** What values between samples are made with. */
export interface Oversampling {
  /** Values for each sample; 1 for none between. */
  readonly factor: number;
  /** `overTaps` weights for each of them. */
  readonly table: Float64Array;
  /** See `bendOf`. */
  readonly bend: number;
}

/** Weights of a sample-rate converter. */
export interface Weights {
  /** Rows of the table for each input frame; one more row stands for the next frame. */
  readonly phases: number;
  readonly table: Float64Array;
}

/** Where outputs of a sample-rate converter lie in what it has been given. */
export interface Conversion {
  readonly up: number;
  readonly down: number;
  readonly taps: number;
  readonly weights: Weights;
  /** Frame of the history, and so many of `up` parts after it, at which the first output begins. */
  readonly first: number;
  readonly startPart: number;
}

/** What `cepstra` needs besides audio. */
export interface CepstraTables {
  /** 400 weights. */
  readonly window: Float64Array;
  /** The first bin of each band, and its weights from there on. */
  readonly bands: readonly { readonly first: number; readonly weights: Float64Array }[];
  /** A row for each coefficient. */
  readonly cosines: Float64Array;
  readonly energyFloor: number;
  /** Under this energy a window is silent, and its cepstra are `nothing`. */
  readonly silence: number;
  readonly nothing: Float32Array;
}

/**
 * The loops in which nearly all the time of long jobs goes. There are two of each: in TypeScript
 * (reference.ts) and as WebAssembly (assembly/), which give the same results: to the last bit, but for sums
 * of `weightedHops`, which are taken in another order (within 1e-10 of each other).
 */
export interface Kernels {
  readonly kind: 'simd' | 'reference';
  /**
   * Sum, sum of squares, sum of squares after K-weighting and largest magnitude of whole hops, into `output`,
   * four numbers each. `state` is that of the filters, four numbers, and goes on.
   */
  weightedHops(
    samples: Float32Array,
    hopFrames: number,
    weighting: Weighting,
    state: Float64Array,
    output: Float64Array,
  ): void;
  /** Sums of squares of whole hops, as many as `output` has places. */
  hopSquares(samples: Float32Array, hopFrames: number, output: Float64Array): void;
  /** Minimum, maximum and mean square of whole stretches of 256 samples, three numbers each. */
  peaks(samples: Float32Array, output: Float32Array): void;
  /**
   * The largest of `highest` and the magnitudes of samples and of what lies between them, for starting points
   * of all but the last two groups of `overGroup` samples.
   */
  truePeak(samples: Float32Array, highest: number, oversampling: Oversampling): number;
  /** Fills `output` from the history of a converter. */
  resample(history: Float32Array, conversion: Conversion, output: Float32Array): void;
  /** Whole numbers of 24 bits, little-endian, the channels side by side. */
  pack24(audio: readonly Float32Array[], output: Uint8Array): void;
  unpack24(bytes: Uint8Array, audio: readonly Float32Array[]): void;
  /**
   * Filters in place through sections in a row, each rounded to 32 bits; `states` has two numbers a section.
   */
  sections(samples: Float32Array, coefficients: readonly BiquadCoefficients[], states: Float64Array): void;
  /**
   * Spectra of frames half over each other, an even number of them, cut out with `window`, whose length is
   * that of a frame, a power of two over 4. `output` has for each pair of frames and each bin, 0 to half the
   * length, four numbers: the real parts of both and the imaginary parts of both; as many pairs as it has
   * place for.
   */
  spectra(samples: Float32Array, window: Float64Array, output: Float64Array): void;
  /**
   * Makes frames of spectra that were multiplied by real gains (two for each pair and bin), and adds them to
   * `output`, half over each other, weighted with `window`.
   */
  addFrames(spectra: Float64Array, gains: Float64Array, window: Float64Array, output: Float32Array): void;
  /** Cepstra of windows of 400 samples, 160 apart, the first one at 0; samples beyond the end are 0. */
  cepstra(samples: Float32Array, tables: CepstraTables, output: Float32Array): void;
  /**
   * Costs of the best paths through template frames [at, at + length) to frames [first, first +
   * costs.length), and the frames (from `first` on) they begin at.
   */
  searchTemplate(
    cepstra: Float32Array,
    at: number,
    length: number,
    first: number,
    costs: Float64Array,
    begins: Int32Array,
  ): void;
  /**
   * Fills the samples of a FLAC subframe behind its warm-up, of which there are as many as coefficients (that
   * of the latest sample first), from the residual that begins at bit `bit`. Returns the bit behind it, or
   * one of `flacFaults`, which are negative.
   */
  flacResidual(
    bytes: Uint8Array,
    bit: number,
    samples: Int32Array,
    coefficients: readonly number[],
    shift: number,
  ): number;
}
