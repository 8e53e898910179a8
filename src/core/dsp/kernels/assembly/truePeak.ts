// The true peak: values between samples (ITU-R BS.1770-5 annex 2).

const taps: i32 = 32;
const groupFrames: i32 = 16;
/** What rounding in 32 bits can add to a bound, as a share of the samples it is made of; much more than it does. */
const roundingRoom: f64 = 1e-5;

// What is no number is passed over everywhere: whatever is made with it is none either, and leads over nothing.

@inline
function larger(a: f32, b: f32): f32 {
  return a < b ? b : a;
}

/**
 * The largest of `highest` and the magnitudes that the filter makes of `groups` groups of 16 samples. Starting
 * points whose bound (see `staysUnder` in oversampling.ts) is under the largest so far are left out. `table`: 32 weights
 * for each phase. `scratch` has room for two 32-bit numbers a group; two samples behind the last are zero.
 */
export function truePeak(
  samples: usize,
  groups: i32,
  highest: f64,
  factor: i32,
  table: usize,
  bend: f64,
  scratch: usize,
): f64 {
  const bends = scratch + ((<usize>groups) << 2);
  for (let group = 0; group < groups; group++) {
    let largest = f32x4.splat(0);
    let bent = f32x4.splat(0);
    const from = samples + ((<usize>group) << 6);
    for (let at = from; at < from + 64; at += 16) {
      const x = v128.load(at);
      const y = v128.load(at, 4);
      const z = v128.load(at, 8);
      largest = f32x4.pmax(largest, f32x4.abs(x));
      bent = f32x4.pmax(bent, f32x4.abs(f32x4.sub(f32x4.add(x, z), f32x4.add(y, y))));
    }
    largest = f32x4.pmax(largest, v128.shuffle<f32>(largest, largest, 2, 3, 0, 1));
    bent = f32x4.pmax(bent, v128.shuffle<f32>(bent, bent, 2, 3, 0, 1));
    largest = f32x4.pmax(largest, v128.shuffle<f32>(largest, largest, 1, 0, 3, 2));
    bent = f32x4.pmax(bent, v128.shuffle<f32>(bent, bent, 1, 0, 3, 2));
    const at = (<usize>group) << 2;
    v128.store32_lane(scratch + at, largest, 0);
    v128.store32_lane(bends + at, bent, 0);
  }
  for (let group = 0; group + 2 < groups; group++) {
    const at = (<usize>group) << 2;
    const near: f64 = larger(load<f32>(scratch + at), load<f32>(scratch + at, 4));
    const all = larger(<f32>near, load<f32>(scratch + at, 8));
    const most: f64 = larger(larger(load<f32>(bends + at), load<f32>(bends + at, 4)), load<f32>(bends + at, 8));
    if (near + bend * most + roundingRoom * all <= highest) continue;
    const from = samples + ((<usize>group) << 6);
    for (let start = from; start < from + 64; start += 4) {
      const here: f64 = abs(load<f32>(start, 60));
      if (here > highest) highest = here;
    }
    for (let phase = 1; phase < factor; phase++) {
      const weights = table + <usize>(phase * taps) * 8;
      for (let start = from; start < from + 64; start += 32) {
        let sum0 = f64x2.splat(0);
        let sum1 = f64x2.splat(0);
        let sum2 = f64x2.splat(0);
        let sum3 = f64x2.splat(0);
        for (let tap: usize = 0; tap < <usize>taps; tap++) {
          const weight = v128.load64_splat(weights + (tap << 3));
          const x = start + (tap << 2);
          sum0 = f64x2.add(sum0, f64x2.mul(weight, f64x2.promote_low_f32x4(v128.load64_zero(x))));
          sum1 = f64x2.add(sum1, f64x2.mul(weight, f64x2.promote_low_f32x4(v128.load64_zero(x, 8))));
          sum2 = f64x2.add(sum2, f64x2.mul(weight, f64x2.promote_low_f32x4(v128.load64_zero(x, 16))));
          sum3 = f64x2.add(sum3, f64x2.mul(weight, f64x2.promote_low_f32x4(v128.load64_zero(x, 24))));
        }
        let most = f64x2.splat(highest);
        most = f64x2.pmax(most, f64x2.abs(sum0));
        most = f64x2.pmax(most, f64x2.abs(sum1));
        most = f64x2.pmax(most, f64x2.abs(sum2));
        most = f64x2.pmax(most, f64x2.abs(sum3));
        highest = max(f64x2.extract_lane(most, 0), f64x2.extract_lane(most, 1));
      }
    }
  }
  return highest;
}
