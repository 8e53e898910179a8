import { File } from 'node:buffer';
import { readFileSync } from 'node:fs';
import { BlobReader, Uint8ArrayReader, Uint8ArrayWriter, ZipReader, ZipWriter } from '@zip.js/zip.js';
import { seededRandom } from '@/core/base/random';
import { noise } from '@/core/testing/signals';
import { heardTracks } from '@/core/timeline/heard';
import { loadTimeline } from '@/core/timeline/stored';
import { heardFramesOf } from '@/core/timeline/timeline';
import { database } from '@/storage/database';
import { readPeaks } from '@/storage/blocks';
import { finishSource, sourcesOfProject } from '@/storage/sources';
import { BlockReader } from '@/storage/blockReader';
import { duplicateProject, loadProject } from '@/storage/projects';
import { purgeDeleted } from '@/storage/purge';
import { openProjectFile } from '@/workers/openProjectFile';
import { saveProjectFile } from '@/workers/saveProjectFile';
import { openFresh, recordAudio } from '../testing/fixture';
import { contents, randomWork } from '../testing/randomWork';
import { saved } from '../page/saving';
import { resetStores } from '../page/resets';
import { useProject } from '../project/openProject';
import { copySelection, useClipboard } from '../sheet/editing';
import { openPart, redo, restCaret, select, undo, usePart } from '../sheet/part';
import { moveToPart } from '../sheet/partEdits';
import { changeTake, deleteTake } from '../recording/takes';
import { seeds } from '@/core/testing/seeds';

/** What becomes of a file on its way to the disk. */
let mockDamage = (parts: Uint8Array[]): Uint8Array[] => parts;
/** Bytes this browser allows. */
let quota = Infinity;
/** Files of the private file system, in memory. */
const mockFiles = new Map<string, Uint8Array[]>();
jest.mock('@/workers/scratchFile', () => ({
  ScratchFile: {
    create: () => {
      const path = String(mockFiles.size);
      const parts: Uint8Array[] = [];
      mockFiles.set(path, parts);
      return Promise.resolve({
        path,
        write: (bytes: Uint8Array) => void parts.push(bytes.slice()),
        close: () => Promise.resolve(new File(mockDamage(parts), 'a')),
        discard: () => Promise.resolve(),
      });
    },
  },
}));

/** Moving pictures, by the recording of their sound. */
const mockFilms = new Map<string, Uint8Array>();
jest.mock('@/storage/films', () => ({
  filmFile: (id: string) => {
    const bytes = mockFilms.get(id);
    return Promise.resolve(bytes ? new File([bytes], 'film') : null);
  },
  writeFilm: async (id: string, stream: ReadableStream<Uint8Array>) => {
    mockFilms.set(id, new Uint8Array(await new Response(stream).arrayBuffer()));
  },
}));

beforeAll(() => {
  const locks = { request: (_name: string, work: () => unknown) => work() };
  const storage = { estimate: () => Promise.resolve({ quota, usage: 0 }) };
  Object.defineProperty(globalThis, 'navigator', { value: { locks, storage }, configurable: true });
});
beforeEach(() => {
  mockDamage = (parts) => parts;
  quota = Infinity;
});

const context = { signal: new AbortController().signal, progress: () => undefined };

async function writtenFile(projectId: string): Promise<globalThis.File> {
  restCaret();
  expect(await saved()).toBe(true);
  const { path } = await saveProjectFile(
    { projectId, fileName: 'a.parola', films: true, elsewhere: [] },
    context,
  );
  return new File(mockFiles.get(path) ?? [], 'a.parola') as unknown as globalThis.File;
}

test.each(seeds(30))('whatever is done, saving and opening gives an equal project, seed %d', async (seed) => {
  const { project } = await openFresh('One', 'Two');
  await randomWork(seededRandom(seed));
  expect(await saved()).toBe(true);
  const { projectId, left } = await openProjectFile({ files: [await writtenFile(project.id)] }, context);
  expect(left).toEqual([]);
  expect(await contents(projectId)).toEqual(await contents(project.id));
  // The same after what was deleted has gone for good, and of a copy that shares the audio.
  await purgeDeleted(project.id);
  const copy = await duplicateProject(project.id, 'Copy');
  const again = await openProjectFile({ files: [await writtenFile(copy.id)] }, context);
  expect(again.left).toEqual([]);
  const [kept, opened] = [await contents(copy.id), await contents(again.projectId)];
  expect(opened).toEqual(kept);
  expect(kept.takes.map(({ part }) => part)).toEqual(
    (await contents(project.id)).takes.map(({ part }) => part),
  );
  resetStores();
});

