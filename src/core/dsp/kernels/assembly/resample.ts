// Weighted sums of a sample-rate converter.

import { pairAt } from './levels';

/** `count` pairs of doubles of 32-bit samples: each with the one `apart` samples after it. */
export function spread(samples: usize, count: i32, apart: i32, output: usize): void {
  const further = (<usize>apart) << 2;
  for (let i = 0; i < count; i++, samples += 4, output += 16)
    v128.store(output, pairAt(samples, further));
}

/**
 * Outputs [0, count): the sum of `taps` samples from `first` + ⌊(startPart + i × down) ÷ up⌋ on, each times its
 * weight in row (startPart + i × down) mod up of `table`. Outputs a whole turn of phases apart have the same
 * weights: `pairs` has each sample beside the one `down` further on (see `spread`), so that two of them are a
 * pair of lanes; eight are made together, each in the order of its taps.
 */
export function resample(
  table: usize,
  taps: i32,
  up: i32,
  down: i32,
  first: i32,
  startPart: i32,
  pairs: usize,
  output: usize,
  count: i32,
): void {
  let i = 0;
  for (; i + 8 * up <= count; i += 8 * up) turns(4, table, taps, up, down, first, startPart, pairs, output, i);
  if (i + 4 * up <= count) {
    turns(2, table, taps, up, down, first, startPart, pairs, output, i);
    i += 4 * up;
  }
  if (i + 2 * up <= count) {
    turns(1, table, taps, up, down, first, startPart, pairs, output, i);
    i += 2 * up;
  }
  for (; i < count; i++) {
    const position = <i64>startPart + <i64>i * <i64>down;
    const frames = <i32>(position / up);
    const row = table + <usize>(<i32>(position - <i64>frames * up) * taps) * 8;
    const at = pairs + (<usize>(first + frames) << 4);
    let sum: f64 = 0;
    for (let tap: usize = 0; tap < <usize>taps; tap++) sum += load<f64>(row + (tap << 3)) * load<f64>(at + (tap << 4));
    store<f32>(output + ((<usize>i) << 2), <f32>sum);
  }
}

@inline
function turns(
  pairCount: i32,
  table: usize,
  taps: i32,
  up: i32,
  down: i32,
  first: i32,
  startPart: i32,
  pairs: usize,
  output: usize,
  i: i32,
): void {
  const position = <i64>startPart + <i64>i * <i64>down;
  const whole = position / up;
  let part = <i32>(position - whole * up);
  let from = first + <i32>whole;
  const apart = (<usize>down) << 5;
  const turn = (<usize>up) << 2;
  const length = (<usize>taps) << 3;
  for (let phase = 0; phase < up; phase++) {
    const row = table + <usize>(part * taps) * 8;
    const at = pairs + ((<usize>from) << 4);
    let into = output + ((<usize>(i + phase)) << 2);
    let sum0 = f64x2.splat(0);
    let sum1 = f64x2.splat(0);
    let sum2 = f64x2.splat(0);
    let sum3 = f64x2.splat(0);
    for (let tap: usize = 0; tap < length; tap += 8) {
      const weight = v128.load64_splat(row + tap);
      const x = at + tap + tap;
      sum0 = f64x2.add(sum0, f64x2.mul(weight, v128.load(x)));
      if (pairCount > 1) sum1 = f64x2.add(sum1, f64x2.mul(weight, v128.load(x + apart)));
      if (pairCount > 2) {
        sum2 = f64x2.add(sum2, f64x2.mul(weight, v128.load(x + 2 * apart)));
        sum3 = f64x2.add(sum3, f64x2.mul(weight, v128.load(x + 3 * apart)));
      }
    }
    into = put(sum0, into, turn);
    if (pairCount > 1) into = put(sum1, into, turn);
    if (pairCount > 2) put(sum3, put(sum2, into, turn), turn);
    part += down;
    const step = part / up;
    from += step;
    part -= step * up;
  }
}

/** Two outputs a turn apart; returns the place of the next. */
@inline
function put(sums: v128, into: usize, turn: usize): usize {
  store<f32>(into, <f32>f64x2.extract_lane(sums, 0));
  store<f32>(into + turn, <f32>f64x2.extract_lane(sums, 1));
  return into + 2 * turn;
}

/** As `resample`, between two neighbouring rows of a table of `phases` rows and one more: a straight line. */
export function resampleBetween(
  table: usize,
  taps: i32,
  up: i32,
  down: i32,
  first: i32,
  startPart: f64,
  phases: i32,
  pairs: usize,
  output: usize,
  count: i32,
): void {
  const ratio: f64 = up;
  for (let i = 0; i < count; i++) {
    const position = startPart + <f64>i * <f64>down;
    const frames = floor(position / ratio);
    const phase = ((position - frames * ratio) * <f64>phases) / ratio;
    const below = floor(phase);
    const row = table + <usize>(<i32>below * taps) * 8;
    const at = pairs + (<usize>(first + <i32>frames) << 4);
    const next = (<usize>taps) << 3;
    let sums = f64x2.splat(0);
    for (let tap: usize = 0; tap < <usize>taps; tap++) {
      const weight = v128.load64_lane(row + next + (tap << 3), v128.load64_zero(row + (tap << 3)), 1);
      sums = f64x2.add(sums, f64x2.mul(weight, v128.load64_splat(at + (tap << 4))));
    }
    const low = f64x2.extract_lane(sums, 0);
    const high = f64x2.extract_lane(sums, 1);
    store<f32>(output + ((<usize>i) << 2), <f32>(low + (phase - below) * (high - low)));
  }
}
