import { say } from '../../texts/say';
import type { Planar } from '../base/audio';
import type { ByteSource } from '../formats/bytes';
import { decodeFrames } from '../formats/pcm';
import { digestOfRead, type PcmDigest } from '../formats/pcmDigest';
import { readSound } from '../formats/readSound';
import { wavFormat, type SoundFileSettings, type WrittenSound } from '../formats/soundFile';
import { readWavInfo } from '../formats/wavReader';
import { Meter, type Measurement } from '../loudness/measure';
import { isLossless } from '../specs/fileFormat';

/** What a written file holds. */
export interface ReadSound extends WrittenSound {
  measurement: Measurement;
}

/** What a file that was read back has other than what was written, in a sentence; null for nothing. */
export function mistakeIn(
  read: ReadSound,
  written: WrittenSound,
  { format }: SoundFileSettings,
): string | null {
  const { rateHz, channels } = read.measurement;
  if (rateHz !== format.rateHz || channels !== format.channels)
    return say`The file reads back with ${channels} channels at ${rateHz} Hz.`;
  if (format.container !== 'opus' && read.frames !== written.frames)
    return say`The file reads back with ${read.frames} frames instead of ${written.frames}.`;
  return read.digest === written.digest
    ? null
    : say`The file does not read back sample by sample as it was written.`;
}

type Start = (sound: { rateHz: number; channels: number }) => void;
/** Decodes something and says what it is before the first audio. */
export type Decode = (start: Start) => AsyncIterable<Planar>;

const chunkFrames = 131_072;

/**
 * Decodes and measures a written file from its bytes: the samples, their checksum and what they measure from
 * one reading. MP3 and FLAC are decoded by libraries and code that have nothing to do with how they were
 * written; `decode` takes the place of that.
 */
export async function measureWritten(
  bytes: ByteSource,
  { format }: SoundFileSettings,
  onFrames: (frames: number) => void,
  decode?: Decode,
): Promise<ReadSound> {
  const digest = isLossless(format.container) ? await digestOfRead(wavFormat(format)) : null;
  const inFile = format.container === 'wav' && digest;
  const metered: { meter: Meter | null } = { meter: null };
  const start: Start = ({ rateHz, channels }) => (metered.meter = new Meter(rateHz, channels));
  let frames = 0;
  const audio = decode?.(start) ?? (inFile ? readWav(bytes, start, digest) : readSound(bytes, start));
  for await (const chunk of audio) {
    metered.meter?.process(chunk);
    if (!inFile && chunk.length === format.channels) digest?.process(chunk);
    frames += chunk[0].length;
    onFrames(frames);
  }
  const measurement = (metered.meter ?? new Meter(format.rateHz, format.channels)).finish();
  return { frames, measurement, digest: digest?.digest() ?? null };
}

/** The audio of a WAV; its samples as they stand in the file go into the digest. */
async function* readWav(bytes: ByteSource, start: Start, digest: PcmDigest): AsyncGenerator<Planar> {
  const info = await readWavInfo(bytes);
  start(info);
  for (let from = 0; from < info.frames; from += chunkFrames) {
    const count = Math.min(chunkFrames, info.frames - from) * info.frameBytes;
    const samples = await bytes.read(info.dataOffset + from * info.frameBytes, count);
    digest.update(samples);
    yield decodeFrames(samples, info);
  }
}
