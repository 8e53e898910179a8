import { say } from '@/texts/say';
import { BlobReader, TextReader, ZipReader, ZipWriter } from '@zip.js/zip.js';
import { blockFrames } from '@/core/base/audio';
import { ParolaError, cancelled, toParolaError } from '@/core/base/errors';
import { filmFileName, manifestName, parseManifest, sourceFileName } from '@/core/formats/projectManifest';
import { WavEncoder, wavHeader, type WavFormat } from '@/core/formats/wavWriter';
import { BlockReader } from '@/storage/blockReader';
import type { SourceRecord } from '@/storage/schema';
import { filmFile } from '@/storage/films';
import type { ExportJobs, HeldElsewhere, WrittenFile } from './exportJobs';
import { manifestText, readEntries } from '@/core/formats/projectArchive';
import type { JobContext } from './protocol';
import { manifestOf, projectToSave } from './projectRecords';
import { ScratchFile } from './scratchFile';

const blocksPerChunk = 16;
const plain = { level: 0, useWebWorkers: false } as const;

/**
 * Writes a project with everything in it to one file: the manifest, and each source as a 32-bit float WAV.
 * Streams.
 */
export async function saveProjectFile(
  { projectId, fileName, films, elsewhere }: ExportJobs['saveProject']['input'],
  context: JobContext,
): Promise<WrittenFile & { holds: string[] }> {
  const { project, parts, sources: all } = await projectToSave(projectId);
  const earlier = neededOf(elsewhere, all);
  const apart = new Set(earlier.flatMap(({ sources: ids }) => ids));
  const sources = all.filter(({ id }) => !apart.has(id));
  const target = await ScratchFile.create();
  try {
    const writer = new ZipWriter(
      new WritableStream<Uint8Array>({ write: (bytes) => target.write(bytes) }),
      plain,
    );
    await writer.add(
      manifestName,
      new TextReader(
        JSON.stringify(
          {
            ...(await manifestOf(project, parts, all)),
            savedAt: Date.now(),
            ...(earlier.length > 0 && { elsewhere: earlier }),
          },
          null,
          1,
        ),
      ),
    );
    const kept = films ? await filmsOf(sources) : [];
    const total =
      sources.reduce((sum, source) => sum + source.frames, 0) +
      kept.reduce((sum, { file }) => sum + file.size / bytesPerFrame, 0);
    let done = 0;
    for (const source of sources) {
      const advance = (frames: number) => context.progress((done += frames) / total, source.name);
      const stream = wavStream(source, advance, context.signal);
      await writer.add(sourceFileName(source.id), stream, {
        zip64: source.frames * 4 * source.channels > 4e9,
      });
    }
    for (const { id, file } of kept) {
      if (context.signal.aborted) throw cancelled();
      await writer.add(filmFileName(id), file.stream(), { zip64: file.size > 4e9, signal: context.signal });
      context.progress((done += file.size / bytesPerFrame) / total, file.name);
    }
    await writer.close();
    const file = await target.close();
    await checkWritten(file, sources, kept);
    return { path: target.path, fileName, bytes: file.size, holds: sources.map(({ id }) => id) };
  } catch (error) {
    await target.discard();
    throw error;
  }
}

/** The earlier files without which this one cannot be opened, each recording in one of them. */
function neededOf(elsewhere: readonly HeldElsewhere[], sources: readonly SourceRecord[]) {
  const wanted = new Set(sources.map(({ id }) => id));
  return elsewhere.flatMap(({ file, sources: ids }) => {
    const held = ids.filter((id) => wanted.delete(id));
    return held.length > 0 ? [{ file, sources: held }] : [];
  });
}

/**
 * Reads a written project file's contents back: its manifest as it is read when it is opened, and that every
 * source is there in its length. Throws when it could not be opened again.
 */
async function checkWritten(
  file: File,
  sources: readonly SourceRecord[],
  films: readonly KeptFilm[],
): Promise<void> {
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false, checkSignature: true });
  try {
    const entries = await readEntries(zip, file.size);
    parseManifest(await manifestText(entries), (id) => id);
    for (const source of sources) {
      const found = entries.get(sourceFileName(source.id))?.uncompressedSize ?? 0;
      if (found < source.frames * source.channels * 4)
        throw new ParolaError('damaged-file', say`the audio of “${source.name}” is not whole in it`);
    }
    for (const { id, file: film } of films)
      if (entries.get(filmFileName(id))?.uncompressedSize !== film.size)
        throw new ParolaError('damaged-file', say`the picture “${film.name}” is not whole in it`);
  } catch (error) {
    const { message } = toParolaError(error);
    throw new ParolaError(
      'damaged-file',
      say`The project file that was written cannot be opened again (${message}), so it is not kept. Nothing in the project has changed; save it again.`,
    );
  } finally {
    await zip.close();
  }
}

interface KeptFilm {
  id: string;
  file: File;
}

/** As far as progress goes, a frame of audio is as much as so many bytes of a film. */
const bytesPerFrame = 4;

/** The moving pictures that are on this machine, by the recordings of their sound. */
async function filmsOf(sources: readonly SourceRecord[]): Promise<KeptFilm[]> {
  const found: KeptFilm[] = [];
  for (const { id, film } of sources) {
    const file = film && (await filmFile(id));
    if (file) found.push({ id, file });
  }
  return found;
}

/** A source as the bytes of a 32-bit float WAV. */
export function wavStream(
  source: Pick<SourceRecord, 'id' | 'rateHz' | 'channels' | 'frames'>,
  advance: (frames: number) => void,
  signal: AbortSignal,
) {
  const { rateHz, channels, frames } = source;
  const format: WavFormat = { encoding: 'float32', rateHz, channels, dither: 'none' };
  const encoder = new WavEncoder(format);
  const reader = new BlockReader([source]);
  let at = 0;
  return new ReadableStream<Uint8Array>({
    start: (controller) => controller.enqueue(wavHeader(format, frames)),
    async pull(controller) {
      if (signal.aborted) throw cancelled();
      const count = Math.min(blocksPerChunk * blockFrames, frames - at);
      if (count === 0) return controller.close();
      const audio = Array.from({ length: channels }, () => new Float32Array(count));
      for (let channel = 0; channel < channels; channel++) {
        await reader.read(source.id, channel, at, count, audio[channel], 0);
      }
      controller.enqueue(encoder.process(audio));
      at += count;
      advance(count);
    },
  });
}
