import { decimal, say } from '@/texts/say';
import { readWavFrames, readWavInfo } from '@/core/formats/wavReader';
import { sameHeader, type FollowableContainer } from '@/core/formats/sameHeader';
import { fileFrames, type SoundFileSettings } from '@/core/formats/soundFile';
import { BlobBytes } from './blobBytes';
import type { Followed } from './followedTarget';
import { Fingerprint } from './following';
import { HashedBytes } from './hashedBytes';
import { measureWritten, type ReadSound } from '@/core/delivery/measureWritten';
import { decodeByBrowser, spotsByBrowser } from './mediaFile';
import type { WrittenTarget } from './scratchFile';

export interface ReadFile extends ReadSound {
  file: File;
  sha256: string;
  /** What another reader finds different; null for nothing, or where there is none. */
  otherwise: string | null;
}

const spotCount = 100;
const spotFrames = 512;
const windowBytes = 2_097_152;

type Target = Pick<WrittenTarget, 'readable' | 'close'>;

/**
 * Reads a written file back: its samples, their checksum, what they measure, and the checksum of the file.
 * What was decoded while the file was written is taken over where the bytes on disk are those that were
 * decoded; then the file is read for its checksum and that comparison. Otherwise all comes from one reading.
 * MP3 and FLAC are decoded by libraries and code that have nothing to do with how they were written, Opus by
 * the browser; a WAV's header and its samples at a hundred places are read by the container library as well.
 */
export async function readBack(
  target: Target,
  settings: SoundFileSettings,
  say: (done: number) => void,
  followed: Followed | null = null,
): Promise<ReadFile> {
  const { container } = settings.format;
  const known = followed && (await compared(target, container as FollowableContainer, followed, say));
  const read = known ?? (await decoded(target, settings, say));
  return { ...read, otherwise: container === 'wav' ? await readOtherwise(read.file) : null };
}

type Read = Omit<ReadFile, 'otherwise'>;

/** Null where the disk holds something else than what was decoded. */
async function compared(
  target: Target,
  container: FollowableContainer,
  { head, decodedHead, bytes: size, fingerprint, ...sound }: Followed,
  say: (done: number) => void,
): Promise<Read | null> {
  const found = await Fingerprint.create();
  const bytes = new HashedBytes(await target.readable());
  try {
    const start = await bytes.read(0, head.length);
    const sameStart = start.length === head.length && start.every((byte, i) => byte === head[i]);
    if (bytes.size !== size || !sameStart) return null;
    if (!(await sameHeader(container, decodedHead, head, sound.frames))) return null;
    for (let at = 0; at < size; at += windowBytes) {
      found.update(await bytes.read(at, windowBytes));
      say(at / size);
    }
    if (found.digest() !== fingerprint) return null;
    await bytes.readRest();
    const { frames, measurement, digest } = sound;
    return { frames, measurement, digest, sha256: await bytes.sha256(), file: await target.close() };
  } finally {
    bytes.close();
  }
}

async function decoded(
  target: Target,
  settings: SoundFileSettings,
  say: (done: number) => void,
): Promise<Read> {
  const expected = Math.max(1, fileFrames(settings));
  const onFrames = (frames: number) => say(Math.min(1, frames / expected));
  // The browser's decoder takes a file; everything else reads where it was written.
  const opus = settings.format.container === 'opus' ? await target.close() : null;
  const bytes = new HashedBytes(opus ? new BlobBytes(opus) : await target.readable());
  try {
    const sound = await measureWritten(
      bytes,
      settings,
      onFrames,
      opus ? (start) => decodeByBrowser(new File([opus], 'file.opus'), start) : undefined,
    );
    await bytes.readRest();
    const file = opus ?? (await target.close());
    return { ...sound, file, sha256: await bytes.sha256() };
  } finally {
    bytes.close();
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
    return say`Another reader finds ${frames} frames of ${channels} channels at ${rateHz} Hz in it.`;
  for (const { at, audio } of spots) {
    const ours = await readWavFrames(source, info, at, audio[0].length);
    const same = ours.every((samples, channel) => samples.every((sample, i) => sample === audio[channel][i]));
    if (!same || ours[0].length !== audio[0].length)
      return say`Another reader finds other samples in it at ${decimal(at / rateHz, 2)} s.`;
  }
  return null;
}
