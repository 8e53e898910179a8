import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { noise, scratchFolder, writeWav } from '../testing/signals';
import { MemorySource } from './bytes';
import { oggEnd } from './oggEnd';

const folder = scratchFolder();
const frames = 480_007;
const input = writeWav(`${folder}/in.wav`, 48_000, [noise(frames, -20, 1)]);

function oggOf(codec: string): Uint8Array<ArrayBuffer> {
  const file = `${folder}/${codec}.ogg`;
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', input, '-c:a', codec, file]);
  return new Uint8Array(readFileSync(file));
}
const endOf = (bytes: Uint8Array<ArrayBuffer>) => oggEnd(new MemorySource(bytes));

describe.each(['libvorbis', 'libopus'])('%s', (codec) => {
  const bytes = oggOf(codec);
  const isPage = (at: number) => bytes[at] === 0x4f && bytes[at + 1] === 0x67 && bytes[at + 3] === 0x53;
  const pages = [...bytes.keys()].filter(isPage);

  test('ends where ffmpeg was told to end it', async () => {
    expect(await endOf(bytes)).toEqual({ frames, bytes: bytes.length, isWhole: true });
  });

  test('cut in the middle of a page it ends with the one before; cut between two it is not whole either', async () => {
    const page = pages[Math.floor(pages.length / 2)];
    const between = await endOf(bytes.slice(0, page));
    expect(between).toMatchObject({ bytes: page, isWhole: false });
    expect(between?.frames).toBeGreaterThan(frames * 0.3);
    expect(between?.frames).toBeLessThan(frames * 0.7);
    for (const more of [1, 26, 27, 40, 1000])
      expect(await endOf(bytes.slice(0, page + more))).toEqual(between);
  });

  test('what ffprobe finds in the whole pages is as long', async () => {
    const page = pages[Math.floor(pages.length / 2)];
    const end = await endOf(bytes.slice(0, page + 500));
    const cut = `${folder}/${codec}-cut.ogg`;
    execFileSync('cp', [`${folder}/${codec}.ogg`, cut]);
    execFileSync('truncate', ['-s', String(page), cut]);
    const decoded = execFileSync('ffmpeg', ['-v', 'error', '-i', cut, '-f', 'f32le', '-ac', '1', '-'], {
      maxBuffer: 1 << 28,
    });
    // A codec's last block may be left out or filled up: less than a tenth of a second.
    expect(Math.abs(decoded.length / 4 - (end?.frames ?? 0))).toBeLessThan(4800);
  });
});

test('what is no Ogg has no end of one', async () => {
  expect(await oggEnd(new MemorySource(new Uint8Array(readFileSync(input))))).toBe(null);
  expect(await oggEnd(new MemorySource(new Uint8Array(10)))).toBe(null);
});
