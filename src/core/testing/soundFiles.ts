import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import type { Planar } from '../base/audio';
import { MemorySource, MemoryTarget } from '../formats/bytes';
import { createMp3Encoder } from '../formats/mp3Encoder';
import { readSound, type Sound } from '../formats/readSound';
import { writeSoundFile, type Encoders, type SoundFileSettings } from '../formats/soundFile';
import { plainFormat, type FileFormat } from '../specs/fileFormat';
import { chunksOf, concat } from './signals';

type Extras = Partial<Pick<SoundFileSettings, 'rateHz' | 'broadcast' | 'marks' | 'tags' | 'cover'>>;

/** Writes audio as a file through the application's writer, in chunks of random lengths. Returns its path. */
export async function writeSound(
  file: string,
  audio: Planar,
  format: Partial<FileFormat>,
  { rateHz = 48_000, ...extras }: Extras = {},
  encoders: Encoders = { createMp3: createMp3Encoder },
): Promise<string> {
  const target = new MemoryTarget();
  const pieces = audio.map((channel) => [...chunksOf(channel, 20_000, 1)]);
  async function* chunks() {
    for (let i = 0; i < pieces[0].length; i++) yield pieces.map((channel) => channel[i]);
  }
  const settings = {
    format: { ...plainFormat, channels: audio.length as 1 | 2, ...format },
    rateHz,
    frames: audio[0].length,
    ...extras,
  };
  await writeSoundFile(chunks(), settings, target, encoders);
  writeFileSync(file, target.toBytes());
  return file;
}

export const sourceOf = (file: string) => new MemorySource(new Uint8Array(readFileSync(file)));

/** Reads a whole file with the application's reader. */
export async function readWhole(source: MemorySource): Promise<{ sound: Sound; audio: Float32Array[] }> {
  const found: Sound[] = [];
  const pieces: Planar[] = [];
  for await (const chunk of readSound(source, (sound) => found.push(sound)))
    pieces.push(chunk.map((channel) => channel.slice()));
  const [sound] = found;
  const audio = Array.from({ length: sound.channels }, (_, channel) =>
    concat(...pieces.map((piece) => piece[channel])),
  );
  return { sound, audio };
}

/** What ffmpeg decodes from a file: as many channels as asked for, planar 32-bit float. */
export function ffmpegChannels(file: string, channels: number): Float32Array[] {
  return Array.from({ length: channels }, (_, channel) => {
    const bytes = execFileSync(
      'ffmpeg',
      ['-v', 'error', '-i', file, '-af', `pan=mono|c0=c${channel}`, '-f', 'f32le', '-'],
      { maxBuffer: 1 << 30 },
    );
    return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  });
}

interface Probe {
  streams: Record<string, string | number>[];
  format: { tags?: Record<string, string>; duration: string; format_name: string };
  chapters: { start_time: string; end_time: string; tags: { title: string } }[];
}

export const ffprobe = (file: string): Probe =>
  JSON.parse(
    execFileSync(
      'ffprobe',
      ['-v', 'error', '-show_streams', '-show_format', '-show_chapters', '-of', 'json', file],
      { encoding: 'utf8' },
    ),
  ) as Probe;

/** One field of mediainfo, as “General;%Description%” asks for it. */
export const mediainfo = (file: string, field: string): string =>
  execFileSync('mediainfo', [`--Inform=${field}`, file], { encoding: 'utf8' }).trim();
