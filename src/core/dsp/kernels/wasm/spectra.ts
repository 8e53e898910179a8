import type { CepstraTables, Kernels } from '../kernels';
import { cepstraFft, cepstraHop, cepstraWindow } from '../speech';
import { pairNumbers } from '../spectra';
import { pieceFrames, piecesOf, type Host } from './host';

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

/** Spectra, the way back from them, and cepstra. */
export function spectrumKernels({ wasm, room }: Host): Pick<Kernels, 'spectra' | 'addFrames' | 'cepstra'> {
  const tables = new Map<number, TransformTables>();
  const tablesOf = (size: number) => {
    const known = tables.get(size) ?? transformTables(size);
    tables.set(size, known);
    return known;
  };

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

  return { spectra, addFrames, cepstra };
}
