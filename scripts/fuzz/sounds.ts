/**
 * Sound files that are odd or made to do harm: cut anywhere, holed, with headers that lie about lengths,
 * rates and chunks. None may take longer than its bound, or say that it is whole when it is not.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Resampler } from '@/core/dsp/resampler';
import { ascii, joinBytes, MemorySource, viewOf } from '@/core/formats/bytes';
import { oggEnd } from '@/core/formats/oggEnd';
import { readSound, type Sound } from '@/core/formats/readSound';
import {
  cuePoints,
  flacHead,
  id3Head,
  riff,
  silentFlac,
  wavFormatChunk,
  type RiffChunk,
} from '@/core/testing/hostile';
import { noise } from '@/core/testing/signals';
import { writeSound } from '@/core/testing/soundFiles';
import { Findings, type FuzzResult } from './findings';

type Bytes = Uint8Array<ArrayBuffer>;
const folder = mkdtempSync(path.join(tmpdir(), 'parola-sounds-'));
const slowestMs = 4000;
const mostFrames = 48_000 * 3600 * 31;

interface Read {
  frames: number;
  sound: Sound | null;
}

async function read(bytes: Bytes): Promise<Read> {
  let sound: Sound | null = null;
  let frames = 0;
  for await (const audio of readSound(new MemorySource(bytes), (found) => (sound = found))) {
    frames += audio[0].length;
    if (frames > mostFrames) throw new Error(`more than ${mostFrames} frames`);
  }
  return { frames, sound };
}

async function wholeFiles(): Promise<Record<string, Bytes>> {
  const audio = [noise(96_000, -20, 1), noise(96_000, -25, 2)];
  const wav = await writeSound(`${folder}/a.wav`, audio, { encoding: 'pcm24' });
  const bytesOf = (file: string) => new Uint8Array(readFileSync(file));
  const by = (name: string, ...args: string[]) => {
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', wav, ...args, `${folder}/${name}`]);
    return bytesOf(`${folder}/${name}`);
  };
  return {
    wav: bytesOf(wav),
    float: by('f.wav', '-c:a', 'pcm_f32le'),
    rf64: by('r.wav', '-rf64', 'always'),
    aiff: by('a.aiff', '-c:a', 'pcm_s16be'),
    flac: by('a.flac'),
    mp3: by('a.mp3', '-b:a', '192k'),
    vbr: by('v.mp3', '-q:a', '2'),
    own: bytesOf(await writeSound(`${folder}/o.mp3`, audio, { container: 'mp3', encoding: 'pcm16' })),
  };
}

function infinite(value: number): Uint8Array {
  return new Uint8Array(new Float32Array(4800).fill(value).buffer);
}

/** Of each: what it is, and what must be so of what is read. */
type Case = [name: string, bytes: Bytes, holds?: (read: Read) => string | null];

function oddFiles(whole: Record<string, Bytes>): Case[] {
  const data = new Uint8Array(9600);
  const pcm = wavFormatChunk(1, 48_000, 16);
  const many = (count: number) => Array.from({ length: count }, (): RiffChunk => ['junk', new Uint8Array(0)]);
  const notWhole = ({ sound }: Read) =>
    sound?.truncated || sound?.damaged || sound?.notNumbers ? null : 'it counts as whole';
  const rates = [0, 1, 999, 1000, 4000, 7999, 768_000, 768_001, 2 ** 31, 2 ** 32 - 1];
  const channels = [0, 1, 32, 33, 255, 65_535];
  return [
    ...rates.map((rate): Case => [
      `WAV at ${rate} Hz`,
      riff(['fmt ', wavFormatChunk(1, rate, 16)], ['data', data]),
    ]),
    ...channels.map((count): Case => [
      `WAV of ${count} channels`,
      riff(['fmt ', wavFormatChunk(count, 48_000, 16)], ['data', data]),
    ]),
    ...[0, 1, 7, 12, 17, 33, 64, 65_535].map((bits): Case => [
      `WAV of ${bits} bits`,
      riff(['fmt ', wavFormatChunk(1, 48_000, bits)], ['data', data]),
    ]),
    ...[0, 2, 17, 85, 0xfffe, 0xffff].map((tag): Case => [
      `WAV of format ${tag}`,
      riff(['fmt ', wavFormatChunk(1, 48_000, 16, tag)], ['data', data]),
    ]),
    ...[9601, 2 ** 31, 2 ** 32 - 2].map((size): Case => [
      `WAV that claims ${size} bytes`,
      riff(['fmt ', pcm], ['data', data, size]),
      notWhole,
    ]),
    ['WAV with its audio before its format', riff(['data', data], ['fmt ', pcm])],
    ['WAV without audio', riff(['fmt ', pcm])],
    ['WAV of 300,000 empty chunks', riff(['fmt ', pcm], many(300_000), ['data', data])],
    ['WAV of 9,000 empty chunks', riff(['fmt ', pcm], many(9000), ['data', data])],
    ['WAV with chunks beyond its end', riff(['fmt ', pcm], ['junk', data, 2 ** 31], ['data', data])],
    ['WAV with 100,000 marks', riff(['fmt ', pcm], ['cue ', cuePoints(100_000)], ['data', data])],
    ['WAV with a bext of 4 GB', riff(['fmt ', pcm], ['bext', data, 2 ** 32 - 1], ['data', data])],
    ...[Infinity, -Infinity, NaN].map((value): Case => [
      `WAV of ${value}`,
      riff(['fmt ', wavFormatChunk(1, 48_000, 32, 3)], ['data', infinite(value)]),
      notWhole,
    ]),
    ['only RIFF', ascii('RIFF') as Bytes],
    ['RIFF of another kind', ascii('RIFF\0\0\0\0AVI ') as Bytes],
    ['nothing', new Uint8Array(0)],
    ['one byte', new Uint8Array(1)],
    ['a megabyte of zeros', new Uint8Array(1_000_000)],
    ['a megabyte of ones', new Uint8Array(1_000_000).fill(255)],
    ['a megabyte of MP3 beginnings', repeated([0xff, 0xfb, 0x90, 0x00], 1_000_000)],
    ['a megabyte of FLAC beginnings', joinBytes([flacHead(48_000, 2, 0), repeated([0xff, 0xf8], 1_000_000)])],
    [
      'FLAC beginnings that look good',
      joinBytes([flacHead(48_000, 8, 0), repeated([0xff, 0xf8, 0x70, 0x78], 1_000_000)]),
    ],
    ['5 hours of silence in FLAC', silentFlac({ hours: 5, rateHz: 8000, channels: 1 })],
    ['silence of 8 channels at 1 kHz in FLAC', silentFlac({ hours: 5, rateHz: 1000, channels: 8 })],
    ['FLAC that claims 2^36 frames', joinBytes([flacHead(48_000, 2, 2 ** 36 - 1), whole.flac.slice(42)])],
    ['an ID3 tag without an end', joinBytes([id3Head(2 ** 28 - 1), whole.mp3])],
    ['a hundred ID3 tags', joinBytes([...Array.from({ length: 100 }, () => id3Head(0)), whole.mp3])],
    ['ten thousand ID3 tags', joinBytes([...Array.from({ length: 10_000 }, () => id3Head(0)), whole.mp3])],
    ['a tag of 20 MB', joinBytes([id3Head(20_000_000), new Uint8Array(20_000_000), whole.mp3])],
    [
      'a tag of 20 MB after an empty one',
      joinBytes([id3Head(0), id3Head(20_000_000), new Uint8Array(20_000_000), whole.mp3]),
    ],
    ['AIFF whose chunk points back', aiffBack(whole.aiff)],
    ['FORM of nothing', ascii('FORM\0\0\0\0AIFF') as Bytes],
    ['Ogg of nothing', ascii('OggS') as Bytes],
    ['an MP4 of nothing', ascii('\0\0\0\u0018ftypM4A ') as Bytes],
  ];
}

