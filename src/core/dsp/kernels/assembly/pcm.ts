// Whole numbers of 24 bits, as files hold them.

@inline
function rounded(samples: v128): v128 {
  const scale = f64x2.splat(8388608);
  const half = f64x2.splat(0.5);
  const low = f64x2.floor(f64x2.add(f64x2.mul(f64x2.promote_low_f32x4(samples), scale), half));
  const rest = v128.shuffle<f32>(samples, samples, 2, 3, 0, 1);
  const high = f64x2.floor(f64x2.add(f64x2.mul(f64x2.promote_low_f32x4(rest), scale), half));
  const all = v128.shuffle<i64>(i32x4.trunc_sat_f64x2_s_zero(low), i32x4.trunc_sat_f64x2_s_zero(high), 0, 2);
  return i32x4.max_s(i32x4.min_s(all, i32x4.splat(8388607)), i32x4.splat(-8388608));
}

@inline
function packed(values: v128): v128 {
  return v128.shuffle<i8>(values, values, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, 15, 15, 15, 15);
}

/**
 * Rounds `count` 32-bit samples to 24-bit integers, little-endian. `count` is a multiple of four; four bytes
 * behind the last are overwritten.
 */
export function pack24(samples: usize, count: i32, output: usize): void {
  for (let i = 0; i < count; i += 4, samples += 16, output += 12) v128.store(output, packed(rounded(v128.load(samples))));
}

/** As `pack24` for two channels, side by side. */
export function packPairs24(left: usize, right: usize, count: i32, output: usize): void {
  for (let i = 0; i < count; i += 4, left += 16, right += 16, output += 24) {
    const l = rounded(v128.load(left));
    const r = rounded(v128.load(right));
    v128.store(output, packed(v128.shuffle<i32>(l, r, 0, 4, 1, 5)));
    v128.store(output, packed(v128.shuffle<i32>(l, r, 2, 6, 3, 7)), 12);
  }
}

@inline
function unpacked(bytes: v128): v128 {
  const none = i32x4.splat(0);
  const words = v128.shuffle<i8>(bytes, none, 16, 0, 1, 2, 16, 3, 4, 5, 16, 6, 7, 8, 16, 9, 10, 11);
  return f32x4.mul(f32x4.convert_i32x4_s(words), f32x4.splat(4.656612873077392578125e-10));
}

/** 32-bit samples of `count` 24-bit integers, little-endian. `count` is a multiple of four; 4 bytes more are read. */
export function unpack24(bytes: usize, count: i32, output: usize): void {
  for (let i = 0; i < count; i += 4, bytes += 12, output += 16) v128.store(output, unpacked(v128.load(bytes)));
}

/** As `unpack24`, of two channels side by side; `count` frames. */
export function unpackPairs24(bytes: usize, count: i32, left: usize, right: usize): void {
  for (let i = 0; i < count; i += 4, bytes += 24, left += 16, right += 16) {
    const first = unpacked(v128.load(bytes));
    const second = unpacked(v128.load(bytes, 12));
    v128.store(left, v128.shuffle<f32>(first, second, 0, 2, 4, 6));
    v128.store(right, v128.shuffle<f32>(first, second, 1, 3, 5, 7));
  }
}
