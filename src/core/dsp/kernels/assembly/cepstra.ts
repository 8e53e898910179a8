// Mel-frequency cepstra, two windows at a time, one in each lane.

import { pairAt } from './levels';
import { realTransform } from './realTransform';

/** The natural logarithm of the host: the same to the last bit as where it runs. */
@external('host', 'log')
declare function log(value: f64): f64;

const hop: i32 = 160;
const windowSamples: i32 = 400;
const size: i32 = 512;

/**
 * Cepstra of `windows` windows (an even number) of 400 samples, 160 apart: `coefficients` 32-bit numbers each.
 * `window`: 400 weights. `turns`: cosine and sine of the transform. `order`: the order its first step takes its
 * input in. `bands`: of each its first bin and how many, then at `weights` so many doubles. `cosines`: `bandCount`
 * for each coefficient. `nothing`: the cepstra of a window whose energy is under `silence`. `scratch` has room
 * for 8 kB of input, 16 kB of spectrum and 16 bytes a band.
 */
export function cepstra(
  samples: usize,
  windows: i32,
  window: usize,
  turns: usize,
  order: usize,
  bands: usize,
  bandCount: i32,
  weights: usize,
  cosines: usize,
  coefficients: i32,
  energyFloor: f64,
  silence: f64,
  nothing: usize,
  output: usize,
  scratch: usize,
): void {
  const spectrum = scratch + ((<usize>size) << 4);
  const logs = spectrum + ((<usize>size) << 5);
  for (let i = windowSamples; i < size; i++) v128.store(scratch + ((<usize>i) << 4), f64x2.splat(0));
  const width = (<usize>coefficients) << 2;
  for (let pair = 0; pair < windows; pair += 2, samples += 2 * hop * 4, output += 2 * width) {
    let energy = f64x2.splat(0);
    for (let i: usize = 0; i < <usize>windowSamples; i++) {
      const at = samples + (i << 2);
      const x = pairAt(at, hop * 4);
      const y = f64x2.mul(x, v128.load64_splat(window + (i << 3)));
      energy = f64x2.add(energy, f64x2.mul(y, y));
      v128.store(scratch + (i << 4), y);
    }
    const firstSilent = f64x2.extract_lane(energy, 0) < silence;
    const secondSilent = f64x2.extract_lane(energy, 1) < silence;
    if (!(firstSilent && secondSilent)) {
      realTransform(size, scratch, spectrum, turns, order);
      let at = weights;
      for (let band = 0; band < bandCount; band++) {
        const first = load<i32>(bands + ((<usize>band) << 3));
        const count = load<i32>(bands + ((<usize>band) << 3), 4);
        let sum = f64x2.splat(energyFloor);
        for (let i = 0; i < count; i++, at += 8) {
          const bin = spectrum + ((<usize>(first + i)) << 5);
          const re = v128.load(bin);
          const im = v128.load(bin, 16);
          const power = f64x2.add(f64x2.mul(re, re), f64x2.mul(im, im));
          sum = f64x2.add(sum, f64x2.mul(v128.load64_splat(at), power));
        }
        store<f64>(logs + ((<usize>band) << 4), log(f64x2.extract_lane(sum, 0)));
        store<f64>(logs + ((<usize>band) << 4), log(f64x2.extract_lane(sum, 1)), 8);
      }
      for (let k = 0, row = cosines; k < coefficients; k++) {
        let sum = f64x2.splat(0);
        for (let band = 0; band < bandCount; band++, row += 8)
          sum = f64x2.add(sum, f64x2.mul(v128.load64_splat(row), v128.load(logs + ((<usize>band) << 4))));
        store<f32>(output + ((<usize>k) << 2), <f32>f64x2.extract_lane(sum, 0));
        store<f32>(output + width + ((<usize>k) << 2), <f32>f64x2.extract_lane(sum, 1));
      }
    }
    if (firstSilent) memory.copy(output, nothing, width);
    if (secondSilent) memory.copy(output + width, nothing, width);
  }
}
