import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { MemorySource } from './bytes';
import { readFlacInfo } from './flacDecoder';
import { FlacDamage, decodeFlacFrame, isFlacSync } from './flacFrame';
import { concat, firstDifference, noise, scratchFolder, writeWav } from '../testing/signals';
import { crc8, flacHead } from '../testing/hostile';
import { readWhole, sourceOf } from '../testing/soundFiles';

/**
 * Whole files are compared with what `flac` and ffmpeg decode in containers.test.ts. Here: files larger than
 * what is read at once, and what has become of the frames of a damaged one (RFC 9639).
 */
const folder = scratchFolder();
const blockSize = 4096;
const rateHz = 8000;

function flacOf(samples: Float32Array, ...args: string[]): Uint8Array<ArrayBuffer> {
  const wav = writeWav(`${folder}/in.wav`, rateHz, [samples], 'pcm16');
  execFileSync('flac', ['-s', '-f', '-b', String(blockSize), ...args, '-o', `${folder}/out.flac`, wav]);
  return new Uint8Array(readFileSync(`${folder}/out.flac`));
}

/** The file as its header and its frames. */
async function framesOf(file: Uint8Array<ArrayBuffer>) {
  const { info, firstFrame } = await readFlacInfo(new MemorySource(file));
  const frames: Uint8Array<ArrayBuffer>[] = [];
  for (let at = firstFrame; at < file.length;) {
    const { bytes } = decodeFlacFrame(file, at, info);
    frames.push(file.slice(at, at + bytes));
    at += bytes;
  }
  return { info, head: file.slice(0, firstFrame), frames };
}

const joined = (...pieces: Uint8Array[]) =>
  new MemorySource(Uint8Array.from(Buffer.concat(pieces.map((piece) => Buffer.from(piece)))));

const samples = noise(60 * blockSize + 100, -6, 5);
const file = flacOf(samples);
const exact = async () => (await readWhole(sourceOf(`${folder}/in.wav`))).audio[0];

test('a file of several megabytes, read a megabyte at a time, is whole', async () => {
  const long = noise(1_400_000, -3, 9);
  const bytes = flacOf(long, '-0');
  expect(bytes.length).toBeGreaterThan(2_200_000);
  const expected = await exact();
  const { sound, audio } = await readWhole(new MemorySource(bytes));
  expect(sound).toMatchObject({ frames: long.length, truncated: false, damaged: false });
  expect(firstDifference(audio[0], expected)).toBe(-1);
  flacOf(samples);
});

test('a frame that is changed anywhere does not check, whatever it decodes to', async () => {
  const { info, frames } = await framesOf(file);
  const [first] = frames;
  expect(decodeFlacFrame(first, 0, info).samples[0]).toHaveLength(blockSize);
  for (const at of [4, 20, first.length >> 1, first.length - 3, first.length - 1]) {
    const changed = first.slice();
    changed[at] ^= 1;
    expect(() => decodeFlacFrame(changed, 0, info)).toThrow(FlacDamage);
  }
  expect(() => decodeFlacFrame(first.slice(0, -1), 0, info)).toThrow(FlacDamage);
});

// RFC 9639, 9.1: the sync code, and what is reserved in the two bytes after it.
test.each([
  [[0xff, 0xf8, 0xc9, 0x18], true],
  [[0xff, 0xf9, 0x19, 0xa8], true],
  [[0xff, 0xfa, 0xc9, 0x18], false],
  [[0xff, 0xf0, 0xc9, 0x18], false],
  [[0xfe, 0xf8, 0xc9, 0x18], false],
  [[0xff, 0xf8, 0x09, 0x18], false],
  [[0xff, 0xf8, 0xcf, 0x18], false],
  [[0xff, 0xf8, 0xc9, 0xb8], false],
  [[0xff, 0xf8, 0xc9, 0x19], false],
])('%j may begin a frame: %s', (bytes, may) => {
  expect(isFlacSync(Uint8Array.from(bytes), 0)).toBe(may);
});

