import type {
  BiquadCoefficients,
  CepstraTables,
  Conversion,
  Kernels,
  Oversampling,
  Weighting,
} from './kernels';
import { flacFaults } from './flac';
import { overGroup } from './oversampling';
import { peakStretch, reference } from './reference';
import { Room, type Memory } from './room';
import { pairNumbers } from './spectra';
import { cepstraCount, cepstraFft, cepstraHop, cepstraWindow } from './speech';

/** What of WebAssembly is used; the core is compiled without the declarations of any host. */
interface WebAssemblyLike {
  Memory: new (settings: { initial: number }) => Memory;
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: unknown };
}

type Call = (...numbers: number[]) => number;
type Exports = Record<
  | 'weightedHops'
  | 'hopSquares'
  | 'peaks'
  | 'truePeak'
  | 'spread'
  | 'resample'
  | 'resampleBetween'
  | 'pack24'
  | 'packPairs24'
  | 'unpack24'
  | 'unpackPairs24'
  | 'sections'
  | 'spectra'
  | 'addFrames'
  | 'cepstra'
  | 'planes'
  | 'searchTemplate'
  | 'flacResidual',
  Call
>;

/** Memory never shrinks: longer audio goes through in pieces of so many samples. */
const pieceFrames = 65_536;

/** Ranges of `length` things, at most `most` long. */
function* piecesOf(length: number, most: number): Generator<{ from: number; to: number }> {
  for (let from = 0; from < length; from += most) yield { from, to: Math.min(length, from + most) };
}

/**
 * What the filters of K-weighting, at rest but for one state variable, put out in a quarter of a hop: four
 * numbers a sample, one for each variable; then the four variables after it, a row for each.
 */
function quarterResponses({ shelf, highPass }: Weighting, quarter: number): Float64Array {
  const responses = new Float64Array(4 * quarter + 16);
  for (let variable = 0; variable < 4; variable++) {
    let [s1, s2, t1, t2] = [0, 1, 2, 3].map((one) => (one === variable ? 1 : 0));
    for (let i = 0; i < quarter; i++) {
      const shelved = s1;
      s1 = s2 - shelf.a1 * shelved;
      s2 = -shelf.a2 * shelved;
      const y = shelved + t1;
      t1 = t2 - 2 * shelved - highPass.a1 * y;
      t2 = shelved - highPass.a2 * y;
      responses[4 * i + variable] = y;
    }
    responses.set([s1, s2, t1, t2], 4 * quarter + 4 * variable);
  }
  return responses;
}

/** What a transform needs: `turns` and `order` of `realTransform` in assembly/. */
interface TransformTables {
  readonly turns: Float64Array;
  readonly order: Int32Array;
}

/**
 * Cosines and sines, and the order of the input, of a transform as the reference has them (fft.js 4.0.4):
 * powers of four begin with a step of four, others with one of two.
 */
function transformTables(size: number): TransformTables {
  const turns = new Float64Array(2 * size);
  for (let i = 0; i < turns.length; i += 2) {
    const angle = (Math.PI * i) / size;
    turns[i] = Math.cos(angle);
    turns[i + 1] = -Math.sin(angle);
  }
  const bits = Math.log2(size);
  const width = bits % 2 === 0 ? bits - 1 : bits;
  const order = Int32Array.from({ length: size / (bits % 2 === 0 ? 4 : 2) }, (_, i) => {
    let reversed = 0;
    for (let shift = 0; shift < width - 1; shift += 2) reversed |= ((i >>> shift) & 3) << (width - shift - 2);
    return reversed;
  });
  return { turns, order };
}

/**
 * The kernels as WebAssembly with SIMD. Throws where the host has none. The module is compiled at once: it is
 * small.
 */
