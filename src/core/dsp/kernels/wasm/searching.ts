import type { Kernels } from '../kernels';
import { reference } from '../reference';
import { cepstraCount } from '../speech';
import type { Host } from './host';

/** Looking for what was read before. */
export function searchingKernels({ wasm, room }: Host): Pick<Kernels, 'searchTemplate'> {
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

  return { searchTemplate };
}
