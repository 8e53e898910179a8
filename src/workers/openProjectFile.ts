import { say } from '@/texts/say';
import { BlobReader, ZipReader, type Entry } from '@zip.js/zip.js';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { manifestText, notWhole, readEntries } from '@/core/formats/projectArchive';
import { filmFileName, parseManifest, sourceFileName, type Manifest } from '@/core/formats/projectManifest';
import { database, write } from '@/storage/database';
import { sweepFilms } from '@/storage/films';
import { unlessOpening, whileOpening } from '@/storage/lock';
import { newId } from '@/storage/projects';
import { deleteSource, sourceRecord } from '@/storage/sources';
import type { ExportJobs } from './exportJobs';
import { importManifest, type HeldFile } from './importProject';
import type { JobContext } from './protocol';

/** `left` says in sentences what could not be taken over. */
export interface OpenedProject {
  projectId: string;
  name: string;
  left: string[];
}

/** An archive that is open, with its manifest. */
interface OpenArchive {
  fileName: string;
  zip: ZipReader<Blob>;
  entries: Map<string, Entry>;
  text: string;
  savedAt: number;
}

async function openArchive(file: File): Promise<OpenArchive> {
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false, checkSignature: true });
  try {
    const entries = await readEntries(zip, file.size);
    const text = await manifestText(entries);
    const { manifest } = parseManifest(text);
    return { fileName: file.name, zip, entries, text, savedAt: manifest.savedAt ?? 0 };
  } catch (error) {
    await zip.close().catch(() => undefined);
    throw error;
  }
}

/**
 * Opens a project file as a new project on this machine. Where it holds only what was new when it was saved,
 * the earlier files come with it: the one that was saved last is what is opened. Whatever fails, nothing half
 * opened is left behind.
 */
export async function openProjectFile(
  { files }: ExportJobs['openProject']['input'],
  context: JobContext,
): Promise<OpenedProject> {
  return whileOpening(async () => {
    await sweepLeftovers();
    const archives: OpenArchive[] = [];
    try {
      for (const file of files) archives.push(await openArchive(file));
      archives.sort((a, b) => b.savedAt - a.savedAt);
      return await importArchives(archives, context);
    } catch (error) {
      await sweepLeftovers();
      throw asDamage(error);
    } finally {
      for (const { zip } of archives) await zip.close().catch(() => undefined);
    }
  });
}

async function importArchives(archives: readonly OpenArchive[], context: JobContext): Promise<OpenedProject> {
  const ids = new Map<string, string>();
  const { manifest, left } = parseManifest(archives[0].text, (id) => {
    if (!ids.has(id)) ids.set(id, newId());
    return ids.get(id) ?? id;
  });
  const oldIds = new Map([...ids].map(([before, after]) => [after, before]));
  const held = (name: (id: string) => string) => (id: string) => {
    const path = name(oldIds.get(id) ?? id);
    return heldIn(archives.find(({ entries }) => entries.has(path))?.entries.get(path));
  };
  const audioOf = held(sourceFileName);
  checkEarlierFiles(manifest, audioOf, archives);
  const opened = await importManifest(
    manifest,
    { audioOf, filmOf: held(filmFileName), where: say`this project file`, silenceForMissing: false },
    context,
  );
  return { ...opened, left };
}

/** A file that holds what was new is no use without those before it: which ones, it knows. */
function checkEarlierFiles(
  { elsewhere = [] }: Manifest,
  audioOf: (id: string) => HeldFile | undefined,
  archives: readonly OpenArchive[],
) {
  const missing = elsewhere.filter(({ sources }) => sources.some((id) => !audioOf(id)));
  if (missing.length === 0) return;
  const [{ fileName }] = archives;
  throw new ParolaError(
    'not-found',
    say`“${fileName}” holds what was new when it was saved. The rest is in ${missing.map(({ file }) => `“${file}”`).join(', ')}: choose ${missing.length === 1 ? say`it` : say`them`} together with this one.`,
  );
}

/** An entry of an archive as a file. */
const heldIn = (entry: Entry | undefined): HeldFile | undefined =>
  !entry || entry.directory
    ? undefined
    : {
        bytes: entry.uncompressedSize,
        pipeTo: (target, signal) => entry.getData(target, { signal }),
      };

/** Errors of the archive itself come as plain Errors of the zip library. */
function asDamage(error: unknown): ParolaError {
  const known = toParolaError(error);
  return known.code === 'internal' ? notWhole() : known;
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

/** The caller holds the lock of openings. */
export async function sweepLeftovers() {
  const sources = await (await database()).getAll('sources');
  const leftovers = sources.filter((source) => source.state === 'importing');
  if (leftovers.length === 0) return;
  await write(['sources', 'blocks', 'peaks'], async (tx) => {
    for (const source of leftovers) await deleteSource(tx, source.id);
  });
}
