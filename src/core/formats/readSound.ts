import { say } from '../../texts/say';
import type { Planar } from '../base/audio';
import { ParolaError } from '../base/errors';
import { readAiffFrames, readAiffInfo } from './aiff';
import type { BroadcastOrigin } from './bext';
import { asciiAt, type ByteSource } from './bytes';
import type { FileMark } from './fileMarks';
import { decodeFlac, readFlacInfo } from './flacDecoder';
import type { SoundHealth } from './health';
import { decodeMp3, noSound, soundStart } from './mp3Decoder';
import { readWavExtras, readWavFrames, readWavInfo } from './wavReader';

const chunkFrames = 131_072;
const chunkBytes = 262_144;
/** Not more than this many samples are decoded at once, whatever the number of channels. */
const chunkSamples = 524_288;

export type SoundKind = 'wav' | 'aiff' | 'flac' | 'mp3';

export interface Sound extends SoundHealth {
  kind: SoundKind;
  rateHz: number;
  channels: number;
  /** Frames the file should hold; null when only decoding tells. */
  frames: number | null;
  marks: FileMark[];
  origin: BroadcastOrigin | null;
}

/** What the first bytes say a file is; MP3 has no sure sign, so it is what is left. */
export async function soundKind(source: ByteSource): Promise<SoundKind | 'other'> {
  const start = await source.read(0, 12);
  if (start.length === 0) throw new ParolaError('not-audio', say`The file is empty.`);
  const at = (offset: number) => (start.length >= offset + 4 ? asciiAt(start, offset, 4) : '');
  if (at(0) === 'RIFF' || at(0) === 'RF64') return at(8) === 'WAVE' ? 'wav' : 'other';
  if (at(0) === 'FORM') return 'aiff';
  if (at(0) === 'fLaC') return 'flac';
  if (at(0) === 'OggS' || at(4) === 'ftyp' || (start[0] === 0x1a && start[1] === 0x45)) return 'other';
  // ADTS has the same sync as MPEG audio, with layer 0.
  if (start[0] === 0xff && (start[1] & 0xf6) === 0xf0) return 'other';
  const tag = await soundStart(source);
  if (tag > 0) {
    const after = await source.read(tag, 4);
    if (after.length === 4 && asciiAt(after, 0, 4) === 'fLaC') return 'flac';
  }
  return 'mp3';
}

/**
 * Reads a WAV, AIFF, FLAC or MP3 file as it streams, at its own rate. `onSound` is called once, before the
 * first audio. Throws ParolaError `not-audio`, `damaged-file` or `unsupported`.
 */
export async function* readSound(
  source: ByteSource,
  onSound: (sound: Sound) => void,
): AsyncGenerator<Planar> {
  const kind = await soundKind(source);
  switch (kind) {
    case 'wav':
      return yield* readWav(source, onSound);
    case 'aiff':
      return yield* readAiff(source, onSound);
    case 'flac':
      return yield* readFlac(source, onSound);
    case 'mp3':
      return yield* readMp3(source, onSound);
    case 'other':
      throw noSound();
  }
}

const sound = (kind: SoundKind, rateHz: number, channels: number, rest: Partial<Sound> = {}): Sound => ({
  kind,
  rateHz,
  channels,
  frames: null,
  truncated: false,
  damaged: false,
  notNumbers: 0,
  marks: [],
  origin: null,
  ...rest,
});

async function* readWav(source: ByteSource, onSound: (sound: Sound) => void) {
  const info = await readWavInfo(source);
  const { rateHz, channels, frames, truncated } = info;
  const extras = await readWavExtras(source, info);
  const described = sound('wav', rateHz, channels, { frames, truncated, ...extras });
  onSound(described);
  const step = Math.min(chunkFrames, Math.ceil(chunkSamples / channels));
  for (let from = 0; from < frames; from += step)
    yield await readWavFrames(source, info, from, step, described);
}

async function* readAiff(source: ByteSource, onSound: (sound: Sound) => void) {
  const info = await readAiffInfo(source);
  const { rateHz, channels, frames, truncated } = info;
  const described = sound('aiff', rateHz, channels, { frames, truncated });
  onSound(described);
  const step = Math.min(chunkFrames, Math.ceil(chunkSamples / channels));
  for (let from = 0; from < frames; from += step)
    yield await readAiffFrames(source, info, from, step, described);
}

async function* readFlac(source: ByteSource, onSound: (sound: Sound) => void) {
  const file = await readFlacInfo(source);
  const { rateHz, channels, totalFrames } = file.info;
  const described = sound('flac', rateHz, channels, { frames: totalFrames || null });
  onSound(described);
  yield* decodeFlac(source, file, described);
}

async function* readMp3(source: ByteSource, onSound: (sound: Sound) => void) {
  yield* decodeMp3(chunksOf(source, await soundStart(source)), ({ rateHz, channels }) => {
    const described = sound('mp3', rateHz, channels);
    onSound(described);
    return described;
  });
}

async function* chunksOf(source: ByteSource, from: number) {
  for (let at = from; at < source.size; at += chunkBytes) yield await source.read(at, chunkBytes);
}
