import type { Kernels } from '../kernels';
import { flacFaults } from '../flac';
import { reference } from '../reference';
import type { Host } from './host';

/** Reading FLAC. */
export function flacKernels({ wasm, room }: Host): Pick<Kernels, 'flacResidual'> {
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

  return { flacResidual };
}
