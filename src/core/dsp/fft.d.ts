/** fft.js 4 ships no types. */
declare module 'fft.js' {
  export default class FFT {
    constructor(size: number);
    /** Fills bins 0 … size / 2 of `output`, real and imaginary parts in turn. */
    realTransform(output: Float64Array, input: ArrayLike<number>): void;
    /** Real and imaginary parts in turn. */
    transform(output: Float64Array, input: ArrayLike<number>): void;
    /** Fills the other half of what `realTransform` gives. */
    completeSpectrum(spectrum: Float64Array): void;
    /** Real and imaginary parts in turn; divided by the size. */
    inverseTransform(output: Float64Array, input: ArrayLike<number>): void;
  }
}
