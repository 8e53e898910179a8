// Spectra of real input, two at a time, one in each lane.

/**
 * The spectrum of `size` real numbers, a power of two (radix 4; the first step is radix 2 where that is no power
 * of four), in the order of operations of the library the reference uses (fft.js 4.0.4, MIT): the same to the last
 * bit. `turns`: a cosine and a negative sine for each of `size` halves of a turn. `order`: the order the first step
 * takes its input in, in complex numbers' halves. `output`: real and imaginary part of bins 0 to `size` / 2, both
 * lanes each, and room for as many again.
 */
export function realTransform(size: i32, input: usize, output: usize, turns: usize, order: usize): void {
  const complex = size << 1;
  const none = f64x2.splat(0);
  // As wide as the first step: `size` where it is radix 2, half of it where it is radix 4.
  let step = ctz(size) & 1 ? size : size >> 1;
  const apart = (<usize>(step >> 1)) << 4;
  if (step == size) {
    for (let i = 0, t = 0; i < complex; i += 4, t++) {
      const at = input + ((<usize>(load<i32>(order + ((<usize>t) << 2)) >> 1)) << 4);
      const even = v128.load(at);
      const odd = v128.load(at + apart);
      const into = output + ((<usize>i) << 4);
      v128.store(into, f64x2.add(even, odd));
      v128.store(into, none, 16);
      v128.store(into, f64x2.sub(even, odd), 32);
      v128.store(into, none, 48);
    }
  } else {
    for (let i = 0, t = 0; i < complex; i += 8, t++) {
      const at = input + ((<usize>(load<i32>(order + ((<usize>t) << 2)) >> 1)) << 4);
      const a = v128.load(at);
      const b = v128.load(at + apart);
      const c = v128.load(at + 2 * apart);
      const d = v128.load(at + 3 * apart);
      const sum = f64x2.add(a, c);
      const less = f64x2.sub(a, c);
      const others = f64x2.add(b, d);
      const turned = f64x2.sub(b, d);
      const into = output + ((<usize>i) << 4);
      v128.store(into, f64x2.add(sum, others));
      v128.store(into, none, 16);
      v128.store(into, less, 32);
      v128.store(into, f64x2.neg(turned), 48);
      v128.store(into, f64x2.sub(sum, others), 64);
      v128.store(into, none, 80);
      v128.store(into, less, 96);
      v128.store(into, turned, 112);
    }
  }
  for (step >>= 2; step >= 2; step >>= 2) {
    const length = (complex / step) << 1;
    const half = length >> 1;
    const quarter = half >> 1;
    const eighth = quarter >> 1;
    const across = (<usize>quarter) << 4;
    for (let from = 0; from < complex; from += length) {
      for (let i = 0, k = 0; i <= eighth; i += 2, k += step) {
        const a = output + ((<usize>(from + i)) << 4);
        const b = a + across;
        const c = b + across;
        const d = c + across;
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
