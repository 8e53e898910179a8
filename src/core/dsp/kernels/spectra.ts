import FFT from 'fft.js';

/** Numbers a pair of frames has in `Kernels.spectra`: four a bin. */
export const pairNumbers = (size: number) => 4 * (size / 2 + 1);

/** See `Kernels.spectra`. */
export function spectra(samples: Float32Array, window: Float64Array, output: Float64Array) {
  const size = window.length;
  const numbers = pairNumbers(size);
  const fft = new FFT(size);
  const input = new Float64Array(size);
  const spectrum = new Float64Array(2 * size);
  for (let frame = 0; frame < (2 * output.length) / numbers; frame++) {
    const from = (frame * size) / 2;
    for (let i = 0; i < size; i++) input[i] = samples[from + i] * window[i];
    fft.realTransform(spectrum, input);
    const at = Math.floor(frame / 2) * numbers + (frame % 2);
    for (let i = 0; i < numbers / 2; i++) output[at + 2 * i] = spectrum[i];
  }
}

/** See `Kernels.addFrames`. */
export function addFrames(
  spectrums: Float64Array,
  gains: Float64Array,
  window: Float64Array,
  output: Float32Array,
) {
  const size = window.length;
  const half = size / 2;
  const numbers = pairNumbers(size);
  const fft = new FFT(size);
  const input = new Float64Array(size);
  const transformed = new Float64Array(2 * size);
  const scale = 1 / size;
  for (let frame = 0; frame < (2 * spectrums.length) / numbers; frame++) {
    const at = Math.floor(frame / 2) * numbers + (frame % 2);
    const gainsAt = (Math.floor(frame / 2) * numbers) / 2 + (frame % 2);
    for (let bin = 0; bin <= half; bin++) {
      const gain = gains[gainsAt + 2 * bin];
      const re = spectrums[at + 4 * bin] * gain;
      const im = spectrums[at + 4 * bin + 2] * gain;
      input[bin] = re - im;
      if (bin > 0 && bin < half) input[size - bin] = re + im;
    }
    // What adds up real and imaginary parts is its own inverse (R. N. Bracewell, Discrete Hartley
    // transform, JOSA 73, 1983).
    fft.realTransform(transformed, input);
    for (let i = 0; i < size; i++) {
      const mirrored = i > half;
      const bin = 2 * (mirrored ? size - i : i);
      const sum = mirrored
        ? transformed[bin] + transformed[bin + 1]
        : transformed[bin] - transformed[bin + 1];
      output[frame * half + i] += sum * scale * window[i];
    }
  }
}
