import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { noise, scratchFolder, writeWav } from '../testing/signals';
import { readWhole, sourceOf } from '../testing/soundFiles';
import { ascii, joinBytes, MemorySource, viewOf, type ByteSource } from './bytes';
import { readSound } from './readSound';

const folder = scratchFolder();
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
const source = writeWav(`${folder}/in.wav`, 44_100, [noise(88_200, -12, 5)]);

/** How often a source is read, and how much of it. */
class CountedSource implements ByteSource {
  reads = 0;
  bytes = 0;
  constructor(private readonly inner: ByteSource) {}

  get size() {
    return this.inner.size;
  }

  read(offset: number, length: number) {
    this.reads++;
    this.bytes += Math.min(length, Math.max(0, this.size - offset));
    return this.inner.read(offset, length);
  }
}

const filled = (start: Uint8Array, bytes: number) => {
  const all = new Uint8Array(bytes);
  all.set(start);
  return new CountedSource(new MemorySource(all));
};

async function refusal(file: ByteSource): Promise<string> {
  try {
    for await (const audio of readSound(file, () => undefined)) void audio;
    return 'read';
  } catch (error) {
    return (error as { code: string }).code;
  }
}

describe('a reader that gets nowhere ends', () => {
  test.each([
    ['AIFF', joinBytes([ascii('FORM'), Uint8Array.of(0, 64, 0, 0), ascii('AIFF')])],
    ['WAV', joinBytes([ascii('RIFF'), Uint8Array.of(0, 0, 64, 0), ascii('WAVE')])],
  ])('%s of a million chunks without content', async (_name, start) => {
    const file = filled(start, 8_000_000);
    expect(await refusal(file)).toBe('damaged-file');
    expect(file.reads).toBeLessThan(10_010);
  });

  test('a WAV with chunks without end behind its audio is read, without what they hold', async () => {
    const wav = readFileSync(source);
    const file = filled(wav, 8_000_000);
    expect(await refusal(file)).toBe('read');
    expect(file.reads).toBeLessThan(10_100);
  });

  test('MP3: 16 MB without a frame after the first', async () => {
    const mp3 = `${folder}/short.mp3`;
    ffmpeg('-i', source, '-t', '0.1', '-b:a', '64k', '-write_xing', '0', mp3);
    expect(await refusal(filled(readFileSync(mp3), 30_000_000))).toBe('damaged-file');
  });
});

describe('MP3', () => {
  const mp3 = `${folder}/a.mp3`;
  ffmpeg('-i', source, '-b:a', '128k', '-write_id3v1', '1', '-metadata', 'title=Arrival', mp3);
  const whole = new Uint8Array(readFileSync(mp3));

  test('with tags at both ends is not damaged', async () => {
    expect((await readWhole(sourceOf(mp3))).sound).toMatchObject({ kind: 'mp3', damaged: false });
  });

  test('with damaged frames gives the others, says so once and prints nothing', async () => {
    const print = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    const bytes = whole.slice();
    // From the first second on, headers and all.
    for (let at = 16_000, seed = 7; at < 24_000; at++) {
      seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0;
      bytes[at] = seed >>> 24;
    }
    const { sound, audio } = await readWhole(new MemorySource(bytes));
    expect(sound).toMatchObject({ kind: 'mp3', damaged: true });
    expect(audio[0].length).toBeGreaterThan(44_100);
    expect(print).not.toHaveBeenCalled();
    print.mockRestore();
  });

  test('behind a tag with pictures of 40 MB is read without reading the tag', async () => {
    const size = 40_000_000;
    const head = joinBytes([
      ascii('ID3'),
      Uint8Array.of(4, 0, 0),
      Uint8Array.from([21, 14, 7, 0], (shift) => (size >>> shift) & 0x7f),
    ]);
    const bytes = new Uint8Array(10 + size + whole.length);
    bytes.set(head);
    bytes.set(whole, 10 + size);
    expect(viewOf(bytes).getUint32(0)).toBe(0x49443304);
    const file = new CountedSource(new MemorySource(bytes));
    expect(await refusal(file)).toBe('read');
    expect(file.bytes).toBeLessThan(whole.length + 100_000);
  });
});
