// Second-order sections in a row.

/**
 * Filters 32-bit samples in place through `sections` sections (transposed direct form II), each result rounded to
 * 32 bits as if the sections ran one after another. `coefficients`: b0, b1, b2, a1, a2 each; `states`: two each.
 * Two at a time: one waits for its own last result while the other one is computed.
 */
export function sections(samples: usize, count: i32, sections: i32, coefficients: usize, states: usize): void {
  let section = 0;
  for (; section + 2 <= sections; section += 2, coefficients += 80, states += 32)
    two(samples, count, coefficients, states);
  if (section < sections) one(samples, count, coefficients, states);
}

function one(samples: usize, count: i32, c: usize, states: usize): void {
  const b0 = load<f64>(c);
  const b1 = load<f64>(c, 8);
  const b2 = load<f64>(c, 16);
  const a1 = load<f64>(c, 24);
  const a2 = load<f64>(c, 32);
  let s1 = load<f64>(states);
  let s2 = load<f64>(states, 8);
  for (let i = 0; i < count; i++, samples += 4) {
    const x: f64 = load<f32>(samples);
    const y = b0 * x + s1;
    s1 = b1 * x - a1 * y + s2;
    s2 = b2 * x - a2 * y;
    store<f32>(samples, <f32>y);
  }
  store<f64>(states, s1);
  store<f64>(states, s2, 8);
}

function two(samples: usize, count: i32, c: usize, states: usize): void {
  const b0 = load<f64>(c);
  const b1 = load<f64>(c, 8);
  const b2 = load<f64>(c, 16);
  const a1 = load<f64>(c, 24);
  const a2 = load<f64>(c, 32);
  const d0 = load<f64>(c, 40);
  const d1 = load<f64>(c, 48);
  const d2 = load<f64>(c, 56);
  const e1 = load<f64>(c, 64);
  const e2 = load<f64>(c, 72);
  let s1 = load<f64>(states);
  let s2 = load<f64>(states, 8);
  let t1 = load<f64>(states, 16);
  let t2 = load<f64>(states, 24);
  for (let i = 0; i < count; i++, samples += 4) {
    const x: f64 = load<f32>(samples);
    const y = b0 * x + s1;
    s1 = b1 * x - a1 * y + s2;
    s2 = b2 * x - a2 * y;
    const z: f64 = <f32>y;
    const w = d0 * z + t1;
    t1 = d1 * z - e1 * w + t2;
    t2 = d2 * z - e2 * w;
    store<f32>(samples, <f32>w);
  }
  store<f64>(states, s1);
  store<f64>(states, s2, 8);
  store<f64>(states, t1, 16);
  store<f64>(states, t2, 24);
}
