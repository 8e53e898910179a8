// The rows of a template search by dynamic time warping, two places at a time.

const coefficients: i32 = 13;

/** Cepstra frame by frame become one row for each coefficient, `stride` numbers apart. */
export function planes(cepstra: usize, frames: i32, stride: i32, output: usize): void {
  for (let frame = 0; frame < frames; frame++)
    for (let k = 0; k < coefficients; k++, cepstra += 4)
      store<f32>(output + ((<usize>(k * stride + frame)) << 2), load<f32>(cepstra));
}

/** Squared differences of two neighbouring places from one of the template. */
@inline
function square(place: usize, template: usize): v128 {
  const d = f64x2.sub(
    f64x2.promote_low_f32x4(v128.load64_zero(place)),
    f64x2.promote_low_f32x4(v128.load32_splat(template)),
  );
  return f64x2.mul(d, d);
}

/**
 * Costs and beginnings of the best paths through `length` template frames, from `at` on, to each of `width`
 * frames from `first` on (see `findTemplate`); `rows` has `planes`. `costs` and `begins` have three rows each of
 * `width` + 2 doubles and `local` two, the first two of each for what lies before the first frame. The results
 * are in row (length − 1) mod 3; begins are whole numbers as doubles.
 */
export function searchTemplate(
  rows: usize,
  stride: i32,
  at: i32,
  length: i32,
  first: i32,
  width: i32,
  costs: usize,
  begins: usize,
  local: usize,
): void {
  const row = (<usize>(width + 2)) << 3;
  const plane = (<usize>stride) << 2;
  const infinite = f64x2.splat(Infinity);
  for (let i: usize = 0; i < 3; i++) {
    v128.store(costs + i * row, infinite);
    v128.store(begins + i * row, f64x2.splat(0));
    if (i < 2) v128.store(local + i * row, f64x2.splat(0));
  }
  for (let i = 0; i < length; i++) {
    const cost = costs + <usize>(i % 3) * row + 16;
    const before = costs + <usize>((i + 2) % 3) * row + 16;
    const earlier = costs + <usize>((i + 1) % 3) * row + 16;
    const begin = begins + <usize>(i % 3) * row + 16;
    const beginBefore = begins + <usize>((i + 2) % 3) * row + 16;
    const beginEarlier = begins + <usize>((i + 1) % 3) * row + 16;
    const here = local + <usize>(i % 2) * row + 16;
    const above = local + <usize>((i + 1) % 2) * row + 16;
    const template = rows + ((<usize>(at + i)) << 2);
    // An odd last place is computed twice.
    for (let j = 0; j < width; j += 2) {
      if (j == width - 1 && j > 0) j--;
      const place = rows + ((<usize>(first + j)) << 2);
      const d0 = square(place, template);
      const d1 = square(place + plane, template + plane);
      const d2 = square(place + 2 * plane, template + 2 * plane);
      const d3 = square(place + 3 * plane, template + 3 * plane);
      const d4 = square(place + 4 * plane, template + 4 * plane);
      const d5 = square(place + 5 * plane, template + 5 * plane);
      const d6 = square(place + 6 * plane, template + 6 * plane);
      const d7 = square(place + 7 * plane, template + 7 * plane);
      const d8 = square(place + 8 * plane, template + 8 * plane);
      const d9 = square(place + 9 * plane, template + 9 * plane);
      const d10 = square(place + 10 * plane, template + 10 * plane);
      const d11 = square(place + 11 * plane, template + 11 * plane);
      const d12 = square(place + 12 * plane, template + 12 * plane);
      const near = f64x2.add(f64x2.add(f64x2.add(f64x2.add(f64x2.add(d0, d1), d2), d3), d4), d5);
      const far = f64x2.add(
        f64x2.add(f64x2.add(f64x2.add(f64x2.add(f64x2.add(d6, d7), d8), d9), d10), d11),
        d12,
      );
      const d = f64x2.sqrt(f64x2.add(near, far));
      const to = (<usize>j) << 3;
      v128.store(here + to, d);
      if (i == 0) {
        v128.store(cost + to, d);
        v128.store(begin + to, f64x2.add(f64x2.splat(<f64>j), f64x2.replace_lane(f64x2.splat(0), 1, 1)));
        continue;
      }
      let best = f64x2.add(v128.load(before + to - 8), d);
      let from = v128.load(beginBefore + to - 8);
      const two = f64x2.add(v128.load(before + to - 16), d);
      let better = f64x2.lt(two, best);
      best = v128.bitselect(two, best, better);
      from = v128.bitselect(v128.load(beginBefore + to - 16), from, better);
      if (i >= 2) {
        const skipping = f64x2.add(f64x2.add(v128.load(earlier + to - 8), v128.load(above + to)), d);
        better = f64x2.lt(skipping, best);
        best = v128.bitselect(skipping, best, better);
        from = v128.bitselect(v128.load(beginEarlier + to - 8), from, better);
      }
      v128.store(cost + to, best);
      v128.store(begin + to, from);
    }
  }
}
