import type { Planar } from '../base/audio';
import { ParolaError } from '../base/errors';
import { asciiAt, type ByteSource } from './bytes';
import { decodeMp3 } from './mp3Decoder';
import { readWavFrames, readWavInfo } from './wavReader';

const chunkFrames = 131_072;
const chunkBytes = 262_144;

export interface Sound {
  rateHz: number;
  channels: number;
  /** The file ends before the length its header states. */
  truncated: boolean;
}

/**
 * Reads a WAV or MP3 file as it streams. `onSound` is called once, before the first audio. Throws ParolaError `not-audio`, `damaged-file` or
 * `unsupported`.
 */
export async function* readSound(
  source: ByteSource,
  onSound: (sound: Sound) => void,
): AsyncGenerator<Planar> {
  const head = await source.read(0, 4);
  if (head.length === 0) throw new ParolaError('not-audio', 'The file is empty.');
  const kind = head.length === 4 ? asciiAt(head, 0, 4) : '';
  if (kind === 'RIFF' || kind === 'RF64') yield* readWav(source, onSound);
  else yield* decodeMp3(chunksOf(source), (info) => onSound({ ...info, truncated: false }));
}

async function* readWav(source: ByteSource, onSound: (sound: Sound) => void) {
  const info = await readWavInfo(source);
  onSound(info);
  for (let from = 0; from < info.frames; from += chunkFrames) {
    yield await readWavFrames(source, info, from, chunkFrames);
  }
}

async function* chunksOf(source: ByteSource) {
  for (let at = 0; at < source.size; at += chunkBytes) yield await source.read(at, chunkBytes);
}
