// Mel-frequency cepstra, two windows at a time, one in each lane.

import { pairAt } from './levels';

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
      realTransform(scratch, spectrum, turns, order);
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

/**
 * The spectrum of real input (radix 4, the first step radix 2 since 512 is no power of four), in the order of
 * operations of the library the reference uses (fft.js 4.0.4, MIT): the same to the last bit. `output`: real and
 * imaginary part of each bin, both lanes each.
 */
function realTransform(input: usize, output: usize, turns: usize, order: usize): void {
  const complex = size << 1;
  let step = size;
  const none = f64x2.splat(0);
  for (let i = 0, t = 0; i < complex; i += 4, t++) {
    const at = input + ((<usize>(load<i32>(order + ((<usize>t) << 2)) >> 1)) << 4);
    const even = v128.load(at);
    const odd = v128.load(at + ((<usize>(step >> 1)) << 4));
    const into = output + ((<usize>i) << 4);
    v128.store(into, f64x2.add(even, odd));
    v128.store(into, none, 16);
    v128.store(into, f64x2.sub(even, odd), 32);
    v128.store(into, none, 48);
  }
  for (step >>= 2; step >= 2; step >>= 2) {
    const length = (complex / step) << 1;
    const half = length >> 1;
    const quarter = half >> 1;
    const eighth = quarter >> 1;
    const apart = (<usize>quarter) << 4;
    for (let from = 0; from < complex; from += length) {
      for (let i = 0, k = 0; i <= eighth; i += 2, k += step) {
        const a = output + ((<usize>(from + i)) << 4);
        const b = a + apart;
        const c = b + apart;
        const d = c + apart;
        const ar = v128.load(a);
        const ai = v128.load(a, 16);
        const br = v128.load(b);
        const bi = v128.load(b, 16);
        const cr = v128.load(c);
        const ci = v128.load(c, 16);
        const dr = v128.load(d);
        const di = v128.load(d, 16);
        const angle = turns + ((<usize>k) << 3);
        const angle2 = turns + ((<usize>k) << 4);
        const angle3 = angle + ((<usize>k) << 4);
        const ubr = v128.load64_splat(angle);
        const ubi = v128.load64_splat(angle, 8);
        const ucr = v128.load64_splat(angle2);
        const uci = v128.load64_splat(angle2, 8);
        const udr = v128.load64_splat(angle3);
        const udi = v128.load64_splat(angle3, 8);
        const mbr = f64x2.sub(f64x2.mul(br, ubr), f64x2.mul(bi, ubi));
        const mbi = f64x2.add(f64x2.mul(br, ubi), f64x2.mul(bi, ubr));
        const mcr = f64x2.sub(f64x2.mul(cr, ucr), f64x2.mul(ci, uci));
        const mci = f64x2.add(f64x2.mul(cr, uci), f64x2.mul(ci, ucr));
        const mdr = f64x2.sub(f64x2.mul(dr, udr), f64x2.mul(di, udi));
        const mdi = f64x2.add(f64x2.mul(dr, udi), f64x2.mul(di, udr));
        const t0r = f64x2.add(ar, mcr);
        const t0i = f64x2.add(ai, mci);
        const t1r = f64x2.sub(ar, mcr);
        const t1i = f64x2.sub(ai, mci);
        const t2r = f64x2.add(mbr, mdr);
        const t2i = f64x2.add(mbi, mdi);
        const t3r = f64x2.sub(mbr, mdr);
        const t3i = f64x2.sub(mbi, mdi);
        v128.store(a, f64x2.add(t0r, t2r));
        v128.store(a, f64x2.add(t0i, t2i), 16);
        v128.store(b, f64x2.add(t1r, t3i));
        v128.store(b, f64x2.sub(t1i, t3r), 16);
        if (i == 0) {
          v128.store(c, f64x2.sub(t0r, t2r));
          v128.store(c, f64x2.sub(t0i, t2i), 16);
          continue;
        }
        if (i == eighth) continue;
        const e = output + ((<usize>(from + quarter - i)) << 4);
        const f = output + ((<usize>(from + half - i)) << 4);
        v128.store(e, f64x2.sub(t1r, t3i));
        v128.store(e, f64x2.sub(f64x2.neg(t1i), t3r), 16);
        v128.store(f, f64x2.sub(t0r, t2r));
        v128.store(f, f64x2.add(f64x2.neg(t0i), t2i), 16);
      }
    }
  }
}