test('a take that was deleted in one part and is heard in another is in the file, with its audio', async () => {
  const { project, parts } = await openFresh('One', 'Two');
  const audio = noise(3000, -20, 7);
  const take = await recordAudio(audio);
  select(0, 3000);
  moveToPart(parts[1].id);
  // The open part does not show it any more; the other one does, so it cannot be deleted.
  deleteTake(take);
  expect(useProject.getState().sources.get(take.id)?.deleted).toBeFalsy();
  // However it came to be marked, the file holds it.
  changeTake(take, { deleted: true });
  const { projectId } = await openProjectFile({ files: [await writtenFile(project.id)] }, context);
  const [, two] = (await loadProject(projectId)).parts;
  const [{ table }] = heardTracks(loadTimeline(two.timeline));
  const [piece] = table.pieces;
  const read = new Float32Array(3000);
  if (piece.kind !== 'audio') throw new Error('no audio');
  await new BlockReader([{ id: piece.source, frames: 3000 }]).read(piece.source, 0, 0, 3000, read, 0);
  expect(read).toEqual(audio);
  expect(await readPeaks(piece.source, 0, 0)).toHaveLength(1);
  resetStores();
});

test('a passage that was copied does not outlive its project', async () => {
  await openFresh('One');
  await recordAudio(noise(2000, -20, 1));
  select(0, 1000);
  copySelection();
  expect(useClipboard.getState().passage).not.toBeNull();
  resetStores();
  expect(useClipboard.getState().passage).toBeNull();
});

test('a file of version 4 is opened: its tracks are in step, its history undone and redone', async () => {
  const file = new File([readFileSync('e2e/files/project-version-4.parola')], 'old.parola');
  const { projectId, left } = await openProjectFile({ files: [file as unknown as globalThis.File] }, context);
  expect(left).toEqual([]);
  const { project, parts } = await loadProject(projectId);
  useProject.setState({ project, parts, status: 'open', readOnly: false });
  const timeline = loadTimeline(parts[0].timeline);
  expect(heardTracks(timeline).map(({ table }) => table.frames)).toEqual([7000, 7000]);
  expect(parts[0].heardFrames).toBe(7000);
  await openPart(parts[0]);
  const heard: number[] = [];
  for (let i = 0; i < 5; i++) {
    await undo();
    heard.push(heardFramesOf(usePart.getState().timeline));
  }
  expect(heard).toEqual([8000, 7700, 8000, 8000, 0]);
  for (let i = 0; i < 6; i++) await redo();
  expect(usePart.getState().timeline.tracks[0].table.pieces[0]).toMatchObject({ gainDb: 3 });
});

/** The entries of a project file, and a file of changed ones. */
async function unpacked(file: globalThis.File): Promise<Map<string, Uint8Array>> {
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false });
  const entries = new Map<string, Uint8Array>();
  for (const entry of await zip.getEntries())
    if (!entry.directory) entries.set(entry.filename, await entry.getData(new Uint8ArrayWriter()));
  return entries;
}

async function packed(entries: Map<string, Uint8Array>, level = 0): Promise<Uint8Array<ArrayBuffer>> {
  const zip = new ZipWriter(new Uint8ArrayWriter(), { level, useWebWorkers: false });
  for (const [name, bytes] of entries) await zip.add(name, new Uint8ArrayReader(bytes));
  return zip.close();
}

const fileOf = (bytes: Uint8Array) => new File([bytes], 'b.parola') as unknown as globalThis.File;

