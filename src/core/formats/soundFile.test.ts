import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { plainFormat, type FileFormat } from '../specs/fileFormat';
import {
  chunksOf,
  concat,
  decodeWithFfmpeg,
  firstDifference,
  noise,
  scratchFolder,
  sine,
  writeWav,
} from '../testing/signals';
import { MemorySource, MemoryTarget } from './bytes';
import { createMp3Encoder } from './mp3Encoder';
import { readGapless } from './mp3Info';
import { readSound } from './readSound';
import { writeSoundFile } from './soundFile';
import { predictBytes } from './soundFileSize';
import { wavHeader } from './wavWriter';
import { readWavFrames, readWavInfo } from './wavReader';

const folder = scratchFolder();
const wav = (
  encoding: FileFormat['encoding'],
  rateHz: FileFormat['rateHz'] = 48_000,
  dither = false,
): FileFormat => ({ ...plainFormat, encoding, dither, rateHz });
const mp3 = (rateHz: FileFormat['rateHz']): FileFormat => ({
  ...plainFormat,
  container: 'mp3',
  encoding: 'pcm16',
  rateHz,
});

async function write(
  audio: Float32Array,
  format: FileFormat,
  rateHz = 48_000,
  seed = 1,
): Promise<Uint8Array<ArrayBuffer>> {
  const target = new MemoryTarget();
  async function* chunks() {
    for (const chunk of chunksOf(audio, 20_000, seed)) yield [chunk];
  }
  await writeSoundFile(chunks(), { format, rateHz, frames: audio.length }, target, {
    createMp3: createMp3Encoder,
  });
  return target.toBytes();
}

async function writeFile(
  name: string,
  audio: Float32Array,
  format: FileFormat,
  rateHz = 48_000,
): Promise<string> {
  const file = `${folder}/${name}`;
  writeFileSync(file, await write(audio, format, rateHz));
  return file;
}

const probe = (file: string) => {
  const json = execFileSync('ffprobe', ['-v', 'error', '-show_streams', '-of', 'json', file], {
    encoding: 'utf8',
  });
  return (JSON.parse(json) as { streams: Record<string, unknown>[] }).streams[0];
};

/** Lag of `output` against `input` with the least difference, and that difference. */
function align(input: Float32Array, output: Float32Array, reach: number) {
  let best = { lag: 0, error: Infinity };
  for (let lag = -reach; lag <= reach; lag++) {
    let error = 0;
    for (let i = 10_000; i < 30_000; i++) error += (input[i] - output[i + lag]) ** 2;
    if (error < best.error) best = { lag, error };
  }
  return best;
}

