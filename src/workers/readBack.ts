import { readWavFrames, readWavInfo } from '@/core/formats/wavReader';
import { readSound } from '@/core/formats/readSound';
import { decodeFrames } from '@/core/formats/pcm';
import { digestOfRead, type PcmDigest } from '@/core/formats/pcmDigest';
import type { Planar } from '@/core/base/audio';
import { fileFrames, wavFormat, type SoundFileSettings, type WrittenSound } from '@/core/formats/soundFile';
import { isLossless } from '@/core/specs/fileFormat';
import { Meter, type Measurement } from '@/core/loudness/measure';
import { BlobBytes } from './blobBytes';
import { HashedBytes } from './hashedBytes';
import { decodeByBrowser, spotsByBrowser } from './mediaFile';
import type { WrittenTarget } from './scratchFile';

export interface ReadSound extends WrittenSound {
  measurement: Measurement;
  sha256: string;
  /** What another reader finds different; null for nothing, or where there is none. */
  otherwise: string | null;
}

const spotCount = 100;
const spotFrames = 512;

/**
 * Reads a written file back once: its samples, their checksum, what they measure, and the checksum of the
 * file, all from the same bytes. MP3 and FLAC are decoded by libraries and code that have nothing to do with
 * how they were written, Opus by the browser; a WAV's header and its samples at a hundred places are read by
 * the container library as well.
 */
export async function readBack(
  target: Pick<WrittenTarget, 'readable' | 'close'>,
  settings: SoundFileSettings,
  say: (done: number) => void,
): Promise<ReadSound & { file: File }> {
  const { format } = settings;
  const expected = fileFrames(settings);
  const digest = isLossless(format.container) ? await digestOfRead(wavFormat(format)) : null;
  let meter: Meter | null = null;
  let frames = 0;
  const start = (sound: { rateHz: number; channels: number }) => {
    meter = new Meter(sound.rateHz, sound.channels);
  };
  const { container } = format;
  // The browser's decoder takes a file; everything else reads where it was written.
  let file = container === 'opus' ? await target.close() : null;
  const bytes = new HashedBytes(file ? new BlobBytes(file) : await target.readable());
  try {
    const audio = file
      ? decodeByBrowser(new File([file], 'file.opus'), start)
      : container === 'wav' && digest
        ? readWav(bytes, start, digest)
        : readSound(bytes, start);
    for await (const chunk of audio) {
      (meter as Meter | null)?.process(chunk);
      if (container !== 'wav' && chunk.length === format.channels) digest?.process(chunk);
      frames += chunk[0].length;
      say(Math.min(1, frames / Math.max(1, expected)));
    }
    const measurement = ((meter as Meter | null) ?? new Meter(format.rateHz, format.channels)).finish();
    await bytes.readRest();
    file ??= await target.close();
    const [otherwise, sha256] = await Promise.all([
      container === 'wav' ? readOtherwise(file) : null,
      bytes.sha256(),
    ]);
    return { file, frames, measurement, digest: digest?.digest() ?? null, sha256, otherwise };
  } finally {
    bytes.close();
  }
}

type Start = (sound: { rateHz: number; channels: number }) => void;

const chunkFrames = 131_072;

/** The audio of a WAV; its samples as they stand in the file go into the digest. */
async function* readWav(bytes: HashedBytes, start: Start, digest: PcmDigest): AsyncGenerator<Planar> {
  const info = await readWavInfo(bytes);
  start(info);
  for (let from = 0; from < info.frames; from += chunkFrames) {
    const count = Math.min(chunkFrames, info.frames - from) * info.frameBytes;
    const samples = await bytes.read(info.dataOffset + from * info.frameBytes, count);
    digest.update(samples);
    yield decodeFrames(samples, info);
  }
}

/** What a reader that is not ours finds different in a WAV: in its header, or at places all over it. */
export async function readOtherwise(file: File): Promise<string | null> {
  const source = new BlobBytes(file);
  const info = await readWavInfo(source);
  const last = Math.max(0, info.frames - spotFrames);
  const places = Array.from({ length: spotCount }, (_, i) => Math.floor((last * i) / (spotCount - 1)));
  const { rateHz, channels, frames, spots } = await spotsByBrowser(
    new File([file], 'file.wav'),
    places,
    spotFrames,
  );
  if (rateHz !== info.rateHz || channels !== info.channels || frames !== info.frames)
    return `Another reader finds ${frames} frames of ${channels} channels at ${rateHz} Hz in it.`;
  for (const { at, audio } of spots) {
    const ours = await readWavFrames(source, info, at, audio[0].length);
    const same = ours.every((samples, channel) => samples.every((sample, i) => sample === audio[channel][i]));
    if (!same || ours[0].length !== audio[0].length)
      return `Another reader finds other samples in it at ${(at / rateHz).toFixed(2)} s.`;
  }
  return null;
}
