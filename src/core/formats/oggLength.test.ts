import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { noise, scratchFolder, writeWav } from '../testing/signals';
import { MemorySource } from './bytes';
import { oggFrames } from './oggLength';

const folder = scratchFolder();
const input = writeWav(`${folder}/in.wav`, 48_000, [noise(100_007, -20, 1)]);

test.each([
  ['a.ogg', 'libvorbis'],
  ['a.opus', 'libopus'],
])('%s ends where ffmpeg was told to end it', async (name, codec) => {
  const file = `${folder}/${name}`;
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', input, '-c:a', codec, file]);
  expect(await oggFrames(new MemorySource(new Uint8Array(readFileSync(file))))).toBe(100_007);
});

test('what is no Ogg, or has no page at its end, has no length', async () => {
  expect(await oggFrames(new MemorySource(new Uint8Array(readFileSync(input))))).toBe(null);
  expect(await oggFrames(new MemorySource(new Uint8Array(10)))).toBe(null);
});