describe('WAV', () => {
  const audio = noise(30_001, -18, 5);

  test('32-bit float comes back from ffmpeg bit for bit', async () => {
    const file = await writeFile('float.wav', audio, wav('float32'));
    expect(firstDifference(decodeWithFfmpeg(file), audio)).toBe(-1);
    expect(probe(file)).toMatchObject({ codec_name: 'pcm_f32le', sample_rate: '48000', channels: 1 });
  });

  test.each([
    ['pcm16', 'pcm_s16le', 16],
    ['pcm24', 'pcm_s24le', 24],
  ] as const)(
    '%s without dither is within half a step of the signal, read by ffmpeg',
    async (encoding, codec, bits) => {
      const file = await writeFile(`${encoding}.wav`, audio, wav(encoding));
      const decoded = decodeWithFfmpeg(file);
      expect(decoded).toHaveLength(audio.length);
      expect(probe(file)).toMatchObject({ codec_name: codec });
      let worst = 0;
      for (let i = 0; i < audio.length; i++) worst = Math.max(worst, Math.abs(decoded[i] - audio[i]));
      expect(worst).toBeLessThanOrEqual(0.5 / 2 ** (bits - 1) + 1e-8);
      // An odd number of bytes is padded, as RIFF wants it.
      expect(readFileSync(file).length % 2).toBe(0);
    },
  );

  test('the size is predicted to the byte, whatever the chunks', async () => {
    for (const encoding of ['pcm16', 'pcm24', 'float32'] as const) {
      const bytes = await write(audio, wav(encoding, 48_000, true));
      expect(bytes.length).toBe(
        predictBytes({ format: wav(encoding), rateHz: 48_000, frames: audio.length }),
      );
      expect(Buffer.compare(await write(audio, wav(encoding, 48_000, true), 48_000, 7), bytes)).toBe(0);
    }
  });

  test('is converted to the rate the client wants, with the exact length', async () => {
    const file = await writeFile('converted.wav', sine(48_000, 1, 997, -6), wav('float32', 44_100));
    expect(decodeWithFfmpeg(file)).toHaveLength(44_100);
    expect(probe(file)).toMatchObject({ sample_rate: '44100' });
  });

  test.each(['pcm16', 'pcm24', 'float32'] as const)(
    'two channels of %s are read as ffmpeg reads them',
    async (encoding) => {
      const file = writeWav(
        `${folder}/stereo-${encoding}.wav`,
        44_100,
        [audio, noise(30_001, -25, 8)],
        encoding,
      );
      const source = new MemorySource(new Uint8Array(readFileSync(file)));
      const info = await readWavInfo(source);
      const [left] = await readWavFrames(source, info, 0, info.frames);
      const bytes = execFileSync(
        'ffmpeg',
        ['-v', 'error', '-i', file, '-af', 'pan=mono|c0=c0', '-f', 'f32le', '-'],
        { maxBuffer: 1 << 28 },
      );
      const theirs = new Float32Array(
        bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength),
      );
      expect(firstDifference(left, theirs)).toBe(-1);
    },
  );

  test.each(['pcm_u8', 'pcm_s16le', 'pcm_s24le', 'pcm_s32le', 'pcm_f32le', 'pcm_f64le'])(
    'reads what ffmpeg writes as %s',
    async (codec) => {
      const file = `${folder}/${codec}.wav`;
      execFileSync('ffmpeg', [
        '-v',
        'error',
        '-y',
        '-i',
        await writeFile('in.wav', audio, wav('float32')),
        '-c:a',
        codec,
        file,
      ]);
      const source = new MemorySource(new Uint8Array(readFileSync(file)));
      const info = await readWavInfo(source);
      const [samples] = await readWavFrames(source, info, 0, info.frames);
      expect(firstDifference(samples, decodeWithFfmpeg(file))).toBe(-1);
    },
  );

  test('sizes past 32 bits go into a ds64 chunk (EBU Tech 3306)', () => {
    const frames = 2 ** 31;
    const header = wavHeader({ encoding: 'float32', rateHz: 48_000, channels: 1, dither: 'none' }, frames);
    const view = new DataView(header.buffer);
    expect(Buffer.from(header.subarray(0, 4)).toString()).toBe('RF64');
    expect(Buffer.from(header.subarray(12, 16)).toString()).toBe('ds64');
    expect(Number(view.getBigUint64(28, true))).toBe(frames * 4);
    expect(Number(view.getBigUint64(20, true))).toBe(header.length - 8 + frames * 4);
  });

  test('a large RF64 file is read from its ds64 sizes', async () => {
    const header = wavHeader({ encoding: 'float32', rateHz: 48_000, channels: 1, dither: 'none' }, 2 ** 31);
    const memory = new MemorySource(header);
    const size = header.length + 2 ** 33;
    const info = await readWavInfo({ size, read: (offset, length) => memory.read(offset, length) });
    expect(info).toMatchObject({ frames: 2 ** 31, truncated: false });
  });

  test('a file cut short gives what is whole, and says so', async () => {
    const bytes = await write(audio, wav('pcm16'));
    const source = new MemorySource(bytes.slice(0, 44 + 2001));
    expect(await readWavInfo(source)).toMatchObject({ frames: 1000, truncated: true });
  });

  test.each([
    ['nothing', new Uint8Array(0), 'empty'],
    [
      'text',
      new Uint8Array(Buffer.from('this is a letter to a client '.repeat(4000))),
      'not a WAV, AIFF, FLAC or MP3',
    ],
    ['a RIFF file that is no WAVE', new Uint8Array(Buffer.from('RIFF....AVI LIST')), 'not a WAV'],
    ['a WAV without audio', new Uint8Array(Buffer.from('RIFF\x04\0\0\0WAVE')), 'no audio'],
  ])('%s is refused with a reason', async (_name, bytes, reason) => {
    const read = async () => {
      for await (const audioChunk of readSound(new MemorySource(bytes), () => undefined)) void audioChunk;
    };
    await expect(read()).rejects.toThrow(reason);
  });

  test('mutated headers end in the format’s own error or in audio, never in anything else', async () => {
    const whole = (await write(audio.subarray(0, 500), wav('pcm24'))).slice();
    for (let seed = 0; seed < 1000; seed++) {
      const bytes = whole.slice();
      for (let change = 0; change < 3; change++)
        bytes[4 + ((seed * 7 + change * 13) % 56)] = (seed * 31 + change * 101) & 0xff;
      try {
        let frames = 0;
        for await (const chunk of readSound(new MemorySource(bytes), () => undefined))
          frames += chunk[0].length;
        expect(frames).toBeLessThanOrEqual(1600);
      } catch (error) {
        expect((error as Error).name).toBe('ParolaError');
      }
    }
  });
});

