import { BlobReader, ZipReader, type Entry } from '@zip.js/zip.js';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { filmFileName, parseManifest, sourceFileName, type Manifest } from '@/core/formats/projectManifest';
import { heardFramesOf } from '@/core/timeline/timeline';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { database, write } from '@/storage/database';
import { unlessOpening, whileOpening } from '@/storage/lock';
import { newId, newProject } from '@/storage/projects';
import type { PartRecord, SourceRecord } from '@/storage/schema';
import { sweepFilms, writeFilm } from '@/storage/films';
import { createSource, deleteSource, sourceRecord } from '@/storage/sources';
import { manifestText, notWhole, readEntries } from '@/core/formats/projectArchive';
import type { JobContext } from './protocol';
import { WavSink, otherAudio, type ToldAudio } from './wavSink';

/** `left` says in sentences what could not be taken over. */
export interface OpenedProject {
  projectId: string;
  name: string;
  left: string[];
}

/**
 * Opens a project file as a new project on this machine. Whatever fails, nothing half opened is left behind.
 */
export async function openProjectFile({ file }: { file: File }, context: JobContext): Promise<OpenedProject> {
  return whileOpening(async () => {
    await sweepLeftovers();
    const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false, checkSignature: true });
    try {
      const entries = await readEntries(zip, file.size);
      const ids = new Map<string, string>();
      const { manifest, left } = parseManifest(await manifestText(entries), (id) => {
        if (!ids.has(id)) ids.set(id, newId());
        return ids.get(id) ?? id;
      });
      const oldIds = new Map([...ids].map(([before, after]) => [after, before]));
      const opened = await importManifest(
        manifest,
        (id) => entries.get(sourceFileName(oldIds.get(id) ?? id)),
        (id) => entries.get(filmFileName(oldIds.get(id) ?? id)),
        context,
      );
      return { ...opened, left };
    } catch (error) {
      await sweepLeftovers();
      throw asDamage(error);
    } finally {
      await zip.close().catch(() => undefined);
    }
  });
}

/** Errors of the archive itself come as plain Errors of the zip library. */
function asDamage(error: unknown): ParolaError {
  const known = toParolaError(error);
  return known.code === 'internal' ? notWhole() : known;
}

async function importManifest(
  manifest: Manifest,
  entryOf: (sourceId: string) => Entry | undefined,
  filmOf: (sourceId: string) => Entry | undefined,
  context: JobContext,
): Promise<{ projectId: string; name: string }> {
  const project = newProject(manifest.project.name, manifest.project.spec, manifest.project.rateHz);
  const partIds = new Map(manifest.parts.map((part) => [part.id, newId()]));
  const total = manifest.sources.reduce((sum, source) => sum + source.frames, 0);
  await checkRoom(manifest);
  for (const source of manifest.sources) checkEntry(source, entryOf(source.id));
  let done = 0;
  const records: SourceRecord[] = [];
  for (const source of manifest.sources) {
    const record: SourceRecord = {
      ...source,
      projectIds: [project.id],
      partId: partIds.get(source.partId) ?? source.partId,
      state: 'importing',
    };
    await createSource(record);
    await importSource(record, entryOf(source.id), context.signal, (frames) =>
      context.progress((done += frames) / total, source.name),
    );
    await importFilm(record, filmOf(source.id), context.signal);
    records.push(record);
  }
  const parts = manifest.parts.map(({ history: _history, timeline: plain, ...part }): PartRecord => {
    const timeline = loadTimeline(plain);
    return {
      ...part,
      id: partIds.get(part.id) ?? part.id,
      projectId: project.id,
      timeline: storeTimeline(timeline),
      heardFrames: heardFramesOf(timeline),
    };
  });
  await write(['projects', 'parts', 'history', 'sources', 'checks'], async (tx) => {
    await tx.objectStore('projects').add({
      ...project,
      ...manifest.project,
      name: project.name,
      partIds: parts.map((part) => part.id),
    });
    for (const part of parts) await tx.objectStore('parts').add(part);
    for (const [index, part] of manifest.parts.entries()) {
      for (const [seq, step] of part.history.entries()) {
        await tx.objectStore('history').add({ partId: parts[index].id, seq, step });
      }
    }
    for (const check of manifest.checks ?? []) {
      await tx.objectStore('checks').add({ ...check, id: newId(), projectId: project.id });
    }
    for (const record of records) await tx.objectStore('sources').put({ ...record, state: 'kept' });
  });
  return { projectId: project.id, name: project.name };
}

