import { createHash } from 'node:crypto';
import { toParolaError } from '@/core/base/errors';
import { MemorySource, MemoryTarget } from '@/core/formats/bytes';
import type { SoundTags } from '@/core/formats/id3';
import { writeSoundFile, type SoundFileSettings } from '@/core/formats/soundFile';
import { chunksOf, noise } from '@/core/testing/signals';
import { plainFormat, type FileFormat } from '@/core/specs/fileFormat';
import { encoders } from './encoders';
import { FollowedTarget, type Followed } from './followedTarget';
import { Following } from './following';
import { measureWritten } from '@/core/delivery/measureWritten';
import { readBack } from './readBack';

type Input = { settings: SoundFileSettings; bytes: Uint8Array } | null;

/** The workers of both, in the same thread; the one that follows dies at its `diesAt`th piece. */
class ThreadWorker {
  static diesAt = Infinity;
  static failsAtEnd = false;
  private following: Promise<Following> | null = null;
  private readonly hash = createHash('sha256');
  private taken = 0;
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: (() => void) | null = null;

  postMessage({ id, job, input }: { id: number; job: string; input: Input }) {
    if (job === 'take' && ++this.taken === ThreadWorker.diesAt)
      return void setTimeout(() => this.onerror?.());
    void this.answer(job, input).then(
      (output) => this.onmessage?.({ data: { type: 'result', id, output } }),
      (error) => this.onmessage?.({ data: { type: 'error', id, ...toParolaError(error) } }),
    );
  }

  private async answer(job: string, input: Input) {
    if (job === 'begin' && input) this.following = Following.create(input.settings);
    if (job === 'update' && input) this.hash.update(input.bytes);
    const following = await this.following;
    if (job === 'end' && following && ThreadWorker.failsAtEnd) throw new Error('This cannot be decoded.');
    if (job === 'take' && input) await following?.take(input.bytes);
    return job === 'end' ? (following?.end() ?? this.hash.digest('hex')) : null;
  }

  terminate() {
    this.onmessage = null;
  }
}
/** In place of a helper that the page starts. */
const mockHelper = () => new ThreadWorker();
jest.mock('./helper', () => ({ Helper: jest.fn(() => mockHelper()) }));

beforeEach(() => {
  ThreadWorker.diesAt = Infinity;
  ThreadWorker.failsAtEnd = false;
  jest.mocked(measureWritten).mockClear();
});
jest.mock('@/core/delivery/measureWritten', () => {
  const real = jest.requireActual<{ measureWritten: typeof measureWritten }>(
    '@/core/delivery/measureWritten',
  );
  return { measureWritten: jest.fn(real.measureWritten) };
});

interface Case {
  format: Partial<FileFormat> & Pick<FileFormat, 'container'>;
  extras?: Partial<SoundFileSettings>;
}
const tags: SoundTags = {
  title: 'The ferry',
  album: 'Crossings',
  artist: 'A voice',
  track: 1,
  tracks: 9,
  date: '2026-11-26',
  comment: '',
};
const cases: Record<string, Case> = {
  'FLAC, 24 bits': { format: { container: 'flac', encoding: 'pcm24' } },
  'FLAC, 16 bits': { format: { container: 'flac', encoding: 'pcm16' } },
  'MP3, constant': { format: { container: 'mp3', bitRateKbps: 192, rateHz: 44_100 } },
  'MP3, variable': { format: { container: 'mp3', bitRateKbps: 128, vbrQuality: 2, rateHz: 44_100 } },
  'MP3, with a cover': {
    format: { container: 'mp3', bitRateKbps: 128, rateHz: 44_100 },
    extras: { tags, cover: { mime: 'image/jpeg', bytes: new Uint8Array(300_000).fill(7) } },
  },
};

/** A file in memory in place of one on disk. */
class MemoryFile extends MemoryTarget {
  readonly path = 'memory';
  discarded = false;
  spoil = (bytes: Uint8Array<ArrayBuffer>) => bytes;
  bytesOnDisk = () => this.spoil(this.toBytes());
  readable = async () => new MemorySource(this.bytesOnDisk());
  close = async () => new File([this.bytesOnDisk()], 'file');
  discard = async () => void (this.discarded = true);
}

