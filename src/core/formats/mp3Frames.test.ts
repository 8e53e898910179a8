import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { noise, scratchFolder, writeWav } from '../testing/signals';
import { writeSound } from '../testing/soundFiles';
import { MemorySource } from './bytes';
import { Mp3FrameScan } from './mp3Frames';
import { readSound, type Sound } from './readSound';

/** Files by two encoders of others: what is whole must never be called cut or damaged. */
const folder = scratchFolder();
const sound = noise(44_100 * 6, -20, 1);
const wav = writeWav(`${folder}/a.wav`, 44_100, [sound, sound]);

function byFfmpeg(name: string, ...options: string[]): Uint8Array<ArrayBuffer> {
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', wav, ...options, `${folder}/${name}.mp3`]);
  return new Uint8Array(readFileSync(`${folder}/${name}.mp3`));
}

async function healthOf(bytes: Uint8Array<ArrayBuffer>) {
  let found: Sound | null = null;
  for await (const audio of readSound(new MemorySource(bytes), (described) => (found = described)))
    expect(audio.length).toBeGreaterThan(0);
  const { truncated, damaged } = found as unknown as Sound;
  return { truncated, damaged };
}

const whole: Record<string, Uint8Array<ArrayBuffer>> = {
  constant: byFfmpeg('constant', '-b:a', '192k'),
  variable: byFfmpeg('variable', '-q:a', '3'),
  'with tags on both sides': byFfmpeg('tags', '-b:a', '128k', '-write_id3v1', '1', '-metadata', 'title=A'),
  'without an information frame': byFfmpeg('bare', '-b:a', '128k', '-write_xing', '0'),
};

test.each(Object.entries(whole))('%s: a whole file is whole', async (_name, bytes) => {
  expect(await healthOf(bytes)).toEqual({ truncated: false, damaged: false });
});

test.each(Object.entries(whole))('%s: cut in half, it is cut short', async (_name, bytes) => {
  expect((await healthOf(bytes.slice(0, bytes.length / 2))).truncated).toBe(true);
});

test.each(Object.entries(whole))('%s: with a fifth of it zeroed, it is damaged', async (_name, bytes) => {
  for (const from of [0.4, 0.8]) {
    const holed = bytes.slice().fill(0, bytes.length * from, bytes.length * (from + 0.2));
    expect((await healthOf(holed)).damaged).toBe(true);
  }
});

test('of a file cut between two frames the information frame tells what is missing', async () => {
  const bytes = whole.constant;
  // 192 kbit/s at 44.1 kHz: 626 or 627 bytes a frame; looked for from the middle on.
  let at = Math.floor(bytes.length / 2);
  while (!(bytes[at] === 0xff && bytes[at + 1] === 0xfb && bytes[at + 626] === 0xff)) at++;
  expect(await healthOf(bytes.slice(0, at))).toEqual({ truncated: true, damaged: false });
});

test('what Parola writes carries a checksum of its music: one changed byte is found', async () => {
  const file = await writeSound(`${folder}/own.mp3`, [sound], {
    container: 'mp3',
    encoding: 'pcm16',
    rateHz: 44_100,
  });
  const bytes = new Uint8Array(readFileSync(file));
  expect(await healthOf(bytes)).toEqual({ truncated: false, damaged: false });
  bytes[Math.floor(bytes.length / 2) + 100] ^= 0x10;
  expect((await healthOf(bytes)).damaged).toBe(true);
});

test('tags one after another are passed over in a time that grows with the file, not with its square', async () => {
  const tag = (size: number) => {
    const bytes = new Uint8Array(10 + size);
    bytes.set([0x49, 0x44, 0x33, 4, 0, 0]);
    bytes.set([(size >> 21) & 127, (size >> 14) & 127, (size >> 7) & 127, size & 127], 6);
    return bytes;
  };
  const parts = [tag(0), tag(20_000_000), whole.constant];
  const bytes = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  let read = 0;
  const source = new MemorySource(bytes);
  const counting = {
    size: bytes.length,
    read: (from: number, length: number) => {
      read += Math.min(length, bytes.length - from);
      return source.read(from, length);
    },
  };
  let frames = 0;
  for await (const audio of readSound(counting, () => undefined)) frames += audio[0].length;
  expect(frames).toBe(44_100 * 6);
  expect(read).toBeLessThan(whole.constant.length + 100_000);
});

test('the pieces a stream comes in change nothing', () => {
  const at = whole.constant.findIndex((byte, i) => byte === 0xff && whole.constant[i + 1] === 0xfb);
  const streams = [
    whole.constant.subarray(at),
    whole.constant.subarray(at, whole.constant.length / 2),
    whole.constant.slice(at).fill(0, 40_000, 60_000),
  ];
  const results = streams.map((bytes) =>
    [45, 1000, 1441, 5003, bytes.length].map((size) => {
      const scan = new Mp3FrameScan();
      for (let from = 0; from < bytes.length; from += size) scan.process(bytes.subarray(from, from + size));
      return scan.finish();
    }),
  );
  const [fine, cut, holed] = results.map((all) => new Set(all.map((health) => JSON.stringify(health))));
  expect([...fine]).toEqual([JSON.stringify({ truncated: false, damaged: false })]);
  expect([...cut]).toEqual([JSON.stringify({ truncated: true, damaged: false })]);
  expect([...holed]).toEqual([JSON.stringify({ truncated: true, damaged: true })]);
});
