import { language, say } from '@/texts/say';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { formatTime } from '@/core/base/units';
import type { Manifest } from '@/core/formats/projectManifest';
import { storedBytes } from '@/core/keep/space';
import { heardFramesOf } from '@/core/timeline/timeline';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { write } from '@/storage/database';
import { newId, newProject } from '@/storage/projects';
import type { PartRecord, SourceRecord } from '@/storage/schema';
import { writeFilm } from '@/storage/films';
import { createSource } from '@/storage/sources';
import type { JobContext } from './protocol';
import { WavSink, otherAudio, type ToldAudio } from './wavSink';

/** A file of an archive or of a folder. */
export interface HeldFile {
  bytes: number;
  pipeTo(target: WritableStream<Uint8Array<ArrayBuffer>>, signal: AbortSignal): Promise<unknown>;
}

/** Where the audio and the films of a manifest are, by the ids of their recordings. */
export interface Holding {
  audioOf: (sourceId: string) => HeldFile | undefined;
  filmOf: (sourceId: string) => HeldFile | undefined;
  /** Told in messages: “this project file”, “this folder”. */
  where: string;
  /** What is not there, or not whole, is silence; otherwise nothing is opened. */
  silenceForMissing: boolean;
}

/** `left` names recordings of which something is silence. */
export interface ImportedProject {
  projectId: string;
  name: string;
  left: string[];
}

/**
 * Stores a manifest with its audio as a project of its own: recordings first, marked as being imported, then
 * everything else in one transaction. The caller holds the lock of openings, and sweeps up after a failure.
 */
export async function importManifest(
  manifest: Manifest,
  holding: Holding,
  context: JobContext,
): Promise<ImportedProject> {
  const project = newProject(manifest.project.name, manifest.project.spec, manifest.project.rateHz);
  const partIds = new Map(manifest.parts.map((part) => [part.id, newId()]));
  const total = manifest.sources.reduce((sum, source) => sum + source.frames, 0);
  await checkRoom(manifest);
  for (const source of manifest.sources) checkHeld(source, holding);
  const left: string[] = [];
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
    const missing = await importSource(record, holding, context.signal, (frames) =>
      context.progress((done += frames) / total, source.name),
    );
    if (missing > 0) left.push(silenceTold(record, missing, holding.where));
    await importFilm(record, holding.filmOf(source.id), context.signal);
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
  return { projectId: project.id, name: project.name, left };
}

/** A film that was left out of the file is asked for where it is to be seen. */
async function importFilm(
  { id, film }: SourceRecord,
  held: HeldFile | undefined,
  signal: AbortSignal,
): Promise<void> {
  if (!film || !held) return;
  const { readable, writable } = new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>();
  await Promise.all([held.pipeTo(writable, signal), writeFilm(id, readable, { signal })]);
}

/** Says before anything is written when there is no room for it. */
async function checkRoom({ sources }: Manifest): Promise<void> {
  const needed = sources.reduce((sum, source) => sum + storedBytes(source), 0);
  const { quota, usage = 0 } = await navigator.storage.estimate();
  if (quota === undefined || needed <= quota - usage) return;
  const megabytes = (bytes: number) => Math.max(0, Math.round(bytes / 1e6)).toLocaleString(language);
  throw new ParolaError(
    'storage-full',
    say`This project needs ${megabytes(needed)} MB, and this browser allows ${megabytes(quota - usage)} MB more. Delete a project or free disk space, then open it again.`,
  );
}

/** Beside its samples a WAV file has a header and at most some marks. */
const mostHeaderBytes = 1_000_000;
/** The widest samples a WAV file can have: 64-bit floating point. */
const mostSampleBytes = 8;

/** A file holds what the manifest says of it, as far as its size tells before anything is written. */
function checkHeld(source: ToldAudio & { id: string }, { audioOf, where, silenceForMissing }: Holding) {
  const held = audioOf(source.id);
  if (!held && !silenceForMissing) {
    throw new ParolaError(
      'damaged-file',
      say`The audio of “${source.name}” is missing from ${where}. Nothing was opened; try another copy.`,
    );
  }
  if (held && held.bytes > source.frames * source.channels * mostSampleBytes + mostHeaderBytes)
    throw otherAudio(source);
}

/** Stores the audio of a recording; resolves to how many of its frames were not there and are silence. */
async function importSource(
  record: SourceRecord,
  { audioOf, where, silenceForMissing }: Holding,
  signal: AbortSignal,
  advance: (frames: number) => void,
): Promise<number> {
  const held = audioOf(record.id);
  const sink = new WavSink(held?.bytes ?? 0, record, advance);
  const stream = new WritableStream<Uint8Array<ArrayBuffer>>({ write: (bytes) => sink.write(bytes) });
  const read = async () => {
    if (!silenceForMissing) {
      await held?.pipeTo(stream, signal);
      return sink.close();
    }
    try {
      await held?.pipeTo(stream, signal);
    } catch (error) {
      if (!isDamage(error)) throw error;
    }
    return sink.closeWithSilence();
  };
  const frames = await read().finally(() => sink.settled());
  if (silenceForMissing) return record.frames - frames;
  if (frames !== record.frames) {
    throw new ParolaError(
      'damaged-file',
      say`The audio of “${record.name}” is cut short in ${where} (${frames} of ${record.frames} frames). Nothing was opened; try another copy.`,
    );
  }
  return 0;
}

const isDamage = (error: unknown) => ['damaged-file', 'not-audio'].includes(toParolaError(error).code);

const silenceTold = ({ name, frames, rateHz }: SourceRecord, missing: number, where: string) =>
  missing === frames
    ? say`The audio of “${name}” is not in ${where}: it is silent in the project. Everything else is there.`
    : say`The audio of “${name}” is not whole in ${where}: ${formatTime(missing / rateHz, true)} of it are silent in the project.`;
