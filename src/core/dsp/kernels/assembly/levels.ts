// Sums of hops: what loudness and levels are made of.

/**
 * For each of `hops` whole hops from `samples` on (32-bit): the sum, the sum of squares, the sum of squares
 * after K-weighting and the largest magnitude, as four doubles each at `output`.
 *
 * A recursive filter cannot be spread over lanes as it is. A hop is cut into four quarters which are filtered
 * side by side, the first from the state the last hop left, the others from rest; what the missing state would
 * have added is added afterwards: `responses` has the output to each of the four state variables alone, four
 * doubles a sample, and after them what becomes of the state in a quarter, four doubles for each variable. The
 * result depends on the hop and the state alone. What is left over when a hop is no multiple of four comes last.
 *
 * `filter`: b0, b1, b2, a1, a2 of the shelf, a1, a2 of the high-pass (its b are 1, −2, 1). `state`: two
 * variables of the shelf, two of the high-pass. `scratch` has room for four doubles for each sample of a quarter.
 */
export function weightedHops(
  samples: usize,
  hops: i32,
  hopFrames: i32,
  filter: usize,
  responses: usize,
  state: usize,
  output: usize,
  scratch: usize,
): void {
  const b0 = v128.load64_splat(filter);
  const b1 = v128.load64_splat(filter, 8);
  const b2 = v128.load64_splat(filter, 16);
  const a1 = v128.load64_splat(filter, 24);
  const a2 = v128.load64_splat(filter, 32);
  const c1 = v128.load64_splat(filter, 40);
  const c2 = v128.load64_splat(filter, 48);
  const quarter = hopFrames >> 2;
  const stride = (<usize>quarter) << 2;
  const onward = responses + ((<usize>quarter) << 5);
  for (let hop = 0; hop < hops; hop++, output += 32, samples += (<usize>hopFrames) << 2) {
    // Quarters 0 and 1, 2 and 3.
    let s1 = v128.load64_zero(state);
    let s2 = v128.load64_zero(state, 8);
    let t1 = v128.load64_zero(state, 16);
    let t2 = v128.load64_zero(state, 24);
    let u1 = f64x2.splat(0);
    let u2 = f64x2.splat(0);
    let v1 = f64x2.splat(0);
    let v2 = f64x2.splat(0);
    let total = f64x2.splat(0);
    let plain = f64x2.splat(0);
    let total2 = f64x2.splat(0);
    let plain2 = f64x2.splat(0);
    let peak = f32x4.splat(0);
    for (let i = 0, at = samples, keep = scratch; i < quarter; i++, at += 4, keep += 32) {
      const far = at + stride + stride;
      const x = pairAt(at, stride);
      const z = pairAt(far, stride);
      const shelved = f64x2.add(f64x2.mul(b0, x), s1);
      const shelved2 = f64x2.add(f64x2.mul(b0, z), u1);
      s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, shelved));
      u1 = f64x2.sub(f64x2.add(f64x2.mul(b1, z), u2), f64x2.mul(a1, shelved2));
      s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, shelved));
      u2 = f64x2.sub(f64x2.mul(b2, z), f64x2.mul(a2, shelved2));
      const y = f64x2.add(shelved, t1);
      const w = f64x2.add(shelved2, v1);
      t1 = f64x2.sub(f64x2.sub(t2, f64x2.add(shelved, shelved)), f64x2.mul(c1, y));
      v1 = f64x2.sub(f64x2.sub(v2, f64x2.add(shelved2, shelved2)), f64x2.mul(c1, w));
      t2 = f64x2.sub(shelved, f64x2.mul(c2, y));
      v2 = f64x2.sub(shelved2, f64x2.mul(c2, w));
      v128.store(keep, y);
      v128.store(keep, w, 16);
    }
    for (let i = 0, at = samples; i < quarter; i++, at += 16) {
      const four = v128.load(at);
      const x = f64x2.promote_low_f32x4(four);
      const z = f64x2.promote_low_f32x4(v128.shuffle<i64>(four, four, 1, 0));
      total = f64x2.add(total, x);
      total2 = f64x2.add(total2, z);
      plain = f64x2.add(plain, f64x2.mul(x, x));
      plain2 = f64x2.add(plain2, f64x2.mul(z, z));
      peak = f32x4.pmax(peak, f32x4.abs(four));
    }
    // The true state after each quarter, one after another.
    const e0 = f64x2.extract_lane(s1, 0);
    const e1 = f64x2.extract_lane(s2, 0);
    const e2 = f64x2.extract_lane(t1, 0);
    const e3 = f64x2.extract_lane(t2, 0);
    const f0 = f64x2.extract_lane(s1, 1) + later(onward, 0, e0, e1, e2, e3);
    const f1 = f64x2.extract_lane(s2, 1) + later(onward, 1, e0, e1, e2, e3);
    const f2 = f64x2.extract_lane(t1, 1) + later(onward, 2, e0, e1, e2, e3);
    const f3 = f64x2.extract_lane(t2, 1) + later(onward, 3, e0, e1, e2, e3);
    const g0 = f64x2.extract_lane(u1, 0) + later(onward, 0, f0, f1, f2, f3);
    const g1 = f64x2.extract_lane(u2, 0) + later(onward, 1, f0, f1, f2, f3);
    const g2 = f64x2.extract_lane(v1, 0) + later(onward, 2, f0, f1, f2, f3);
    const g3 = f64x2.extract_lane(v2, 0) + later(onward, 3, f0, f1, f2, f3);
    let h0 = f64x2.extract_lane(u1, 1) + later(onward, 0, g0, g1, g2, g3);
    let h1 = f64x2.extract_lane(u2, 1) + later(onward, 1, g0, g1, g2, g3);
    let h2 = f64x2.extract_lane(v1, 1) + later(onward, 2, g0, g1, g2, g3);
    let h3 = f64x2.extract_lane(v2, 1) + later(onward, 3, g0, g1, g2, g3);
    const none = f64x2.splat(0);
    const k0 = f64x2.replace_lane(none, 1, e0);
    const k1 = f64x2.replace_lane(none, 1, e1);
    const k2 = f64x2.replace_lane(none, 1, e2);
    const k3 = f64x2.replace_lane(none, 1, e3);
    const l0 = f64x2.replace_lane(f64x2.splat(f0), 1, g0);
    const l1 = f64x2.replace_lane(f64x2.splat(f1), 1, g1);
    const l2 = f64x2.replace_lane(f64x2.splat(f2), 1, g2);
    const l3 = f64x2.replace_lane(f64x2.splat(f3), 1, g3);
    let weighted = f64x2.splat(0);
    let weighted2 = f64x2.splat(0);
    for (let i = 0, at = responses, keep = scratch; i < quarter; i++, at += 32, keep += 32) {
      const r0 = v128.load64_splat(at);
      const r1 = v128.load64_splat(at, 8);
      const r2 = v128.load64_splat(at, 16);
      const r3 = v128.load64_splat(at, 24);
      const y = f64x2.add(
        v128.load(keep),
        f64x2.add(
          f64x2.add(f64x2.mul(r0, k0), f64x2.mul(r1, k1)),
          f64x2.add(f64x2.mul(r2, k2), f64x2.mul(r3, k3)),
        ),
      );
      const w = f64x2.add(
        v128.load(keep, 16),
        f64x2.add(
          f64x2.add(f64x2.mul(r0, l0), f64x2.mul(r1, l1)),
          f64x2.add(f64x2.mul(r2, l2), f64x2.mul(r3, l3)),
        ),
      );
      weighted = f64x2.add(weighted, f64x2.mul(y, y));
      weighted2 = f64x2.add(weighted2, f64x2.mul(w, w));
    }
    total = f64x2.add(total, total2);
    plain = f64x2.add(plain, plain2);
    weighted = f64x2.add(weighted, weighted2);
    let sum = f64x2.extract_lane(total, 0) + f64x2.extract_lane(total, 1);
    let squares = f64x2.extract_lane(plain, 0) + f64x2.extract_lane(plain, 1);
    let loudness = f64x2.extract_lane(weighted, 0) + f64x2.extract_lane(weighted, 1);
    let highest: f64 = max(
      max(f32x4.extract_lane(peak, 0), f32x4.extract_lane(peak, 1)),
      max(f32x4.extract_lane(peak, 2), f32x4.extract_lane(peak, 3)),
    );
    for (let i = quarter << 2; i < hopFrames; i++) {
      const x: f64 = load<f32>(samples + ((<usize>i) << 2));
      const shelved = load<f64>(filter) * x + h0;
      h0 = load<f64>(filter, 8) * x - load<f64>(filter, 24) * shelved + h1;
      h1 = load<f64>(filter, 16) * x - load<f64>(filter, 32) * shelved;
      const y = shelved + h2;
      h2 = -2.0 * shelved - load<f64>(filter, 40) * y + h3;
      h3 = shelved - load<f64>(filter, 48) * y;
      sum += x;
      squares += x * x;
      loudness += y * y;
      const magnitude = abs(x);
      if (magnitude > highest) highest = magnitude;
    }
    // Tails that decay towards zero would end in denormal numbers, which are many times slower.
    if (abs(h0) + abs(h1) + abs(h2) + abs(h3) < 1e-20) h0 = h1 = h2 = h3 = 0;
    store<f64>(state, h0);
    store<f64>(state, h1, 8);
    store<f64>(state, h2, 16);
    store<f64>(state, h3, 24);
    store<f64>(output, sum);
    store<f64>(output, squares, 8);
    store<f64>(output, loudness, 16);
    store<f64>(output, highest, 24);
  }
}