describe('a project file that is not what it says', () => {
  async function written() {
    const { project } = await openFresh();
    await recordAudio(noise(30_000, -20, 1));
    return { projectId: project.id, entries: await unpacked(await writtenFile(project.id)) };
  }
  const counts = async () => {
    const db = await database();
    return {
      sources: await db.count('sources'),
      blocks: await db.count('blocks'),
      parts: await db.count('parts'),
    };
  };
  const refused = async (bytes: Uint8Array, code: string, message: RegExp) => {
    const before = await counts();
    await expect(openProjectFile({ files: [fileOf(bytes)] }, context)).rejects.toMatchObject({
      code,
      message: expect.stringMatching(message) as string,
    });
    expect(await counts()).toEqual(before);
  };
  const wavOf = (entries: Map<string, Uint8Array>) => {
    const [name] = [...entries.keys()].filter((key) => key.endsWith('.wav'));
    return { name, bytes: entries.get(name) ?? new Uint8Array(0) };
  };

  test('audio that is longer than the manifest says is refused before any of it is written', async () => {
    const { entries } = await written();
    const { name, bytes } = wavOf(entries);
    const long = new Uint8Array(bytes.length + 20_000_000);
    long.set(bytes);
    await refused(
      await packed(entries.set(name, long), 5),
      'damaged-file',
      /is not what the project file says it is/,
    );
    // A little longer, with a header that says so.
    const little = new Uint8Array(bytes.length + 4000);
    little.set(bytes);
    const view = new DataView(little.buffer);
    const data = bytes.findIndex((_, at) => String.fromCharCode(...bytes.subarray(at, at + 4)) === 'data');
    view.setUint32(data + 4, view.getUint32(data + 4, true) + 4000, true);
    await refused(
      await packed(entries.set(name, little)),
      'damaged-file',
      /is not what the project file says it is/,
    );
  });

  test('audio that is cut short, or missing, is refused', async () => {
    const { entries } = await written();
    const { name, bytes } = wavOf(entries);
    await refused(
      await packed(new Map(entries).set(name, bytes.slice(0, bytes.length / 2))),
      'damaged-file',
      /is cut short in this project file/,
    );
    const without = new Map(entries);
    without.delete(name);
    await refused(await packed(without), 'damaged-file', /is missing from this project file/);
  });

  test('entries that lie over one another are refused', async () => {
    const { entries } = await written();
    const bytes = await packed(entries);
    const view = new DataView(bytes.buffer);
    // The directory at the end: each entry says where it begins; all of them begin at the largest one.
    const records: number[] = [];
    for (let at = 0; at + 4 <= bytes.length; at++)
      if (view.getUint32(at, true) === 0x02014b50) records.push(at);
    const sizes = records.map((at) => view.getUint32(at + 20, true));
    const largest = records[sizes.indexOf(Math.max(...sizes))];
    for (const at of records) {
      for (const field of [16, 20, 24, 42])
        view.setUint32(at + field, view.getUint32(largest + field, true), true);
    }
    await refused(bytes, 'damaged-file', /not a whole project file/);
  });

  test('where there is no room for it nothing is begun', async () => {
    const { entries } = await written();
    quota = 100_000;
    await refused(await packed(entries), 'storage-full', /needs \d+ MB, and this browser allows 0 MB more/);
  });

  test('a file that cannot be opened again is not called a backup', async () => {
    const { projectId } = await written();
    mockDamage = (parts) => parts.slice(0, -1);
    await expect(
      saveProjectFile({ projectId, fileName: 'a.parola', films: true, elsewhere: [] }, context),
    ).rejects.toMatchObject({
      code: 'damaged-file',
      message: expect.stringContaining('cannot be opened again') as string,
    });
  });

  test('audio that a sheet uses and storage has lost is told, and no file is called a backup', async () => {
    const { projectId } = await written();
    const db = await database();
    const [source] = await sourcesOfProject(projectId);
    await db.delete('sources', source.id);
    await expect(
      saveProjectFile({ projectId, fileName: 'a.parola', films: true, elsewhere: [] }, context),
    ).rejects.toThrow(/cannot be opened again \(.*audio that is not in the file/);
  });
});

describe('a moving picture', () => {
  const bytes = Uint8Array.from({ length: 200_000 }, (_, i) => (i * 7919) >> 3);
  const film = {
    ...{ fileName: 'talk.mp4', bytes: bytes.length, width: 640, height: 360, frames: 50, seconds: 2 },
    rate: { num: 25, den: 1 },
  };

  async function withFilm() {
    const { project } = await openFresh();
    const source = await recordAudio(noise(4800, -20, 3));
    await finishSource(source.id, { film, cue: 'cue-1' });
    await saved();
    mockFilms.clear();
    mockFilms.set(source.id, bytes);
    return project.id;
  }
  const openedFilm = async (file: globalThis.File) => {
    mockFilms.clear();
    const { projectId } = await openProjectFile({ files: [file] }, context);
    const [source] = await sourcesOfProject(projectId);
    return { source, bytes: mockFilms.get(source.id) };
  };

  test('goes into a project file and comes out of it as the file it was', async () => {
    const opened = await openedFilm(await writtenFile(await withFilm()));
    expect(opened.source).toMatchObject({ film, cue: 'cue-1' });
    expect(opened.bytes).toEqual(bytes);
  });

  test('is left out where that is wanted: it is known what is missing', async () => {
    const projectId = await withFilm();
    const { path } = await saveProjectFile(
      { projectId, fileName: 'a.parola', films: false, elsewhere: [] },
      context,
    );
    const file = new File(mockFiles.get(path) ?? [], 'a.parola') as unknown as globalThis.File;
    expect(file.size).toBeLessThan(bytes.length);
    const opened = await openedFilm(file);
    expect(opened.source.film).toEqual(film);
    expect(opened.bytes).toBeUndefined();
  });

  test('needs its room on the disk', async () => {
    const file = await writtenFile(await withFilm());
    quota = bytes.length;
    await expect(openProjectFile({ files: [file] }, context)).rejects.toMatchObject({ code: 'storage-full' });
  });
});
