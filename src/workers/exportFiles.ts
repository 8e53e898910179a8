import { ZipWriter } from '@zip.js/zip.js';
import { cancelled } from '@/core/base/errors';
import { fileFrames, writeAtFileRate, type SoundFileSettings } from '@/core/formats/soundFile';
import { mistakeIn } from '@/core/delivery/measureWritten';
import type { FollowableContainer } from '@/core/formats/sameHeader';
import { encoders } from './encoders';
import type { ArchiveInput, CheckedFile, ExportJobs, WriteInput, WrittenFile } from './exportJobs';
import { FolderFile } from './folderFile';
import type { JobContext } from './protocol';
import { renderAhead } from './renderAhead';
import { FollowedTarget } from './followedTarget';
import { readBack } from './readBack';
import { ScratchFile, clearScratch, openScratch as openScratchFile, removeScratch } from './scratchFile';

const chunkSeconds = 2;
const dayMs = 86_400_000;

/** Files of earlier exports that have long been handed over. */
export const clearOldFiles = () => clearScratch(dayMs);

/**
 * Containers whose audio is decoded while it is written. A WAV is written as fast as it is rendered, and
 * decoding it takes no time to speak of; others say at the end how they are to be read.
 */
const followable: ReadonlySet<string> = new Set<FollowableContainer>(['flac', 'mp3']);
/** What writing is of the work: the rest is reading back. */
const writingShare = { followed: 0.95, other: 0.7 };

/** Renders and writes one file, then reads it back. Cancelling leaves nothing behind. */
export async function writeFile(
  { item, sources, folder }: WriteInput,
  { signal, progress }: JobContext,
): Promise<CheckedFile> {
  await clearOldFiles();
  const { format, range, broadcast, marks, tags, cover, fileName, sounding } = item;
  const { rateHz } = sounding;
  const frames = range.to - range.from;
  const say = (done: number) => {
    if (signal.aborted) throw cancelled();
    progress(done, fileName);
  };
  const follows = followable.has(format.container);
  const share = follows ? writingShare.followed : writingShare.other;
  const settings: SoundFileSettings = { format, rateHz, frames, broadcast, marks, tags, cover };
  async function* watched() {
    let done = 0;
    const chunkFrames = chunkSeconds * rateHz;
    for await (const audio of renderAhead({ sounding, sources, range, chunkFrames, settings })) {
      say((done / Math.max(1, fileFrames(settings))) * share);
      yield audio;
      done += audio[0].length;
    }
  }
  const plain = await (folder ? FolderFile.create(folder) : ScratchFile.create());
  const followed = follows ? new FollowedTarget(plain, settings) : null;
  const target = followed ?? plain;
  try {
    const written = await writeAtFileRate(watched(), settings, target, encoders);
    const sayReading = (done: number) => say(share + done * (1 - share));
    const heard = (await followed?.followed()) ?? null;
    const { file, ...read } = await readBack(target, settings, sayReading, heard);
    return {
      path: target.path,
      fileName,
      bytes: file.size,
      sha256: read.sha256,
      measurement: read.measurement,
      mistake: mistakeIn(read, written, settings) ?? read.otherwise,
    };
  } catch (error) {
    await target.discard();
    throw error;
  }
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