/** What a state variable is a quarter later, from all four. */
@inline
function later(onward: usize, n: usize, e0: f64, e1: f64, e2: f64, e3: f64): f64 {
  return (
    load<f64>(onward + (n << 3)) * e0 +
    load<f64>(onward + 32 + (n << 3)) * e1 +
    load<f64>(onward + 64 + (n << 3)) * e2 +
    load<f64>(onward + 96 + (n << 3)) * e3
  );
}

/** Two doubles from places `apart` bytes from each other. */
@inline
export function pairAt(at: usize, apart: usize): v128 {
  return f64x2.promote_low_f32x4(v128.load32_lane(at + apart, v128.load32_zero(at), 1));
}

/** Sums of squares of `hops` hops, each in the order of its samples: four hops at a time. */
export function hopSquares(samples: usize, hops: i32, hopFrames: i32, output: usize): void {
  const stride = (<usize>hopFrames) << 2;
  let hop = 0;
  for (; hop + 4 <= hops; hop += 4, samples += 4 * stride, output += 32) {
    let first = f64x2.splat(0);
    let second = f64x2.splat(0);
    for (let i = 0, at = samples; i < hopFrames; i++, at += 4) {
      const x = pairAt(at, stride);
      const z = pairAt(at + 2 * stride, stride);
      first = f64x2.add(first, f64x2.mul(x, x));
      second = f64x2.add(second, f64x2.mul(z, z));
    }
    v128.store(output, first);
    v128.store(output, second, 16);
  }
  for (; hop < hops; hop++, samples += stride, output += 8) {
    let sum: f64 = 0;
    for (let i = 0, at = samples; i < hopFrames; i++, at += 4) {
      const x: f64 = load<f32>(at);
      sum += x * x;
    }
    store<f64>(output, sum);
  }
}

