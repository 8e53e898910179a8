import { say } from '@/texts/say';
import { createSHA256, sha256 } from 'hash-wasm';
import { cancelled, ParolaError } from '@/core/base/errors';
import { notAsWritten, toCopyError } from '@/core/keep/copyErrors';
import {
  aboutName,
  aboutText,
  audioBytes,
  audioFolder,
  audioPath,
  copyFolderName,
  filmFolder,
  filmPath,
  stateFolder,
  stateName,
  sumsName,
} from '@/core/keep/copyFolder';
import { copyStateText } from '@/core/keep/copyState';
import { sumsText, type CopiedFile } from '@/core/keep/sums';
import { copyRecord, storeCopyRecord, type CopyRecord } from '@/storage/copies';
import { filmFile } from '@/storage/films';
import type { SourceRecord } from '@/storage/schema';
import type { CopyJobs, CopyRoundResult } from './copyJobs';
import { CopiedAudio, hashesOf } from './copiedAudio';
import { sizesIn, subfolder, writeText } from './copyFiles';
import { manifestOf, projectToSave } from './projectRecords';
import type { JobContext } from './protocol';

/** Recordings that are being made and have been copied so far; by their ids. */
const begun = new Map<string, CopiedAudio>();

const emptyRecord = (name: string): CopyRecord => ({
  name,
  sequence: 0,
  files: [],
  at: null,
  manifest: null,
});

/** Lets go of what was begun, but for the recording that is being made. */
async function letGoOfBegun(live: string | null = null): Promise<void> {
  for (const [id, audio] of begun) {
    if (id === live) continue;
    begun.delete(id);
    await audio.giveUp();
  }
}

export async function copyRound(
  input: CopyJobs['round']['input'],
  context: JobContext,
): Promise<CopyRoundResult> {
  try {
    const result = await round(input, context);
    // A recording that was not kept has nothing to be copied for.
    await letGoOfBegun(input.live);
    return result;
  } catch (error) {
    await letGoOfBegun();
    throw toCopyError(error);
  }
}

async function round(
  { folder, projectId, freshly, damaged }: CopyJobs['round']['input'],
  context: JobContext,
): Promise<CopyRoundResult> {
  const { project, parts, sources } = await projectToSave(projectId);
  const record = (await copyRecord(projectId)) ?? emptyRecord(copyFolderName(project.name, projectId));
  const home = await subfolder(folder, record.name, true);
  const files = new Map(record.files);
  if (freshly) await forgetMissing(home, files);
  for (const path of damaged) files.delete(path);
  const store = () => storeCopyRecord(projectId, { ...record, files: [...files] });
  const films = await filmsHere(sources);
  const missing = sources.filter((source) => !isThere(source, files, films));
  const total = missing.reduce((sum, source) => sum + audioBytes(source) + (source.film?.bytes ?? 0), 0);
  let done = 0;
  for (const source of missing) {
    const advance = (bytes: number) => context.progress((done += bytes) / total, source.name);
    if (!files.has(audioPath(source.id)))
      files.set(audioPath(source.id), await copyAudio(home, source, context.signal, advance));
    const film = await copyFilm(home, source, files, context.signal, advance);
    if (film) files.set(filmPath(source.id), film);
    await store();
  }
  if (missing.length > 0 || freshly) {
    await writeText(home, aboutName, aboutText(project.name));
    await writeText(home, sumsName, sumsText(files));
  }
  const manifest = await manifestOf(project, parts, sources);
  const told = await sha256(JSON.stringify(manifest));
  const at = Date.now();
  if (told !== record.manifest || missing.length > 0 || freshly) {
    const { sequence } = record;
    const text = copyStateText(manifest, { sequence, savedAt: at, files });
    await writeText(await subfolder(home, stateFolder, true), stateName(sequence), text);
    record.sequence++;
    record.manifest = told;
  }
  record.at = at;
  await store();
  const bytes = [...files.values()].reduce((sum, file) => sum + file.bytes, 0);
  return { files: files.size, bytes, at };
}

/** What was copied and has gone from the folder, or has another size there, is copied again. */
async function forgetMissing(home: FileSystemDirectoryHandle, files: Map<string, CopiedFile>) {
  const sizes = new Map([...(await sizesIn(home, audioFolder)), ...(await sizesIn(home, filmFolder))]);
  for (const [path, { bytes }] of files) if (sizes.get(path) !== bytes) files.delete(path);
}

/** Ids of the recordings whose film is on this machine; one that was left out of a project file is not. */
async function filmsHere(sources: readonly SourceRecord[]): Promise<Set<string>> {
  const here = new Set<string>();
  for (const { id, film } of sources) if (film && (await filmFile(id))) here.add(id);
  return here;
}

const isThere = (source: SourceRecord, files: ReadonlyMap<string, CopiedFile>, films: ReadonlySet<string>) =>
  files.get(audioPath(source.id))?.bytes === audioBytes(source) &&
  (!films.has(source.id) || files.has(filmPath(source.id)));

async function copyAudio(
  home: FileSystemDirectoryHandle,
  source: SourceRecord,
  signal: AbortSignal,
  advance: (bytes: number) => void,
): Promise<CopiedFile> {
  let audio = begun.get(source.id);
  begun.delete(source.id);
  if (audio?.unfitFor(source.frames)) {
    await audio.giveUp();
    audio = undefined;
  }
  audio ??= await CopiedAudio.begin(await subfolder(home, audioFolder, true), source, source.frames);
  try {
    return await audio.finish(source.frames, signal, advance);
  } catch (error) {
    await audio.giveUp();
    throw error;
  }
}

/** Null where there is nothing to copy: a film that is not on this machine is asked for elsewhere. */
async function copyFilm(
  home: FileSystemDirectoryHandle,
  { id, film, name }: SourceRecord,
  files: ReadonlyMap<string, CopiedFile>,
  signal: AbortSignal,
  advance: (bytes: number) => void,
): Promise<CopiedFile | null> {
  const file = film && !files.has(filmPath(id)) ? await filmFile(id) : null;
  if (!file) return null;
  const handle = await (await subfolder(home, filmFolder, true)).getFileHandle(id, { create: true });
  const writable = await handle.createWritable();
  const hash = await createSHA256();
  const hashed = new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>({
    transform(bytes, controller) {
      hash.update(bytes);
      advance(bytes.length);
      controller.enqueue(bytes);
    },
  });
  await file.stream().pipeThrough(hashed).pipeTo(writable, { signal });
  const written = await handle.getFile();
  const { whole } = await hashesOf(written, 0, signal);
  if (whole !== hash.digest('hex')) throw notAsWritten(`“${name}”`);
  return { bytes: written.size, sha256: whole };
}

export async function copyAhead(
  { folder, projectId, source }: CopyJobs['ahead']['input'],
  { signal }: JobContext,
): Promise<number> {
  if (signal.aborted) throw cancelled();
  const record = await copyRecord(projectId);
  // Its folder is made by the first round.
  if (!record) return 0;
  try {
    let audio = begun.get(source.id);
    if (!audio) {
      const home = await subfolder(folder, record.name, true);
      audio = await CopiedAudio.begin(await subfolder(home, audioFolder, true), source);
      begun.set(source.id, audio);
    }
    await audio.follow();
    return audio.copied;
  } catch (error) {
    await letGoOfBegun();
    throw toCopyError(error);
  }
}

export const noCopyYet = () =>
  new ParolaError('not-found', say`There is no copy of this project in that folder yet.`);
