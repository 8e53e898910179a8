import { flacResidual } from './flac';
import type { BiquadCoefficients, Conversion, Kernels, Weighting } from './kernels';
import { truePeak } from './oversampling';
import { addFrames, spectra } from './spectra';
import { cepstra, searchTemplate } from './speech';

function weightedHops(
  samples: Float32Array,
  hopFrames: number,
  { shelf, highPass }: Weighting,
  state: Float64Array,
  output: Float64Array,
) {
  const { b0, b1, b2, a1, a2 } = shelf;
  const { a1: c1, a2: c2 } = highPass;
  let [s1, s2, t1, t2] = state;
  for (let hop = 0; hop < output.length / 4; hop++) {
    let peak = 0;
    let plain = 0;
    let weighted = 0;
    let total = 0;
    const to = (hop + 1) * hopFrames;
    for (let i = hop * hopFrames; i < to; i++) {
      const x = samples[i];
      const shelved = b0 * x + s1;
      s1 = b1 * x - a1 * shelved + s2;
      s2 = b2 * x - a2 * shelved;
      const y = shelved + t1;
      t1 = -2 * shelved - c1 * y + t2;
      t2 = shelved - c2 * y;
      total += x;
      plain += x * x;
      weighted += y * y;
      const magnitude = x < 0 ? -x : x;
      if (magnitude > peak) peak = magnitude;
    }
    output[4 * hop] = total;
    output[4 * hop + 1] = plain;
    output[4 * hop + 2] = weighted;
    output[4 * hop + 3] = peak;
    // Tails that decay towards zero would end in denormal numbers, which are many times slower.
    const rest = (s1 < 0 ? -s1 : s1) + (s2 < 0 ? -s2 : s2) + (t1 < 0 ? -t1 : t1) + (t2 < 0 ? -t2 : t2);
    if (rest < 1e-20) s1 = s2 = t1 = t2 = 0;
  }
  state.set([s1, s2, t1, t2]);
}

function hopSquares(samples: Float32Array, hopFrames: number, output: Float64Array) {
  for (let hop = 0; hop < output.length; hop++) {
    let sum = 0;
    const to = (hop + 1) * hopFrames;
    for (let k = hop * hopFrames; k < to; k++) sum += samples[k] * samples[k];
    output[hop] = sum;
  }
}

/** Frames of a stretch of peaks. */
export const peakStretch = 256;

function peaks(samples: Float32Array, output: Float32Array) {
  for (let at = 0, frame = 0; at < output.length; at += 3) {
    let low = Infinity;
    let high = -Infinity;
    let squares = 0;
    for (const to = frame + peakStretch; frame < to; frame++) {
      const value = samples[frame];
      if (value < low) low = value;
      if (value > high) high = value;
      squares += value * value;
    }
    output[at] = low;
    output[at + 1] = high;
    output[at + 2] = squares / peakStretch;
  }
}

/** Sum of `taps` frames of history, from `from` on, each times its weight. */
function weighted(table: Float64Array, row: number, history: Float64Array, from: number, taps: number) {
  let sum = 0;
  for (let tap = 0; tap < taps; tap++) sum += table[row + tap] * history[from + tap];
  return sum;
}

/** Outputs a whole turn of phases apart have the same weights: so many are made at a time. */
const together = 4;

/**
 * `together` such sums, `down` frames of history and `up` outputs apart: in the same order, so to the same
 * bit.
 */
function weightedTogether(
  { up, down, taps, weights: { table } }: Conversion,
  row: number,
  history: Float64Array,
  from: number,
  output: Float32Array,
  at: number,
) {
  let s0 = 0;
  let s1 = 0;
  let s2 = 0;
  let s3 = 0;
  for (let tap = 0; tap < taps; tap++) {
    const weight = table[row + tap];
    const frame = from + tap;
    s0 += weight * history[frame];
    s1 += weight * history[frame + down];
    s2 += weight * history[frame + 2 * down];
    s3 += weight * history[frame + 3 * down];
  }
  output[at] = s0;
  output[at + up] = s1;
  output[at + 2 * up] = s2;
  output[at + 3 * up] = s3;
}

function resample(held: Float32Array, conversion: Conversion, output: Float32Array) {
  const { up, down, taps, weights, first, startPart } = conversion;
  const { phases, table } = weights;
  // In 64 bits, so that no sample is converted for each of its weights.
  const history = new Float64Array(held);
  const place = (i: number) => {
    const position = startPart + i * down;
    const frames = Math.floor(position / up);
    return { part: position - frames * up, from: first + frames };
  };
  if (phases !== up) {
    for (let i = 0; i < output.length; i++) {
      const { part, from } = place(i);
      const phase = (part * phases) / up;
      const below = Math.floor(phase);
      const low = weighted(table, below * taps, history, from, taps);
      const high = weighted(table, (below + 1) * taps, history, from, taps);
      output[i] = low + (phase - below) * (high - low);
    }
    return;
  }
  let i = 0;
  for (; i + together * up <= output.length; i += together * up) {
    for (let phase = 0; phase < up; phase++) {
      const { part, from } = place(i + phase);
      weightedTogether(conversion, part * taps, history, from, output, i + phase);
    }
  }
  for (; i < output.length; i++) {
    const { part, from } = place(i);
    output[i] = weighted(table, part * taps, history, from, taps);
  }
}

const scale24 = 2 ** 23;

function pack24(audio: readonly Float32Array[], output: Uint8Array) {
  audio.forEach((samples, channel) => {
    let at = channel * 3;
    for (let i = 0; i < samples.length; i++, at += 3 * audio.length) {
      const value = Math.min(scale24 - 1, Math.max(-scale24, Math.round(samples[i] * scale24)));
      output[at] = value & 0xff;
      output[at + 1] = (value >> 8) & 0xff;
      output[at + 2] = (value >> 16) & 0xff;
    }
  });
}

function unpack24(bytes: Uint8Array, audio: readonly Float32Array[]) {
  audio.forEach((samples, channel) => {
    let at = channel * 3;
    for (let i = 0; i < samples.length; i++, at += 3 * audio.length)
      samples[i] = ((bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24)) / 2147483648;
  });
}

function sections(samples: Float32Array, coefficients: readonly BiquadCoefficients[], states: Float64Array) {
  coefficients.forEach(({ b0, b1, b2, a1, a2 }, section) => {
    let s1 = states[2 * section];
    let s2 = states[2 * section + 1];
    for (let i = 0; i < samples.length; i++) {
      const x = samples[i];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      samples[i] = y;
    }
    states[2 * section] = s1;
    states[2 * section + 1] = s2;
  });
}

/** The kernels in TypeScript: what they mean, and what runs where there is no WebAssembly with SIMD. */
export const reference: Kernels = {
  kind: 'reference',
  weightedHops,
  hopSquares,
  peaks,
  truePeak,
  resample,
  pack24,
  unpack24,
  sections,
  spectra,
  addFrames,
  cepstra,
  searchTemplate,
  flacResidual,
};
