// Frames half over each other, their spectra, and audio made of them again: two frames at a time.

import { pairAt } from './levels';
import { realTransform } from './realTransform';

/**
 * Spectra of `pairs` pairs of frames of `size` samples, half a frame apart, cut out with `window`. `output`: for
 * each pair and bin 0 to `size` / 2 the real parts of both and the imaginary parts of both. `turns`, `order`: see
 * `realTransform`. `scratch` has room for 48 bytes a sample of a frame.
 */
export function spectra(
  samples: usize,
  pairs: i32,
  size: i32,
  window: usize,
  turns: usize,
  order: usize,
  output: usize,
  scratch: usize,
): void {
  const hop = (<usize>size) << 1;
  const bytes = ((<usize>size) << 4) + 32;
  const spectrum = scratch + ((<usize>size) << 4);
  for (let pair = 0; pair < pairs; pair++, samples += 2 * hop, output += bytes) {
    for (let i: usize = 0; i < <usize>size; i++)
      v128.store(
        scratch + (i << 4),
        f64x2.mul(pairAt(samples + (i << 2), hop), v128.load64_splat(window + (i << 3))),
      );
    realTransform(size, scratch, spectrum, turns, order);
    memory.copy(output, spectrum, bytes);
  }
}

/**
 * Multiplies spectra, as `spectra` gives them, by real gains (of each pair and bin two), makes frames of them and
 * adds those to `output`, half over each other, each weighted with `window`. The transform back is a transform of
 * what adds up real and imaginary parts (R. N. Bracewell, Discrete Hartley transform, JOSA 73, 1983): that is real
 * and its own inverse.
 */
export function addFrames(
  spectrums: usize,
  gains: usize,
  pairs: i32,
  size: i32,
  window: usize,
  turns: usize,
  order: usize,
  output: usize,
  scratch: usize,
): void {
  const hop = (<usize>size) << 1;
  const half = <usize>(size >> 1);
  const spectrum = scratch + ((<usize>size) << 4);
  const scale = f64x2.splat(1 / <f64>size);
  for (let pair = 0; pair < pairs; pair++, output += 2 * hop) {
    for (let bin: usize = 0; bin <= half; bin++, spectrums += 32, gains += 16) {
      const gain = v128.load(gains);
      const re = f64x2.mul(v128.load(spectrums), gain);
      const im = f64x2.mul(v128.load(spectrums, 16), gain);
      v128.store(scratch + (bin << 4), f64x2.sub(re, im));
      if (bin > 0 && bin < half) v128.store(scratch + ((<usize>size - bin) << 4), f64x2.add(re, im));
    }
    realTransform(size, scratch, spectrum, turns, order);
    for (let i: usize = 0; i <= half; i++) {
      const re = v128.load(spectrum + (i << 5));
      const im = v128.load(spectrum + (i << 5), 16);
      v128.store(scratch + (i << 4), f64x2.mul(f64x2.sub(re, im), scale));
      if (i > 0 && i < half) v128.store(scratch + ((<usize>size - i) << 4), f64x2.mul(f64x2.add(re, im), scale));
    }
    add(scratch, size, window, output);
    add(scratch + 8, size, window, output + hop);
  }
}

/** Adds one frame of a pair, weighted. */
function add(frame: usize, size: i32, window: usize, output: usize): void {
  for (let i: usize = 0; i < <usize>size; i++) {
    const at = output + (i << 2);
    store<f32>(at, <f32>(<f64>load<f32>(at) + load<f64>(frame + (i << 4)) * load<f64>(window + (i << 3))));
  }
}