const peakFrames: i32 = 256;

/** Minimum, maximum and mean square (32-bit) of `count` stretches of 256 samples. */
export function peaks(samples: usize, count: i32, output: usize): void {
  const stride = (<usize>peakFrames) << 2;
  for (let i = 0; i < count; i++) {
    let low = f32x4.splat(Infinity);
    let high = f32x4.splat(-Infinity);
    const from = samples + <usize>i * stride;
    for (let at = from; at < from + stride; at += 16) {
      const x = v128.load(at);
      low = f32x4.pmin(low, x);
      high = f32x4.pmax(high, x);
    }
    const into = output + <usize>i * 12;
    low = f32x4.pmin(low, v128.shuffle<f32>(low, low, 2, 3, 0, 1));
    high = f32x4.pmax(high, v128.shuffle<f32>(high, high, 2, 3, 0, 1));
    low = f32x4.pmin(low, v128.shuffle<f32>(low, low, 1, 0, 3, 2));
    high = f32x4.pmax(high, v128.shuffle<f32>(high, high, 1, 0, 3, 2));
    store<f32>(into, f32x4.extract_lane(low, 0));
    store<f32>(into, f32x4.extract_lane(high, 0), 4);
  }
  let i = 0;
  for (; i + 4 <= count; i += 4) {
    let first = f64x2.splat(0);
    let second = f64x2.splat(0);
    const from = samples + <usize>i * stride;
    for (let at = from; at < from + stride; at += 4) {
      const x = pairAt(at, stride);
      const z = pairAt(at + 2 * stride, stride);
      first = f64x2.add(first, f64x2.mul(x, x));
      second = f64x2.add(second, f64x2.mul(z, z));
    }
    const into = output + <usize>i * 12 + 8;
    store<f32>(into, <f32>(f64x2.extract_lane(first, 0) / 256));
    store<f32>(into, <f32>(f64x2.extract_lane(first, 1) / 256), 12);
    store<f32>(into, <f32>(f64x2.extract_lane(second, 0) / 256), 24);
    store<f32>(into, <f32>(f64x2.extract_lane(second, 1) / 256), 36);
  }
  for (; i < count; i++) {
    let sum: f64 = 0;
    const from = samples + <usize>i * stride;
    for (let at = from; at < from + stride; at += 4) {
      const x: f64 = load<f32>(at);
      sum += x * x;
    }
    store<f32>(output + <usize>i * 12 + 8, <f32>(sum / 256));
  }
}