describe('made to keep a decoder busy', () => {
  /** A stream of 8 channels in blocks as long as can be, and megabytes of `piece` again and again. */
  function fileOf(piece: readonly number[]) {
    const bytes = new Uint8Array(42 + 4_000_000);
    bytes.set(flacHead(48_000, 8, 0));
    for (let at = 42; at < bytes.length; at++) bytes[at] = piece[(at - 42) % piece.length];
    return new MemorySource(bytes);
  }
  const begin = [0xff, 0xf8, 0x70, 0x78, 0x00, 0xff, 0xfe];

  test.each([
    ['headers that check, with frames that do not', [...begin, crc8(begin), 0, 1, 2, 0, 1, 2, 0, 1, 2]],
    ['beginnings of headers', [0xff, 0xf8, 0x70, 0x78]],
  ])('megabytes of %s are given up, not looked through to the end', async (_name, piece) => {
    await expect(readWhole(fileOf(piece))).rejects.toMatchObject({
      code: 'damaged-file',
      message: expect.stringContaining('most of it is damaged'),
    });
  });

  test('a frame whose beginning lies across two readings is found after damage', async () => {
    const { head, frames } = await framesOf(file);
    const junk = new Uint8Array(1_048_576 - 2 - frames[0].length).fill(0xaa);
    const holed = await readWhole(joined(head, frames[0], junk, ...frames.slice(1)));
    expect(holed.audio[0]).toHaveLength((await exact()).length);
    expect(holed.sound).toMatchObject({ damaged: true, truncated: false });
  });
});

test('a frame that is missing is silence in its place; one that comes twice is heard once', async () => {
  const { head, frames } = await framesOf(file);
  const expected = await exact();
  const holed = await readWhole(joined(head, ...frames.slice(0, 10), ...frames.slice(12)));
  expect(holed.sound).toMatchObject({ damaged: true, truncated: false });
  expect(
    firstDifference(
      holed.audio[0],
      concat(
        expected.slice(0, 10 * blockSize),
        new Float32Array(2 * blockSize),
        expected.slice(12 * blockSize),
      ),
    ),
  ).toBe(-1);
  const doubled = await readWhole(joined(head, ...frames.slice(0, 10), ...frames.slice(7)));
  expect(doubled.sound).toMatchObject({ damaged: true, truncated: false });
  expect(firstDifference(doubled.audio[0], expected)).toBe(-1);
});

test('twenty holes are filled, a file with more is given up on there', async () => {
  const { head, frames } = await framesOf(file);
  const without = (count: number) =>
    frames.filter((_, index) => index === 0 || index % 2 === 0 || index > 2 * count);
  const some = await readWhole(joined(head, ...without(20)));
  expect(some.sound).toMatchObject({ damaged: true, truncated: false });
  expect(some.audio[0]).toHaveLength(samples.length);
  const many = await readWhole(joined(head, ...without(21)));
  expect(many.sound).toMatchObject({ damaged: true, truncated: true });
  expect(many.audio[0].length).toBeLessThan(43 * blockSize);
});

test('a hole of half a minute is filled, a longer one is not: a wrong number would be hours of silence', async () => {
  const { head, frames } = await framesOf(file);
  // 58 blocks of 4,096 at 8 kHz are 29.7 s, 59 are 30.2.
  const near = await readWhole(joined(head, frames[0], ...frames.slice(59)));
  expect(near.audio[0]).toHaveLength(samples.length);
  const far = await readWhole(joined(head, frames[0], ...frames.slice(60)));
  expect(far.sound).toMatchObject({ damaged: true, truncated: true });
  expect(far.audio[0]).toHaveLength(blockSize);
});

test('what stands after the last frame is no audio; without a stated length and checksum all there is is read', async () => {
  const expected = await exact();
  const tagged = await readWhole(joined(file, new Uint8Array(128).fill(0x54)));
  expect(tagged.sound).toMatchObject({ damaged: false, truncated: false });
  expect(firstDifference(tagged.audio[0], expected)).toBe(-1);
  const unknown = file.slice();
  // STREAMINFO: 36 bits of length after 8 + 13 bytes, then 16 bytes of MD5.
  unknown[21] &= 0xf0;
  unknown.fill(0, 22, 42);
  const { sound, audio } = await readWhole(new MemorySource(unknown));
  expect(sound).toMatchObject({ damaged: false, truncated: false });
  expect(firstDifference(audio[0], expected)).toBe(-1);
});

test('whole frames that are not those of the checksum count as damaged', async () => {
  const wrong = file.slice();
  wrong[30] ^= 1;
  const { sound, audio } = await readWhole(new MemorySource(wrong));
  expect(sound).toMatchObject({ damaged: true, truncated: false });
  expect(firstDifference(audio[0], await exact())).toBe(-1);
});