export function wasmKernels(module: Uint8Array): Kernels {
  const host = (globalThis as unknown as { WebAssembly: WebAssemblyLike }).WebAssembly;
  const memory = new host.Memory({ initial: 1 });
  const imports = { env: { memory, abort: () => undefined }, host: { log: Math.log } };
  const wasm = new host.Instance(new host.Module(module), imports).exports as Exports;
  const room = new Room(memory);
  const responses = new WeakMap<Weighting, Float64Array>();
  const tables = new Map<number, TransformTables>();
  const tablesOf = (size: number) => {
    const known = tables.get(size) ?? transformTables(size);
    tables.set(size, known);
    return known;
  };

  function weightedHops(
    samples: Float32Array,
    hopFrames: number,
    weighting: Weighting,
    state: Float64Array,
    output: Float64Array,
  ) {
    const quarter = hopFrames >> 2;
    let response = responses.get(weighting);
    if (response?.length !== 4 * quarter + 16) {
      response = quarterResponses(weighting, quarter);
      responses.set(weighting, response);
    }
    const { shelf, highPass } = weighting;
    for (const { from, to } of piecesOf(
      output.length / 4,
      Math.max(1, Math.floor(pieceFrames / hopFrames)),
    )) {
      const hops = to - from;
      const frames = hops * hopFrames;
      const [audio, filter, answers, states, results, scratch] = room.take(
        frames * 4,
        7 * 8,
        response.byteLength,
        4 * 8,
        hops * 32,
        quarter * 32,
      );
      room.floats(audio, frames).set(samples.subarray(from * hopFrames, to * hopFrames));
      const { b0, b1, b2, a1, a2 } = shelf;
      room.doubles(filter, 7).set([b0, b1, b2, a1, a2, highPass.a1, highPass.a2]);
      room.doubles(answers, response.length).set(response);
      room.doubles(states, 4).set(state);
      wasm.weightedHops(audio, hops, hopFrames, filter, answers, states, results, scratch);
      state.set(room.doubles(states, 4));
      output.set(room.doubles(results, hops * 4), from * 4);
    }
  }

  function hopSquares(samples: Float32Array, hopFrames: number, output: Float64Array) {
    for (const { from, to } of piecesOf(output.length, 4 * Math.ceil(pieceFrames / (4 * hopFrames)))) {
      const frames = (to - from) * hopFrames;
      const [audio, sums] = room.take(frames * 4, (to - from) * 8);
      room.floats(audio, frames).set(samples.subarray(from * hopFrames, to * hopFrames));
      wasm.hopSquares(audio, to - from, hopFrames, sums);
      output.set(room.doubles(sums, to - from), from);
    }
  }

  function peaks(samples: Float32Array, output: Float32Array) {
    for (const { from, to } of piecesOf(output.length / 3, pieceFrames / peakStretch)) {
      const frames = (to - from) * peakStretch;
      const [audio, results] = room.take(frames * 4, (to - from) * 12);
      room.floats(audio, frames).set(samples.subarray(from * peakStretch, to * peakStretch));
      wasm.peaks(audio, to - from, results);
      output.set(room.floats(results, (to - from) * 3), from * 3);
    }
  }

  function truePeak(samples: Float32Array, highest: number, { factor, table, bend }: Oversampling): number {
    const groups = Math.floor(samples.length / overGroup);
    let found = highest;
    // Each piece looks at the starting points of all but its last two groups.
    for (const { from, to } of piecesOf(Math.max(0, groups - 2), pieceFrames / overGroup)) {
      const frames = (to + 2 - from) * overGroup;
      const [audio, weights, scratch] = room.take(frames * 4 + 8, table.byteLength, (to + 2 - from) * 8);
      const held = room.floats(audio, frames + 2);
      held.fill(0, frames);
      held.set(samples.subarray(from * overGroup, from * overGroup + frames));
      room.doubles(weights, table.length).set(table);
      found = wasm.truePeak(audio, to + 2 - from, found, factor, weights, bend, scratch);
    }
    return found;
  }

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

  function spectra(samples: Float32Array, window: Float64Array, output: Float64Array) {
    const size = window.length;
    const { turns, order } = tablesOf(size);
    const numbers = pairNumbers(size);
    for (const { from, to } of piecesOf(output.length / numbers, Math.ceil(pieceFrames / (4 * size)))) {
      const pairs = to - from;
      const frames = pairs * size + size / 2;
      const places = room.take(
        frames * 4,
        window.byteLength,
        turns.byteLength,
        order.byteLength,
        pairs * numbers * 8,
        48 * size,
      );
      const [audio, shape, angles, sequence, results, scratch] = places;
      room.floats(audio, frames).set(samples.subarray(from * size, from * size + frames));
      room.doubles(shape, size).set(window);
      room.doubles(angles, turns.length).set(turns);
      room.integers(sequence, order.length).set(order);
      wasm.spectra(audio, pairs, size, shape, angles, sequence, results, scratch);
      output.set(room.doubles(results, pairs * numbers), from * numbers);
    }
  }

  function addFrames(
    spectrums: Float64Array,
    gains: Float64Array,
    window: Float64Array,
    output: Float32Array,
  ) {
    const size = window.length;
    const { turns, order } = tablesOf(size);
    const numbers = pairNumbers(size);
    for (const { from, to } of piecesOf(spectrums.length / numbers, Math.ceil(pieceFrames / (4 * size)))) {
      const pairs = to - from;
      const frames = pairs * size + size / 2;
      const places = room.take(
        pairs * numbers * 8,
        pairs * numbers * 4,
        window.byteLength,
        turns.byteLength,
        order.byteLength,
        frames * 4,
        48 * size,
      );
      const [packed, factors, shape, angles, sequence, audio, scratch] = places;
      room.doubles(packed, pairs * numbers).set(spectrums.subarray(from * numbers, to * numbers));
      room
        .doubles(factors, (pairs * numbers) / 2)
        .set(gains.subarray((from * numbers) / 2, (to * numbers) / 2));
      room.doubles(shape, size).set(window);
      room.doubles(angles, turns.length).set(turns);
      room.integers(sequence, order.length).set(order);
      const piece = output.subarray(from * size, from * size + frames);
      room.floats(audio, frames).set(piece);
      wasm.addFrames(packed, factors, pairs, size, shape, angles, sequence, audio, scratch);
      piece.set(room.floats(audio, frames));
    }
  }

  function cepstra(samples: Float32Array, tables: CepstraTables, output: Float32Array) {
    const { window, bands, cosines, energyFloor, silence, nothing } = tables;
    const count = nothing.length;
    const edges = bands.flatMap(({ first, weights }) => [first, weights.length]);
    const weights = bands.flatMap((band) => [...band.weights]);
    const transform = tablesOf(cepstraFft);
    for (const { from, to } of piecesOf(
      output.length / count,
      2 * Math.floor(pieceFrames / (2 * cepstraHop)),
    )) {
      const windows = Math.ceil((to - from) / 2) * 2;
      const frames = windows * cepstraHop + cepstraWindow;
      const places = room.take(
        frames * 4,
        window.byteLength,
        transform.turns.byteLength,
        transform.order.byteLength,
        edges.length * 4,
        weights.length * 8,
        cosines.byteLength,
        nothing.byteLength,
        windows * count * 4,
        cepstraFft * 48 + bands.length * 16,
      );
      const [audio, shape, turns, order, bins, bandWeights, rows, silent, results, scratch] = places;
      const held = room.floats(audio, frames);
      const piece = samples.subarray(from * cepstraHop, from * cepstraHop + frames);
      held.fill(0, piece.length);
      held.set(piece);
      room.doubles(shape, window.length).set(window);
      room.doubles(turns, transform.turns.length).set(transform.turns);
      room.integers(order, transform.order.length).set(transform.order);
      room.integers(bins, edges.length).set(edges);
      room.doubles(bandWeights, weights.length).set(weights);
      room.doubles(rows, cosines.length).set(cosines);
      room.floats(silent, count).set(nothing);
      wasm.cepstra(
        audio,
        windows,
        shape,
        turns,
        order,
        bins,
        bands.length,
        bandWeights,
        rows,
        count,
        energyFloor,
        silence,
        silent,
        results,
        scratch,
      );
      output.set(room.floats(results, (to - from) * count), from * count);
    }
  }

  function searchTemplate(
    cepstraOfAll: Float32Array,
    at: number,
    length: number,
    first: number,
    costs: Float64Array,
    begins: Int32Array,
  ) {
    const width = costs.length;
    // Two places are looked at together.
    if (width < 2) return reference.searchTemplate(cepstraOfAll, at, length, first, costs, begins);
    const from = Math.min(at, first);
    const frames = Math.max(at + length, first + width) - from;
    const row = (width + 2) * 8;
    const [packed, rows, cost, begin, local] = room.take(
      frames * cepstraCount * 4,
      frames * cepstraCount * 4,
      3 * row,
      3 * row,
      2 * row,
    );
    const numbers = cepstraOfAll.subarray(from * cepstraCount, (from + frames) * cepstraCount);
    room.floats(packed, numbers.length).set(numbers);
    wasm.planes(packed, frames, frames, rows);
    wasm.searchTemplate(rows, frames, at - from, length, first - from, width, cost, begin, local);
    const last = ((length - 1) % 3) * row + 16;
    costs.set(room.doubles(cost + last, width));
    begins.set(room.doubles(begin + last, width));
  }

  function flacResidual(
    bytes: Uint8Array,
    bit: number,
    samples: Int32Array,
    coefficients: readonly number[],
    shift: number,
  ) {
    const first = bit >>> 3;
    const order = coefficients.length;
    const all = bytes.length - first;
    const length = Math.min(all, 64 + 8 * samples.length);
    const [packed, output, taps] = room.take(length + 16, samples.length * 4, order * 4);
    const held = room.bytes(packed, length + 16);
    held.set(bytes.subarray(first, first + length));
    held.fill(0, length);
    room.integers(output, order).set(samples.subarray(0, order));
    room.integers(taps, order).set(coefficients);
    const from = bit & 7;
    const end = wasm.flacResidual(packed, from, length * 8, output, samples.length, taps, order, shift);
    // Longer than any sensible one.
    if (end === flacFaults.end && length < all)
      return reference.flacResidual(bytes, bit, samples, coefficients, shift);
    samples.set(room.integers(output, samples.length));
    return end < 0 ? end : first * 8 + end;
  }

  return {
    kind: 'simd',
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
}
