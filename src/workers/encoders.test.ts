import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { concat, firstDifference, noise, scratchFolder, sine } from '@/core/testing/signals';
import { ffmpegChannels, ffprobe, readWhole, sourceOf, writeSound } from '@/core/testing/soundFiles';
import { encoders } from './encoders';

const folder = scratchFolder();
const voice = concat(sine(48_000, 0.5, 180, -9), new Float32Array(12_345), noise(40_000, -30, 2));

describe.each([
  ['pcm16', 1],
  ['pcm24', 1],
  ['pcm16', 2],
  ['pcm24', 2],
] as const)('FLAC of %s in %d channels', (encoding, channels) => {
  const audio = [voice, voice.map((sample) => sample * 0.4)].slice(0, channels);
  const format = { encoding, dither: false, channels } as const;
  const flac = `${folder}/${encoding}-${channels}.flac`;
  const wav = `${folder}/${encoding}-${channels}.wav`;

  test('is bit for bit what a WAV of it holds: flac -t, flac -d, ffmpeg and our own decoder', async () => {
    await writeSound(flac, audio, { ...format, container: 'flac' }, {}, encoders);
    await writeSound(wav, audio, format);
    // -w makes an unset checksum an error as well.
    execFileSync('flac', ['-s', '-t', '-w', flac]);
    execFileSync('flac', ['-s', '-d', '-f', '-o', `${flac}.wav`, flac]);
    const expected = (await readWhole(sourceOf(wav))).audio;
    const { sound, audio: ours } = await readWhole(sourceOf(flac));
    expect(sound).toMatchObject({ damaged: false, truncated: false, frames: voice.length });
    const decoded = (await readWhole(sourceOf(`${flac}.wav`))).audio;
    const theirs = ffmpegChannels(flac, channels);
    for (let channel = 0; channel < channels; channel++) {
      expect(firstDifference(decoded[channel], expected[channel])).toBe(-1);
      expect(firstDifference(theirs[channel], expected[channel])).toBe(-1);
      expect(firstDifference(ours[channel], expected[channel])).toBe(-1);
    }
  });

  test('has its checksum, bit depth and length in its header', () => {
    expect(
      readFileSync(flac)
        .subarray(26, 42)
        .some((byte) => byte !== 0),
    ).toBe(true);
    expect(ffprobe(flac).streams[0]).toMatchObject({
      codec_name: 'flac',
      sample_rate: '48000',
      channels,
      bits_per_raw_sample: encoding === 'pcm16' ? '16' : '24',
    });
  });
});
