import type { BiquadCoefficients, Conversion, Kernels } from '../kernels';
import { reference } from '../reference';
import { pieceFrames, piecesOf, type Host } from './host';

/** Other rates, other codings, filters in a row. */
export function convertingKernels({
  wasm,
  room,
}: Host): Pick<Kernels, 'resample' | 'pack24' | 'unpack24' | 'sections'> {
  function resample(held: Float32Array, conversion: Conversion, output: Float32Array) {
    const { up, down, taps, weights, first, startPart } = conversion;
    const exact = weights.phases === up;
    const table = room.keep(weights.table);
    const turns = 8 * up;
    const most = exact ? turns * Math.max(1, Math.floor(pieceFrames / turns)) : pieceFrames;
    for (const { from, to } of piecesOf(output.length, most)) {
      const position = startPart + from * down;
      const frames = Math.floor(position / up);
      const part = position - frames * up;
      const start = first + frames;
      const reach = Math.floor((part + (to - from - 1) * down) / up) + taps;
      const [audio, pairs, results] = room.take((reach + down) * 4, reach * 16, (to - from) * 4);
      room.floats(audio, reach + down).set(held.subarray(start, start + reach + down));
      wasm.spread(audio, reach, down, pairs);
      if (exact) wasm.resample(table, taps, up, down, 0, part, pairs, results, to - from);
      else wasm.resampleBetween(table, taps, up, down, 0, part, weights.phases, pairs, results, to - from);
      output.set(room.floats(results, to - from), from);
    }
  }

  function pack24(audio: readonly Float32Array[], output: Uint8Array) {
    if (audio.length > 2) return reference.pack24(audio, output);
    const width = 3 * audio.length;
    for (const { from, to } of piecesOf(audio[0].length, pieceFrames)) {
      const frames = to - from;
      const padded = Math.ceil(frames / 4) * 4;
      const [left, right, bytes] = room.take(padded * 4, padded * 4, padded * width);
      room.floats(left, frames).set(audio[0].subarray(from, to));
      if (audio.length === 2) room.floats(right, frames).set(audio[1].subarray(from, to));
      if (audio.length === 2) wasm.packPairs24(left, right, padded, bytes);
      else wasm.pack24(left, padded, bytes);
      output.set(room.bytes(bytes, frames * width), from * width);
    }
  }

  function unpack24(bytes: Uint8Array, audio: readonly Float32Array[]) {
    if (audio.length > 2) return reference.unpack24(bytes, audio);
    const width = 3 * audio.length;
    for (const { from, to } of piecesOf(audio[0].length, pieceFrames)) {
      const frames = to - from;
      const padded = Math.ceil(frames / 4) * 4;
      const [packed, left, right] = room.take(padded * width, padded * 4, padded * 4);
      room.bytes(packed, frames * width).set(bytes.subarray(from * width, to * width));
      if (audio.length === 2) wasm.unpackPairs24(packed, padded, left, right);
      else wasm.unpack24(packed, padded, left);
      audio[0].set(room.floats(left, frames), from);
      if (audio.length === 2) audio[1].set(room.floats(right, frames), from);
    }
  }

  function sections(
    samples: Float32Array,
    coefficients: readonly BiquadCoefficients[],
    states: Float64Array,
  ) {
    const numbers = coefficients.flatMap(({ b0, b1, b2, a1, a2 }) => [b0, b1, b2, a1, a2]);
    for (const { from, to } of piecesOf(samples.length, pieceFrames)) {
      const [audio, filters, state] = room.take((to - from) * 4, numbers.length * 8, states.length * 8);
      const piece = samples.subarray(from, to);
      room.floats(audio, piece.length).set(piece);
      room.doubles(filters, numbers.length).set(numbers);
      room.doubles(state, states.length).set(states);
      wasm.sections(audio, piece.length, coefficients.length, filters, state);
      piece.set(room.floats(audio, piece.length));
      states.set(room.doubles(state, states.length));
    }
  }

  return { resample, pack24, unpack24, sections };
}