describe('MP3', () => {
  test.each([
    [44_100, 100_000],
    [44_100, 44_100],
    [48_000, 123_457],
    [44_100, 999],
    [44_100, 1],
  ] as const)(
    'at %d Hz, %d frames: ffmpeg decodes exactly so many, 192 kbit/s mono',
    async (rateHz, frames) => {
      const file = await writeFile(
        `exact-${rateHz}-${frames}.mp3`,
        noise(frames, -20, 2),
        mp3(rateHz),
        rateHz,
      );
      expect(decodeWithFfmpeg(file)).toHaveLength(frames);
      expect(probe(file)).toMatchObject({ codec_name: 'mp3', sample_rate: String(rateHz), channels: 1 });
    },
  );

  test('comes back in place, not a frame late (ffmpeg)', async () => {
    const audio = concat(sine(44_100, 0.3, 440, -12), noise(30_000, -20, 3));
    const file = await writeFile('place.mp3', audio, mp3(44_100), 44_100);
    expect(align(audio, decodeWithFfmpeg(file), 40).lag).toBe(0);
    expect(probe(file)).toMatchObject({ bit_rate: '192000' });
  });

  test('Parola reads the same samples from it as ffmpeg', async () => {
    const file = await writeFile('read.mp3', noise(60_000, -20, 4), mp3(44_100), 44_100);
    const parts: Float32Array[] = [];
    for await (const [mono] of readSound(
      new MemorySource(new Uint8Array(readFileSync(file))),
      () => undefined,
    ))
      parts.push(mono.slice());
    const ours = concat(...parts);
    const theirs = decodeWithFfmpeg(file);
    expect(ours).toHaveLength(theirs.length);
    let worst = 0;
    for (let i = 0; i < ours.length; i++) worst = Math.max(worst, Math.abs(ours[i] - theirs[i]));
    expect(worst).toBeLessThan(1e-4);
  });

  test('the gapless fields say what the encoder added', async () => {
    const bytes = await write(noise(50_000, -20, 1), mp3(44_100), 44_100);
    expect(readGapless(bytes)).toEqual({ delayFrames: 576, paddingFrames: expect.any(Number) as number });
  });

  test('the predicted size is within two frames', async () => {
    const frames = 200_000;
    const bytes = await write(noise(frames, -20, 1), mp3(44_100), 44_100);
    expect(
      Math.abs(bytes.length - predictBytes({ format: mp3(44_100), rateHz: 44_100, frames })),
    ).toBeLessThanOrEqual(2 * 627);
  });

  test('is converted from 48 to 44.1 kHz on the way', async () => {
    const file = await writeFile('converted.mp3', noise(96_000, -20, 1), mp3(44_100));
    expect(decodeWithFfmpeg(file)).toHaveLength(88_200);
  });
});