function repeated(piece: readonly number[], length: number): Bytes {
  const bytes = new Uint8Array(length);
  for (let at = 0; at < length; at++) bytes[at] = piece[at % piece.length];
  return bytes;
}

function aiffBack(whole: Bytes): Bytes {
  const bytes = whole.slice();
  viewOf(bytes).setUint32(16, 2 ** 32 - 20);
  return bytes;
}

export async function oddSounds(): Promise<FuzzResult> {
  const result = new Findings();
  const whole = await wholeFiles();
  for (const [name, bytes] of Object.entries(whole)) {
    await result.watch(`whole ${name}`, slowestMs, async () => {
      const { sound, frames } = await read(bytes);
      result.expect(name, frames === 96_000, `${frames} frames`);
      result.expect(name, !sound?.truncated && !sound?.damaged, 'a whole file counts as cut or damaged');
    });
    // Cut anywhere it is cut short, damaged, or no sound at all; never whole.
    for (const share of [0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.99]) {
      await result.watch(`${name} cut at ${share}`, slowestMs, async () => {
        const { sound } = await read(bytes.slice(0, Math.floor(bytes.length * share)));
        result.expect(`${name} cut at ${share}`, !!sound?.truncated || !!sound?.damaged, 'passes for whole');
      });
    }
    // A hole is seen where the format has any checksum or frames; plain samples have none.
    const checks = name === 'flac' || name === 'mp3' || name === 'vbr' || name === 'own';
    for (const from of [0.3, 0.6, 0.79]) {
      await result.watch(`${name} holed at ${from}`, slowestMs, async () => {
        const holed = bytes.slice().fill(0, bytes.length * from, bytes.length * (from + 0.2));
        const { sound } = await read(holed);
        if (checks) result.expect(`${name} holed at ${from}`, !!sound?.damaged, 'passes for whole');
      });
    }
  }
  for (const [name, bytes, holds] of oddFiles(whole)) {
    await result.watch(name, slowestMs, async () => {
      const told = holds?.(await read(bytes)) ?? (holds ? null : (await read(bytes), null));
      if (told) result.broken.push(`${name}: ${told}`);
    });
    await result.watch(`${name}, as Ogg`, slowestMs, async () => {
      await oggEnd(new MemorySource(bytes));
    });
  }
  for (const rate of [
    4000, 5512, 7350, 11_025, 11_127, 22_050, 22_254, 32_000, 37_800, 44_056, 44_099, 44_101, 47_952, 48_001,
    48_048, 50_000, 50_400, 64_000, 88_200, 96_001, 176_400, 191_999, 192_000, 352_800, 384_000,
  ])
    await result.watch(`from ${rate} Hz to 48 and 44.1 kHz`, slowestMs, () => {
      for (const to of [48_000, 44_100]) {
        const resampler = new Resampler(rate, to);
        const frames = resampler.process(new Float32Array(rate / 10)).length + resampler.flush().length;
        result.expect(
          `${rate} to ${to}`,
          frames === resampler.outputFrames(Math.floor(rate / 10)),
          `${frames} frames`,
        );
      }
    });
  return result;
}
