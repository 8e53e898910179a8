import { noise, scratchFolder } from '../testing/signals';
import { ffmpegChannels, writeSound } from '../testing/soundFiles';
import { plainFormat, type FileFormat } from '../specs/fileFormat';
import { PcmDigest, digestOfRead } from './pcmDigest';
import { wavFormat } from './soundFile';

const folder = scratchFolder();
const sides = [noise(30_001, -18, 5), noise(30_001, -24, 6)];

const cases: [string, Partial<FileFormat>][] = [
  ['wav', { encoding: 'pcm16' }],
  ['wav', { encoding: 'pcm24' }],
  ['wav', { encoding: 'float32' }],
  ['aiff', { container: 'aiff', encoding: 'pcm16' }],
  ['aiff', { container: 'aiff', encoding: 'pcm24' }],
];

async function digestInTwo(digest: PcmDigest, audio: readonly Float32Array[], at: number): Promise<string> {
  digest.process(audio.map((samples) => samples.subarray(0, at)));
  digest.process(audio.map((samples) => samples.subarray(at)));
  return digest.digest();
}

test.each(cases)('%s %o: what ffmpeg reads has the checksum of what was written', async (ending, changes) => {
  const format = { ...plainFormat, channels: 2 as const, ...changes };
  const written = await PcmDigest.of(wavFormat(format));
  written.process(sides);
  const expected = written.digest();
  const file = await writeSound(`${folder}/in.${ending}`, sides, format);
  const read = ffmpegChannels(file, 2);
  expect(await digestInTwo(await digestOfRead(wavFormat(format)), read, 12_345)).toBe(expected);

  // The least step of the last sample is enough to be found.
  read[1][30_000] += 2 ** -15;
  expect(await digestInTwo(await digestOfRead(wavFormat(format)), read, 100)).not.toBe(expected);
});
