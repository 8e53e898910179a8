import { seededRandom } from '../base/random';

/**
 * A damaged copy of a file, the same for the same seed: bytes and words changed, stretches cut out, doubled
 * or moved, the end cut off.
 */
export function mutated(file: Uint8Array<ArrayBuffer>, seed: number): Uint8Array<ArrayBuffer> {
  const random = seededRandom(seed);
  const upTo = (limit: number) => Math.floor(random() * limit);
  let bytes = file.slice();
  for (let change = 1 + upTo(4); change > 0 && bytes.length > 16; change--) {
    // Headers are small and decide most.
    const at = random() < 0.6 ? upTo(Math.min(bytes.length, 200)) : upTo(bytes.length);
    const length = 1 + upTo(Math.min(64, bytes.length - at));
    switch (upTo(6)) {
      case 0:
        bytes[at] = upTo(256);
        break;
      case 1:
        for (let i = 0; i < Math.min(4, length); i++) bytes[at + i] = [0, 0xff, 0x7f, 0x80][upTo(4)];
        break;
      case 2:
        bytes = joined(bytes.subarray(0, at), bytes.subarray(at + length));
        break;
      case 3:
        bytes = joined(bytes.subarray(0, at + length), bytes.subarray(at));
        break;
      case 4:
        bytes = bytes.slice(0, 8 + upTo(bytes.length));
        break;
      default:
        bytes[at] ^= 1 << upTo(8);
    }
  }
  return bytes;
}

function joined(a: Uint8Array, b: Uint8Array): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(a.length + b.length);
  all.set(a);
  all.set(b, a.length);
  return all;
}
