import { BlobReader, TextReader, ZipReader, ZipWriter } from '@zip.js/zip.js';
import { blockFrames } from '@/core/base/audio';
import { ParolaError, cancelled, toParolaError } from '@/core/base/errors';
import {
  filmFileName,
  manifestName,
  manifestVersion,
  parseManifest,
  sourceFileName,
  type Manifest,
} from '@/core/formats/projectManifest';
import { WavEncoder, wavHeader, type WavFormat } from '@/core/formats/wavWriter';
import { sourcesOf } from '@/core/timeline/timeline';
import { plainTimeline, type PlainTimeline } from '@/core/timeline/stored';
import { sourcesOfStep, type Step } from '@/core/timeline/history';
import { BlockReader } from '@/storage/blockReader';
import { checksOfProject } from '@/storage/checks';
import { allOf, database } from '@/storage/database';
import { loadProject } from '@/storage/projects';
import type { PartRecord, ProjectRecord, SourceRecord } from '@/storage/schema';
import { filmFile } from '@/storage/films';
import { sourcesOfProject } from '@/storage/sources';
import { partToday } from '@/storage/upgrade';
import type { ExportJobs, WrittenFile } from './exportJobs';
import { manifestText, readEntries } from '@/core/formats/projectArchive';
import type { JobContext } from './protocol';
import { ScratchFile } from './scratchFile';

const blocksPerChunk = 16;
const plain = { level: 0, useWebWorkers: false } as const;

/**
 * Writes a project with everything in it to one file: the manifest, and each source as a 32-bit float WAV.
 * Streams.
 */
export async function saveProjectFile(
  { projectId, fileName, films }: ExportJobs['saveProject']['input'],
  context: JobContext,
): Promise<WrittenFile> {
  const { project, parts, sources } = await projectToSave(projectId);
  const target = await ScratchFile.create();
  try {
    const writer = new ZipWriter(
      new WritableStream<Uint8Array>({ write: (bytes) => target.write(bytes) }),
      plain,
    );
    await writer.add(
      manifestName,
      new TextReader(JSON.stringify(await manifestOf(project, parts, sources), null, 1)),
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
    return { path: target.path, fileName, bytes: file.size };
  } catch (error) {
    await target.discard();
    throw error;
  }
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
        throw new ParolaError('damaged-file', `the audio of “${source.name}” is not whole in it`);
    }
    for (const { id, file: film } of films)
      if (entries.get(filmFileName(id))?.uncompressedSize !== film.size)
        throw new ParolaError('damaged-file', `the picture “${film.name}” is not whole in it`);
  } catch (error) {
    const { message } = toParolaError(error);
    throw new ParolaError(
      'damaged-file',
      `The project file that was written cannot be opened again (${message}), so it is not kept. Nothing in the project has changed; save it again.`,
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

type PartWithHistory = Omit<PartRecord, 'timeline'> & { timeline: PlainTimeline; history: Step[] };

/**
 * A project with all that can be heard or undone in it: a take that was deleted stays in for as long as a
 * sheet or a step names it.
 */
async function projectToSave(projectId: string) {
  const { project, parts: records } = await loadProject(projectId);
  const db = await database();
  const parts: PartWithHistory[] = [];
  const used = new Set<string>();
  for (const part of records) {
    const steps = (await db.getAll('history', allOf(part.id))).map(({ step }) => step);
    const { timeline, history, historyAt } = partToday(part, steps);
    for (const source of sourcesOf(timeline)) used.add(source);
    for (const step of history) for (const source of sourcesOfStep(step)) used.add(source);
    parts.push({ ...part, timeline: plainTimeline(timeline), history, historyAt });
  }
  const sources = (await sourcesOfProject(projectId)).filter(
    ({ id, state, deleted }) => used.has(id) || (state === 'kept' && !deleted),
  );
  return { project, parts, sources };
}

async function manifestOf(
  project: ProjectRecord,
  parts: readonly PartWithHistory[],
  sources: readonly SourceRecord[],
): Promise<Manifest> {
  return {
    format: 'parola-project',
    version: manifestVersion,
    project: {
      name: project.name,
      spec: project.spec,
      rateHz: project.rateHz,
      createdAt: project.createdAt,
      joinMs: project.joinMs,
      routes: project.routes,
      recording: project.recording,
      levels: project.levels,
    },
    parts: parts.map(
      ({ id, name, script, currentLine, caret, historyAt, timeline, tones, refused, history }) => ({
        tones,
        refused,
        id,
        name,
        script,
        currentLine,
        caret,
        historyAt,
        timeline,
        history,
      }),
    ),
    sources: sources.map(
      ({ projectIds: _projects, state: _state, placement: _placed, own: _own, ...source }) => source,
    ),
    checks: (await checksOfProject(project.id)).map(({ id: _id, projectId: _project, ...check }) => check),
  };
}

function wavStream(source: SourceRecord, advance: (frames: number) => void, signal: AbortSignal) {
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
