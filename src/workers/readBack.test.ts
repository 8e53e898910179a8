import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createSHA256 } from 'hash-wasm';
import type { ByteSource } from '@/core/formats/bytes';
import { seededRandom } from '@/core/base/random';
import { noise, scratchFolder } from '@/core/testing/signals';
import { plainFormat, type FileFormat } from '@/core/specs/fileFormat';
import { writeSound } from '@/core/testing/soundFiles';
import { HashedBytes } from './hashedBytes';
import type { spotsByBrowser } from './mediaFile';
import { readBack, readOtherwise } from './readBack';

type Found = Awaited<ReturnType<typeof spotsByBrowser>>;
/** What the other reader is made to find. */
let mockChange: (found: Found) => Found = (found) => found;
jest.mock('./mediaFile', () => {
  const real = jest.requireActual<{ spotsByBrowser: typeof spotsByBrowser }>('./mediaFile');
  return {
    ...real,
    spotsByBrowser: async (...given: Parameters<typeof spotsByBrowser>) =>
      mockChange(await real.spotsByBrowser(...given)),
  };
});

/** A worker in the page's own thread: answers as hash.worker does. */
class HashWorker {
  static broken = false;
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: (() => void) | null = null;
  private readonly hash = createSHA256();
  private last: Promise<unknown> = Promise.resolve();

  postMessage({ id, job, input }: { id: number; job: string; input: { bytes: Uint8Array } }) {
    if (HashWorker.broken && job === 'update') return void setTimeout(() => this.onerror?.());
    this.last = this.last.then(async () => {
      const hash = await this.hash;
      if (job === 'begin') hash.init();
      if (job === 'update') hash.update(input.bytes);
      const output = job === 'end' ? hash.digest('hex') : null;
      this.onmessage?.({ data: { type: 'result', id, output } });
    });
  }

  terminate() {
    this.onmessage = null;
  }
}
/** In place of a helper that the page starts. */
const mockHelper = () => new HashWorker();
jest.mock('./helper', () => ({ Helper: jest.fn(() => mockHelper()) }));

afterEach(() => {
  HashWorker.broken = false;
  mockChange = (found) => found;
});

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const random = seededRandom(4);
const large = Uint8Array.from({ length: 7_000_001 }, () => random() * 256);
const source = (bytes: Uint8Array<ArrayBuffer>): ByteSource => ({
  size: bytes.length,
  read: async (offset, length) => bytes.slice(offset, offset + length),
});

describe('bytes with their checksum', () => {
  test.each([
    [
      'in order',
      [
        [0, 12],
        [12, 4_000_000],
        [4_000_012, 3_000_000],
      ],
    ],
    ['not at all', []],
    [
      'with a tag skipped, the end looked at first, and pieces twice',
      [
        [0, 10],
        [6_999_000, 1001],
        [70_000, 3_000_000],
        [1_000_000, 900_000],
        [3_070_000, 100],
      ],
    ],
    [
      'beyond the end',
      [
        [6_999_990, 5000],
        [8_000_000, 10],
      ],
    ],
  ])('read %s: the bytes of the file, and the checksum of the whole', async (_name, reads) => {
    const bytes = new HashedBytes(source(large));
    for (const [offset, length] of reads)
      expect(Buffer.compare(await bytes.read(offset, length), large.subarray(offset, offset + length))).toBe(
        0,
      );
    await bytes.readRest();
    expect(await bytes.sha256()).toBe(sha256(large));
    bytes.close();
  });

  test('a worker that dies is told', async () => {
    HashWorker.broken = true;
    const bytes = new HashedBytes(source(large));
    await expect(bytes.readRest().then(() => bytes.sha256())).rejects.toMatchObject({ code: 'worker-died' });
    bytes.close();
  });
});

const folder = scratchFolder();
const voice = [noise(480_000, -20, 1), noise(480_000, -30, 2)];
const format: FileFormat = { ...plainFormat, container: 'wav', encoding: 'pcm24', channels: 2 };
const settings = { format, rateHz: 48_000, frames: 480_000 };

async function written() {
  const path = await writeSound(`${folder}/file.wav`, voice, format);
  const bytes = new Uint8Array(readFileSync(path));
  const file = new File([bytes], 'file.wav');
  return { bytes, file, target: { readable: async () => source(bytes), close: async () => file } };
}

test('a WAV reads back with its length, its checksum, and what another reader finds', async () => {
  const { bytes, target } = await written();
  const read = await readBack(target, settings, () => undefined);
  expect(read).toMatchObject({ frames: 480_000, sha256: sha256(bytes), otherwise: null });
  expect(read.measurement).toMatchObject({ channels: 2, rateHz: 48_000, frames: 480_000 });
  // One bit of one sample in the middle.
  bytes[bytes.length >> 1] ^= 1;
  expect((await readBack(target, settings, () => undefined)).digest).not.toBe(read.digest);
});

test('another reader that finds other samples, or another length, is told', async () => {
  const { file } = await written();
  mockChange = (found) => {
    expect(found.spots).toHaveLength(100);
    found.spots[57].audio[1][3] += 2 ** -23;
    return found;
  };
  expect(await readOtherwise(file)).toMatch(/^Another reader finds other samples in it at 5\.\d\d s\.$/);
  mockChange = (found) => ({ ...found, frames: 479_999 });
  expect(await readOtherwise(file)).toBe(
    'Another reader finds 479999 frames of 2 channels at 48000 Hz in it.',
  );
});

test('a file of a few frames has places enough', async () => {
  const short = await writeSound(`${folder}/short.wav`, [noise(7, -20, 1)], {
    container: 'wav',
    encoding: 'pcm16',
  });
  expect(await readOtherwise(new File([new Uint8Array(readFileSync(short))], 'short.wav'))).toBeNull();
});