async function written({ format, extras = {} }: Case, seconds = 2.3) {
  const frames = Math.round(seconds * 48_000);
  const voice = [noise(frames, -20, 3), noise(frames, -26, 4)];
  const whole: FileFormat = { ...plainFormat, channels: 2, ...format };
  const settings: SoundFileSettings = { format: whole, rateHz: 48_000, frames, ...extras };
  const pieces = voice.map((samples) => [...chunksOf(samples, 20_000, 1)]);
  async function* chunks() {
    for (let i = 0; i < pieces[0].length; i++) yield pieces.map((channel) => channel[i]);
  }
  const disk = new MemoryFile();
  const target = new FollowedTarget(disk, settings);
  const told = await writeSoundFile(chunks(), settings, target, encoders);
  return { settings, disk, target, told };
}

const quiet = () => undefined;
const readAgain = (target: FollowedTarget, settings: SoundFileSettings, followed: Followed | null) =>
  readBack(target, settings, quiet, followed);
const sum = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

describe.each(Object.entries(cases))('%s', (_name, one) => {
  test('is decoded and measured while it is written, as it is by reading the finished file', async () => {
    const { settings, disk, target, told } = await written(one);
    const followed = await target.followed();
    const whole = await measureWritten(await disk.readable(), settings, quiet);
    expect(followed).toMatchObject({ ...whole, frames: told.frames, digest: told.digest });
    expect(followed?.bytes).toBe(disk.toBytes().length);
    // And the finished file is only compared with it.
    jest.mocked(measureWritten).mockClear();
    const read = await readAgain(target, settings, followed);
    expect(measureWritten).not.toHaveBeenCalled();
    expect(read).toMatchObject({ ...whole, otherwise: null, sha256: sum(disk.toBytes()) });
  });

  test('a disk that holds something else is decoded anew', async () => {
    const { settings, disk, target } = await written(one);
    const followed = await target.followed();
    jest.mocked(measureWritten).mockClear();
    disk.spoil = (bytes) => {
      const changed = bytes.slice();
      changed[changed.length - 3000] ^= 1;
      return changed;
    };
    await readAgain(target, settings, followed);
    expect(measureWritten).toHaveBeenCalledTimes(1);
  });
});

test('behind the first megabytes a single bit is found as well, and so is a missing end', async () => {
  const { settings, disk, target, told } = await written(cases['FLAC, 24 bits'], 20);
  const followed = await target.followed();
  const bytes = disk.toBytes();
  expect(bytes.length).toBeGreaterThan(5_000_000);
  const read = await readAgain(target, settings, followed);
  expect(read.digest).toBe(told.digest);
  disk.spoil = (whole) => {
    whole[5_000_000] ^= 4;
    return whole;
  };
  expect((await readAgain(target, settings, followed)).digest).not.toBe(told.digest);
  disk.spoil = (whole) => whole.slice(0, -6);
  const short = await readAgain(target, settings, followed);
  expect(short.frames).toBeLessThan(told.frames);
});

test('whoever follows may die: the file is written all the same, and read back whole', async () => {
  const { disk: alone } = await written(cases['FLAC, 24 bits']);
  ThreadWorker.diesAt = 2;
  const { settings, disk, target, told } = await written(cases['FLAC, 24 bits']);
  expect(await target.followed()).toBeNull();
  expect(sum(disk.toBytes())).toBe(sum(alone.toBytes()));
  jest.mocked(measureWritten).mockClear();
  expect(await readAgain(target, settings, null)).toMatchObject({ digest: told.digest });
  expect(measureWritten).toHaveBeenCalledTimes(1);
});

test('what cannot be decoded while it is written is no reason not to write it', async () => {
  ThreadWorker.failsAtEnd = true;
  const { settings, target, told } = await written(cases['FLAC, 24 bits']);
  expect(await target.followed()).toBeNull();
  expect(await readAgain(target, settings, null)).toMatchObject({ digest: told.digest });
});

test('a file into which something is filled far behind its beginning is read back whole', async () => {
  const { disk, target } = await written(cases['FLAC, 24 bits'], 20);
  await target.patch(4_500_000, Uint8Array.of(1, 2, 3));
  expect(await target.followed()).toBeNull();
  expect([...disk.toBytes().subarray(4_500_000, 4_500_003)]).toEqual([1, 2, 3]);
});