/** A film that was left out of the file is asked for where it is to be seen. */
async function importFilm(
  { id, film }: SourceRecord,
  entry: Entry | undefined,
  signal: AbortSignal,
): Promise<void> {
  if (!film || !entry || entry.directory) return;
  const { readable, writable } = new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>();
  await Promise.all([entry.getData(writable, { signal }), writeFilm(id, readable, { signal })]);
}

/** What a frame takes in storage, with its peaks: 32-bit samples, and three values for each 256. */
const bytesPerSample = 4.05;

/** Says before anything is written when there is no room for it. */
async function checkRoom({ sources }: Manifest): Promise<void> {
  const needed = sources.reduce(
    (sum, { frames, channels, film }) => sum + frames * channels * bytesPerSample + (film?.bytes ?? 0),
    0,
  );
  const { quota, usage = 0 } = await navigator.storage.estimate();
  if (quota === undefined || needed <= quota - usage) return;
  const megabytes = (bytes: number) => Math.max(0, Math.round(bytes / 1e6)).toLocaleString('en');
  throw new ParolaError(
    'storage-full',
    `This project needs ${megabytes(needed)} MB, and this browser allows ${megabytes(quota - usage)} MB more. Delete a project or free disk space, then open it again.`,
  );
}

/** Beside its samples a WAV file has a header and at most some marks. */
const mostHeaderBytes = 1_000_000;
/** The widest samples a WAV file can have: 64-bit floating point. */
const mostSampleBytes = 8;

/** An entry holds what the manifest says of it, as far as its size tells before anything is written. */
function checkEntry(
  source: ToldAudio,
  entry: Entry | undefined,
): asserts entry is Entry & { directory: false } {
  if (!entry || entry.directory) {
    throw new ParolaError(
      'damaged-file',
      `The audio of “${source.name}” is missing from this project file. Nothing was opened; try another copy.`,
    );
  }
  if (entry.uncompressedSize > source.frames * source.channels * mostSampleBytes + mostHeaderBytes)
    throw otherAudio(source);
}

async function importSource(
  record: SourceRecord,
  entry: Entry | undefined,
  signal: AbortSignal,
  advance: (frames: number) => void,
) {
  checkEntry(record, entry);
  const sink = new WavSink(entry.uncompressedSize, record, advance);
  const stream = new WritableStream<Uint8Array<ArrayBuffer>>({ write: (bytes) => sink.write(bytes) });
  const reading = entry.getData(stream, { signal }).then(() => sink.close());
  const frames = await reading.finally(() => sink.settled());
  if (frames !== record.frames) {
    throw new ParolaError(
      'damaged-file',
      `The audio of “${record.name}” is cut short in this project file (${frames} of ${record.frames} frames). Nothing was opened; try another copy.`,
    );
  }
}

/**
 * Removes what an opening that was cut off, by a reload or a crash, has left; not while one is going on in
 * another tab.
 */
export async function sweepOpenings(): Promise<null> {
  await unlessOpening(async () => {
    await sweepLeftovers();
    await sweepFilms(async (id) => (await sourceRecord(id)) !== undefined);
  });
  return null;
}

/** The caller holds the import lock. */
async function sweepLeftovers() {
  const sources = await (await database()).getAll('sources');
  const leftovers = sources.filter((source) => source.state === 'importing');
  if (leftovers.length === 0) return;
  await write(['sources', 'blocks', 'peaks'], async (tx) => {
    for (const source of leftovers) await deleteSource(tx, source.id);
  });
}
