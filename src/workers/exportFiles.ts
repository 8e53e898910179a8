import { ZipWriter } from '@zip.js/zip.js';
import { createSHA256 } from 'hash-wasm';
import { cancelled } from '@/core/base/errors';
import { readSound } from '@/core/formats/readSound';
import { digestOfRead } from '@/core/formats/pcmDigest';
import {
  fileFrames,
  wavFormat,
  writeSoundFile,
  type SoundFileSettings,
  type WrittenSound,
} from '@/core/formats/soundFile';
import { isLossless } from '@/core/specs/fileFormat';
import { Meter, type Measurement } from '@/core/loudness/measure';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { BlockReader } from '@/storage/blockReader';
import { BlobBytes } from './blobBytes';
import { encoders } from './encoders';
import type { ArchiveInput, CheckedFile, ExportJobs, WriteInput, WrittenFile } from './exportJobs';
import { FolderFile } from './folderFile';
import { decodeByBrowser } from './mediaFile';
import type { JobContext } from './protocol';
import { ScratchFile, clearScratch, openScratch as openScratchFile, removeScratch } from './scratchFile';

const chunkSeconds = 2;
const dayMs = 86_400_000;

/** Files of earlier exports that have long been handed over. */
export const clearOldFiles = () => clearScratch(dayMs);

const hashBytes = 4_194_304;
/** Writing is most of the work; then the file is read back, and its checksum made. */
const writingShare = 0.7;
const readingShare = 0.25;

/** Renders and writes one file, then reads it back. Cancelling leaves nothing behind. */
export async function writeFile(
  { item, sources, folder }: WriteInput,
  { signal, progress }: JobContext,
): Promise<CheckedFile> {
  await clearOldFiles();
  const { format, range, broadcast, marks, tags, cover, fileName, sounding } = item;
  const { rateHz } = sounding;
  const frames = range.to - range.from;
  const part = new PartRenderer(sounding, new BlockReader(sources));
  const say = (done: number) => {
    if (signal.aborted) throw cancelled();
    progress(done, fileName);
  };
  async function* watched() {
    let done = 0;
    for await (const audio of part.stream({ delivering: format.channels }, range, chunkSeconds * rateHz)) {
      say((done / Math.max(1, frames)) * writingShare);
      yield audio;
      done += audio[0].length;
    }
  }
  const settings: SoundFileSettings = { format, rateHz, frames, broadcast, marks, tags, cover };
  const target = await (folder ? FolderFile.create(folder) : ScratchFile.create());
  try {
    const written = await writeSoundFile(watched(), settings, target, encoders);
    const file = await target.close();
    const read = await readBack(file, settings, (done) => say(writingShare + done * readingShare));
    const sha256 = await checksum(file, (done) =>
      say(writingShare + readingShare + done * (1 - writingShare - readingShare)),
    );
    return {
      path: target.path,
      fileName,
      bytes: file.size,
      sha256,
      measurement: read.measurement,
      mistake: mistakeIn(read, written, settings),
    };
  } catch (error) {
    await target.discard();
    throw error;
  }
}

type ReadSound = WrittenSound & { measurement: Measurement };

/**
 * Measures a written file through a decoder that has nothing to do with how it was written: MP3 and FLAC by
 * libraries and code of their own, WAV and Opus by the container library, AIFF by our reader.
 */
async function readBack(
  file: File,
  settings: SoundFileSettings,
  say: (done: number) => void,
): Promise<ReadSound> {
  const { format } = settings;
  const expected = fileFrames(settings);
  const digest = isLossless(format.container) ? await digestOfRead(wavFormat(format)) : null;
  let meter: Meter | null = null;
  let frames = 0;
  const start = (sound: { rateHz: number; channels: number }) => {
    meter = new Meter(sound.rateHz, sound.channels);
  };
  const audio =
    format.container === 'wav' || format.container === 'opus'
      ? decodeByBrowser(new File([file], `file.${format.container}`), start)
      : readSound(new BlobBytes(file), start);
  for await (const chunk of audio) {
    (meter as Meter | null)?.process(chunk);
    if (chunk.length === format.channels) digest?.process(chunk);
    frames += chunk[0].length;
    say(Math.min(1, frames / Math.max(1, expected)));
  }
  const measurement = ((meter as Meter | null) ?? new Meter(format.rateHz, format.channels)).finish();
  return { frames, measurement, digest: digest?.digest() ?? null };
}

function mistakeIn(read: ReadSound, written: WrittenSound, { format }: SoundFileSettings): string | null {
  const { rateHz, channels } = read.measurement;
  if (rateHz !== format.rateHz || channels !== format.channels)
    return `The file reads back with ${channels} channels at ${rateHz} Hz.`;
  if (format.container !== 'opus' && read.frames !== written.frames)
    return `The file reads back with ${read.frames} frames instead of ${written.frames}.`;
  if (read.digest !== written.digest)
    return 'The file does not read back sample by sample as it was written.';
  return null;
}

async function checksum(file: Blob, say: (done: number) => void): Promise<string> {
  const hash = await createSHA256();
  hash.init();
  for (let at = 0; at < file.size; at += hashBytes) {
    hash.update(new Uint8Array(await file.slice(at, at + hashBytes).arrayBuffer()));
    say(at / file.size);
  }
  return hash.digest('hex');
}

/** Puts files and texts into one archive, stored as they are: sound does not get smaller. */
export async function archiveFiles(
  { files, texts, archiveName }: ArchiveInput,
  { signal, progress }: JobContext,
): Promise<WrittenFile> {
  const target = await ScratchFile.create();
  try {
    const stream = new WritableStream<Uint8Array>({ write: (bytes) => target.write(bytes) });
    const writer = new ZipWriter(stream, { level: 0, useWebWorkers: false, signal });
    for (const [index, { path, fileName }] of files.entries()) {
      progress(index / files.length, archiveName);
      await writer.add(fileName, (await openScratchFile(path)).stream());
    }
    for (const { fileName, text } of texts) await writer.add(fileName, new Blob([text]).stream());
    await writer.close();
    const { size } = await target.close();
    await discardFiles({ paths: files.map(({ path }) => path), folder: null });
    return { path: target.path, fileName: archiveName, bytes: size };
  } catch (error) {
    await target.discard();
    throw error;
  }
}

export async function discardFiles({ paths, folder }: ExportJobs['discard']['input']): Promise<null> {
  const remove = (path: string) =>
    folder ? folder.removeEntry(path).catch(() => undefined) : removeScratch(path);
  await Promise.all(paths.map(remove));
  return null;
}
