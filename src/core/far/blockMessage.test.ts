import { crc32 } from 'node:zlib';
import { blockFrames } from '../base/audio';
import { seededRandom } from '../base/random';
import { noise } from '../testing/signals';
import { mostBlockBytes, readBlockMessage, writeBlockMessage } from './blockMessage';

const recording = '0b5e4a4e-9c1d-4c3f-8d20-5b1d6f0a9c77';
const bitsOf = (samples: Float32Array) => new Uint32Array(samples.slice().buffer);
const through = (audio: Float32Array[]) =>
  readBlockMessage(writeBlockMessage({ recording, index: 7, audio }));

/**
 * A sample of 16 bits as Chromium hands it on: v × (1 ÷ 32,767) in 32 bits above zero, v ÷ 32,768 below
 * (measured).
 */
const captured = (value: number) =>
  value > 0 ? Math.fround(value * Math.fround(1 / 0x7fff)) : value / 0x8000;

describe('a block on its way', () => {
  const random = seededRandom(4);
  const whole = (most: number) => Math.floor((random() * 2 - 1) * most);
  it.each([
    ['floats', noise(blockFrames, -6, 1), 4],
    ['16 bits', Float32Array.from({ length: blockFrames }, () => whole(0x8000) / 0x8000), 2],
    [
      '16 bits as a browser captures them',
      Float32Array.from({ length: blockFrames }, () => captured(whole(0x8000))),
      2,
    ],
    ['24 bits', Float32Array.from({ length: blockFrames }, () => whole(0x80_0000) / 0x80_0000), 3],
    ['full scale', Float32Array.of(1, -1, 0.5, 32767 / 32768), 4],
    ['what is no whole number', Float32Array.of(-0, 1e-20, NaN, Infinity), 4],
    ['one sample', Float32Array.of(0.25), 2],
  ])('comes as it was, to the bit: %s', (_, samples, width) => {
    const bytes = writeBlockMessage({ recording, index: 7, audio: [samples] });
    expect(bytes.length).toBe(40 + samples.length * width);
    const read = readBlockMessage(bytes);
    expect(read).toMatchObject({ recording, index: 7 });
    expect(bitsOf(read.audio[0])).toEqual(bitsOf(samples));
  });

  it('keeps channels apart', () => {
    const { audio } = through([Float32Array.of(0.5, 0.25), Float32Array.of(-0.5, -0.25)]);
    expect(audio.map((samples) => [...samples])).toEqual([
      [0.5, 0.25],
      [-0.5, -0.25],
    ]);
  });

  // Node's own zlib has none before version 22: where there is one, both say the same.
  (typeof crc32 === 'function' ? it : it.skip)('is checked by the CRC-32 of zlib', () => {
    const bytes = writeBlockMessage({ recording, index: 1, audio: [Float32Array.of(0.5)] });
    const rest = crc32(bytes.subarray(36), crc32(bytes.subarray(0, 32)));
    expect(new DataView(bytes.buffer).getUint32(32, true)).toBe(rest);
  });

  it('is refused where any one bit of it has changed', () => {
    const bytes = writeBlockMessage({ recording, index: 3, audio: [noise(64, -6, 2)] });
    for (let bit = 0; bit < bytes.length * 8; bit += 3) {
      const changed = bytes.slice();
      changed[bit >> 3] ^= 1 << (bit & 7);
      expect(() => readBlockMessage(changed)).toThrow(/damaged/);
    }
  });

  it('is refused where it is garbage, too short or far too long', () => {
    const random = seededRandom(9);
    for (const length of [0, 1, 39, 40, 100, 70_000]) {
      const garbage = Uint8Array.from({ length }, () => random() * 256);
      expect(() => readBlockMessage(garbage)).toThrow(/damaged/);
    }
    expect(() => readBlockMessage(new Uint8Array(mostBlockBytes + 1))).toThrow(/its length/);
    const bytes = writeBlockMessage({ recording, index: 3, audio: [noise(64, -6, 2)] });
    expect(() => readBlockMessage(bytes.subarray(0, bytes.length - 1))).toThrow(/damaged/);
  });

  it('is read from the middle of a larger buffer', () => {
    const bytes = writeBlockMessage({ recording, index: 3, audio: [Float32Array.of(0.5, -0.5)] });
    const larger = new Uint8Array(bytes.length + 10);
    larger.set(bytes, 7);
    expect([...readBlockMessage(larger.subarray(7, 7 + bytes.length)).audio[0]]).toEqual([0.5, -0.5]);
  });
});
