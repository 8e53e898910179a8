import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { blockFrames } from '@/core/base/audio';
import { seededRandom } from '@/core/base/random';
import { readCopyState } from '@/core/keep/copyState';
import { seeds } from '@/core/testing/seeds';
import { noise } from '@/core/testing/signals';
import { BlockReader } from '@/storage/blockReader';
import { readBlock } from '@/storage/blocks';
import { copyRecord } from '@/storage/copies';
import { write } from '@/storage/database';
import { damageOf } from '@/storage/integrity';
import { fault, MemoryFolder } from '@/storage/testing/memoryFolder';
import { createSource, finishSource } from '@/storage/sources';
import { writeBlock } from '@/storage/blocks';
import { checkCopy } from '@/workers/checkCopy';
import { copyAhead, copyRound } from '@/workers/copyRound';
import { findCopies, openCopyFolder } from '@/workers/openCopyFolder';
import { repairSources } from '@/workers/repairSource';
import { saved } from '../page/saving';
import { resetStores } from '../page/resets';
import { setCaret, restCaret } from '../sheet/part';
import { openFresh, recordAudio } from '../testing/fixture';
import { contents, randomWork } from '../testing/randomWork';

jest.mock('@/storage/films', () => ({ filmFile: () => Promise.resolve(null), writeFilm: jest.fn() }));

beforeAll(() => {
  const locks = { request: (_name: string, work: () => unknown) => work() };
  const storage = { estimate: () => Promise.resolve({ quota: Infinity, usage: 0 }) };
  Object.defineProperty(globalThis, 'navigator', { value: { locks, storage }, configurable: true });
});
afterEach(resetStores);

const context = { signal: new AbortController().signal, progress: () => undefined };

/** One round for a project, once what was done to it is stored. */
async function round(
  folder: MemoryFolder,
  projectId: string,
  more: { damaged?: string[]; freshly?: boolean } = {},
) {
  restCaret();
  expect(await saved()).toBe(true);
  const { damaged = [], freshly = false } = more;
  return copyRound({ folder: folder.handle, projectId, freshly, damaged, live: null }, context);
}

const homeOf = async (folder: MemoryFolder, projectId: string) =>
  folder.getDirectoryHandle((await copyRecord(projectId))?.name ?? '');

/** The folder as a directory of this machine, for programs that know nothing of Parola. */
async function onDisk<T>(folder: MemoryFolder, look: (directory: string) => T): Promise<T> {
  const directory = mkdtempSync(path.join(tmpdir(), 'parola-copy-'));
  try {
    for (const [name, bytes] of folder.contents()) {
      const file = path.join(directory, name);
      mkdirSync(path.dirname(file), { recursive: true });
      writeFileSync(file, bytes);
    }
    return look(directory);
  } finally {
    rmSync(directory, { recursive: true });
  }
}

async function audioOf(source: string, frames: number, channel = 0): Promise<Float32Array> {
  const read = new Float32Array(frames);
  await new BlockReader([{ id: source, frames }]).read(source, channel, 0, frames, read, 0);
  return read;
}

describe('a copy in a folder', () => {
  test('holds every take as WAV, to the sample as ffmpeg decodes it, with sums that sha256sum finds right', async () => {
    const { project } = await openFresh('One');
    const [left, right] = [noise(70_000, -20, 1), noise(70_000, -14, 2)];
    const mono = await recordAudio(left);
    const stereo = await recordAudio(left, right);
    // Its second channel was recorded for a track that is not there any more.
    await finishSource(stereo.id, { channels: 2 });
    const folder = new MemoryFolder('Copies');
    const { files } = await round(folder, project.id);
    expect(files).toBe(2);
    const name = (await copyRecord(project.id))?.name ?? '';
    expect(name).toMatch(/^Test-/);
    await onDisk(folder, (directory) => {
      const home = path.join(directory, name);
      // GNU coreutils.
      const checked = execFileSync('sha256sum', ['--check', 'SHA256SUMS'], { cwd: home, encoding: 'utf8' });
      expect(checked.match(/: OK$/gm)).toHaveLength(2);
      const decode = (id: string) =>
        execFileSync('ffmpeg', ['-v', 'error', '-i', `audio/${id}.wav`, '-f', 'f32le', '-'], {
          cwd: home,
          maxBuffer: 1e8,
        });
      const bytesOf = (audio: Float32Array) => Buffer.from(audio.buffer, audio.byteOffset, audio.byteLength);
      const sides = new Float32Array(2 * left.length);
      left.forEach((value, i) => (sides[2 * i] = value));
      right.forEach((value, i) => (sides[2 * i + 1] = value));
      expect(decode(mono.id).equals(bytesOf(left))).toBe(true);
      expect(decode(stereo.id).equals(bytesOf(sides))).toBe(true);
    });
  });

  test('copies nothing twice; ten states are kept, and none is written where nothing has changed', async () => {
    const { project } = await openFresh('One');
    await recordAudio(noise(40_000, -20, 3));
    const folder = new MemoryFolder('Copies');
    await round(folder, project.id);
    const written: string[] = [];
    folder.before = (file) => void written.push(file);
    await round(folder, project.id);
    expect(written.filter((file) => /states\/|audio\/./.test(file))).toEqual([]);
    for (let i = 1; i <= 12; i++) {
      setCaret(i);
      await round(folder, project.id);
    }
    expect(written.filter((file) => /audio\/./.test(file))).toEqual([]);
    const states = [...(await homeOf(folder, project.id)).contents()].filter(([file]) =>
      file.includes('/states/'),
    );
    const carets = states
      .map(([, bytes]) => readCopyState(new TextDecoder().decode(bytes)).manifest.parts[0].caret)
      .sort((a, b) => a - b);
    expect(carets).toEqual([3, 4, 5, 6, 7, 8, 9, 10, 11, 12]);
  });

  test('a film that is not on this machine is not asked for again and again', async () => {
    const { project } = await openFresh('One');
    const take = await recordAudio(noise(3000, -20, 50));
    const rate = { num: 25, den: 1 };
    const film = { fileName: 'a.mp4', bytes: 9, width: 1, height: 1, frames: 1, seconds: 1, rate };
    await finishSource(take.id, { film });
    const folder = new MemoryFolder('Copies');
    await round(folder, project.id);
    const written: string[] = [];
    folder.before = (file) => void written.push(file);
    await round(folder, project.id);
    expect(written.filter((file) => /states\/|SHA256/.test(file))).toEqual([]);
  });

  test('what is copied while it is recorded is the same file as what is copied afterwards', async () => {
    const { project, part } = await openFresh('One');
    const folder = new MemoryFolder('Copies');
    await round(folder, project.id);
    const audio = noise(3 * blockFrames + 5000, -20, 4);
    const id = crypto.randomUUID();
    const source = {
      ...{ id, projectIds: [project.id], partId: part.id, trackId: 'track-1', take: 1, name: 'Take 1' },
      ...{
        rateHz: 48_000,
        channels: 1,
        frames: 0,
        handleFrames: 0,
        startedAt: 1,
        overrunFrames: 0,
        input: '',
      },
    };
    await createSource({ ...source, state: 'recording' });
    const ahead = () =>
      copyAhead(
        { folder: folder.handle, projectId: project.id, source: { id, rateHz: 48_000, channels: 1 } },
        context,
      );
    expect(await ahead()).toBe(0);
    const block = (index: number) =>
      writeBlock(id, index, [audio.slice(index * blockFrames, (index + 1) * blockFrames)]);
    await block(0);
    await block(1);
    expect(await ahead()).toBe(2 * blockFrames);
    await block(2);
    await block(3);
    await createSource({ ...source, frames: audio.length, state: 'kept' });
    await round(folder, project.id);
    const again = new MemoryFolder('Another');
    await round(again, project.id, { freshly: true });
    const file = async (of: MemoryFolder) =>
      Buffer.from(
        (await homeOf(of, project.id))
          .contents()
          .get(`${(await homeOf(of, project.id)).name}/audio/${id}.wav`) ?? [],
      );
    expect((await file(folder)).length).toBe(58 + 4 * audio.length);
    expect((await file(folder)).equals(await file(again))).toBe(true);
  });

  test('500 takes: each is there, and one more is the only one that is copied then', async () => {
    const { project } = await openFresh('One');
    for (let i = 0; i < 500; i++) await recordAudio(noise(100, -20, i + 1));
    const folder = new MemoryFolder('Copies');
    expect((await round(folder, project.id)).files).toBe(500);
    const written: string[] = [];
    folder.before = (file) => void written.push(file);
    const more = await recordAudio(noise(100, -20, 999));
    expect((await round(folder, project.id)).files).toBe(501);
    const copied = new Set(
      written.filter((file) => /audio\/./.test(file)).map((file) => path.basename(file)),
    );
    expect(copied).toEqual(new Set([`${more.id}.wav`]));
    expect((await checkCopy({ folder: folder.handle, projectId: project.id }, context)).damaged).toEqual([]);
  });

  test('two projects in one folder do not meet', async () => {
    const folder = new MemoryFolder('Copies');
    const first = await openFresh('One');
    const one = await recordAudio(noise(900, -20, 5));
    await round(folder, first.project.id);
    resetStores();
    const second = await openFresh('Two');
    const two = await recordAudio(noise(800, -20, 6));
    await Promise.all([round(folder, second.project.id), round(folder, first.project.id)]);
    const [a, b] = [await homeOf(folder, first.project.id), await homeOf(folder, second.project.id)];
    expect(a.name).not.toBe(b.name);
    expect([...a.contents().keys()].filter((file) => file.endsWith('.wav'))).toEqual([
      `${a.name}/audio/${one.id}.wav`,
    ]);
    expect([...b.contents().keys()].filter((file) => file.endsWith('.wav'))).toEqual([
      `${b.name}/audio/${two.id}.wav`,
    ]);
    expect((await findCopies({ folder: folder.handle })).map(({ folderName }) => folderName).sort()).toEqual(
      [a.name, b.name].sort(),
    );
  });
});

describe('what can happen to the folder', () => {
  const reasons = [
    ['the disk is full', 'QuotaExceededError', 'storage-full', /disk of the copy folder is full/],
    ['permission is taken back', 'NotAllowedError', 'permission-denied', /does not let Parola write/],
    ['the folder is gone', 'NotFoundError', 'not-found', /not there\. Plug its disk in/],
    ['another program holds a file', 'NoModificationAllowedError', 'busy', /Another program/],
  ] as const;
  test.each(reasons)(
    '%s: it is said, nothing is lost, and it is made up for',
    async (_what, name, code, told) => {
      const { project } = await openFresh('One');
      await recordAudio(noise(50_000, -20, 7));
      const folder = new MemoryFolder('Copies');
      await round(folder, project.id);
      const take = await recordAudio(noise(50_000, -20, 8));
      const before = [...folder.contents()];
      folder.before = (file) => {
        if (file.includes(take.id)) throw fault(name);
      };
      await expect(round(folder, project.id)).rejects.toMatchObject({
        code,
        message: expect.stringMatching(told),
      });
      for (const [file, bytes] of before) expect(folder.contents().get(file)).toEqual(bytes);
      folder.before = () => undefined;
      expect((await round(folder, project.id, { freshly: true })).files).toBe(2);
      expect(await checkCopy({ folder: folder.handle, projectId: project.id }, context)).toMatchObject({
        files: 2,
        missing: [],
        damaged: [],
      });
    },
  );

  test('a disk with room for one take of two has that one', async () => {
    const { project } = await openFresh('One');
    await recordAudio(noise(50_000, -20, 9));
    await recordAudio(noise(50_000, -20, 10));
    const folder = new MemoryFolder('Copies');
    folder.room = 300_000;
    await expect(round(folder, project.id)).rejects.toMatchObject({ code: 'storage-full' });
    const whole = [...folder.contents()].filter(([file, { length }]) => file.endsWith('.wav') && length > 0);
    expect(whole).toHaveLength(1);
    folder.room = Infinity;
    expect((await round(folder, project.id)).files).toBe(2);
  });

  test('files that were changed or taken away are found, and copied again', async () => {
    const { project } = await openFresh('One');
    const takes = [];
    for (let i = 0; i < 3; i++) takes.push(await recordAudio(noise(20_000, -20, 11 + i)));
    const folder = new MemoryFolder('Copies');
    await round(folder, project.id);
    const home = await homeOf(folder, project.id);
    home.damage(`audio/${takes[0].id}.wav`, () => null);
    home.damage(`audio/${takes[1].id}.wav`, (bytes) => {
      bytes[5000] ^= 1;
      return bytes;
    });
    const found = await checkCopy({ folder: folder.handle, projectId: project.id }, context);
    expect(found.missing).toEqual([`audio/${takes[0].id}.wav`]);
    expect(found.damaged).toEqual([`audio/${takes[1].id}.wav`]);
    await round(folder, project.id, { damaged: [...found.missing, ...found.damaged] });
    const again = await checkCopy({ folder: folder.handle, projectId: project.id }, context);
    expect(again).toMatchObject({ files: 3, missing: [], damaged: [] });
  });

  test('a disk that keeps something else than it was given is not called a copy', async () => {
    const { project } = await openFresh('One');
    await recordAudio(noise(20_000, -20, 15));
    const folder = new MemoryFolder('Copies');
    const put = Uint8Array.prototype.set;
    let once = true;
    folder.before = (file) => {
      // The first bytes of audio that are written turn out to be others.
      if (!once || !file.endsWith('.wav')) return;
      Uint8Array.prototype.set = function (from: ArrayLike<number>, at?: number) {
        put.call(this, from, at);
        if (once && from.length > 1000) {
          once = false;
          this[(at ?? 0) + 700] ^= 4;
          Uint8Array.prototype.set = put;
        }
      };
    };
    try {
      await expect(round(folder, project.id)).rejects.toMatchObject({
        code: 'damaged-file',
        message: expect.stringContaining('not what was written'),
      });
    } finally {
      Uint8Array.prototype.set = put;
    }
    folder.before = () => undefined;
    await round(folder, project.id);
    expect((await checkCopy({ folder: folder.handle, projectId: project.id }, context)).damaged).toEqual([]);
  });
});

describe('opened from a folder', () => {
  test.each(seeds(12))(
    'whatever is done, the copy that is opened is an equal project, seed %d',
    async (seed) => {
      const { project } = await openFresh('One', 'Two');
      const folder = new MemoryFolder('Copies');
      await randomWork(seededRandom(seed));
      await round(folder, project.id);
      await randomWork(seededRandom(seed + 1000));
      await round(folder, project.id);
      const [{ folderName, name }] = await findCopies({ folder: folder.handle });
      expect(name).toBe('Test');
      const { projectId, left } = await openCopyFolder({ folder: folder.handle, folderName }, context);
      expect(left).toEqual([]);
      expect(await contents(projectId)).toEqual(await contents(project.id));
    },
  );

  test('what is missing or cut short is silent and told; what is damaged is told; all else is there', async () => {
    const { project } = await openFresh('One');
    const sounds = [1, 2, 3, 4].map((seed) => noise(200_000, -20, 20 + seed));
    const takes = [];
    for (const sound of sounds) takes.push(await recordAudio(sound));
    const folder = new MemoryFolder('Copies');
    await round(folder, project.id);
    const home = await homeOf(folder, project.id);
    home.damage(`audio/${takes[0].id}.wav`, () => null);
    home.damage(`audio/${takes[1].id}.wav`, (bytes) => bytes.slice(0, 58 + 4 * 150_000));
    home.damage(`audio/${takes[2].id}.wav`, (bytes) => {
      bytes[100_000] ^= 8;
      return bytes;
    });
    const opened = await openCopyFolder({ folder: home.handle, folderName: '' }, context);
    expect(opened.left.join('\n')).toMatch(/“Take 1” is not in this folder: it is silent/);
    expect(opened.left.join('\n')).toMatch(/not whole in this folder: 00:01\.042 of it are silent/);
    expect(opened.left.join('\n')).toMatch(/not what was copied into this folder/);
    const { sourcesOfProject } = await import('@/storage/sources');
    const sources = (await sourcesOfProject(opened.projectId)).sort((a, b) => a.startedAt - b.startedAt);
    expect(sources).toHaveLength(4);
    const heard = await Promise.all(sources.map(({ id }) => audioOf(id, 200_000)));
    const kinds = heard.map((audio) => [
      sounds.findIndex((sound) => sound.slice(0, 1000).every((value, i) => value === audio[i])),
      audio.subarray(150_000).every((value) => value === 0),
    ]);
    expect(kinds.sort()).toEqual([
      [-1, true],
      [1, true],
      [2, false],
      [3, false],
    ]);
  });

  test('the latest state is used; where it is damaged the one before, which is said; where none is left, why', async () => {
    const { project } = await openFresh('One');
    await recordAudio(noise(500, -20, 30));
    const folder = new MemoryFolder('Copies');
    await round(folder, project.id);
    setCaret(77);
    await round(folder, project.id);
    setCaret(99);
    await round(folder, project.id);
    const home = await homeOf(folder, project.id);
    const { loadProject } = await import('@/storage/projects');
    const caretOf = async () => {
      const { projectId, left } = await openCopyFolder({ folder: home.handle, folderName: '' }, context);
      return { caret: (await loadProject(projectId)).parts[0].caret, left };
    };
    expect(await caretOf()).toEqual({ caret: 99, left: [] });
    home.damage('states/2.json', (bytes) => bytes.slice(0, bytes.length / 2));
    const before = await caretOf();
    expect(before.caret).toBe(77);
    expect(before.left.join()).toMatch(/states in this folder is damaged.*as it was on/);
    home.damage('states/0.json', () => null);
    home.damage('states/1.json', () => null);
    await expect(caretOf()).rejects.toMatchObject({ code: 'damaged-file' });
    await expect(findCopies({ folder: new MemoryFolder('Empty').handle })).rejects.toMatchObject({
      code: 'not-found',
      message: expect.stringContaining('no copy of a project in “Empty”'),
    });
  });
});

describe('audio that is missing in this browser', () => {
  const lose = (source: string, index: number) =>
    write(['blocks', 'peaks'], async (tx) => {
      await tx.objectStore('blocks').delete(IDBKeyRange.bound([source, index], [source, index, Infinity]));
      await tx.objectStore('peaks').delete(IDBKeyRange.bound([source, index], [source, index, Infinity]));
    });

  test('is found when the project is opened, and brought back from the copy to the sample', async () => {
    const { project, part } = await openFresh('One');
    const audio = noise(5 * blockFrames + 999, -20, 40);
    const id = crypto.randomUUID();
    await createSource({
      ...{ id, projectIds: [project.id], partId: part.id, trackId: 'track-1', take: 1, name: 'Take 1' },
      ...{ rateHz: 48_000, channels: 1, frames: audio.length, handleFrames: 0, startedAt: 1 },
      ...{ overrunFrames: 0, input: '', state: 'kept' },
    });
    for (let index = 0; index < 6; index++)
      await writeBlock(id, index, [audio.slice(index * blockFrames, (index + 1) * blockFrames)]);
    const { signal } = context;
    expect(await damageOf(project.id, signal)).toEqual([]);
    const folder = new MemoryFolder('Copies');
    await round(folder, project.id);
    await lose(id, 1);
    await lose(id, 2);
    await lose(id, 5);
    expect(await damageOf(project.id, signal)).toEqual([
      {
        source: id,
        name: 'Take 1',
        rateHz: 48_000,
        gaps: [
          { from: blockFrames, to: 3 * blockFrames },
          { from: 5 * blockFrames, to: audio.length },
        ],
      },
    ]);
    const whole = await repairSources(
      { folder: folder.handle, projectId: project.id, sources: [id] },
      context,
    );
    expect(whole).toBe(1);
    expect(await damageOf(project.id, signal)).toEqual([]);
    expect(await audioOf(id, audio.length)).toEqual(audio);
    // A copy that is damaged itself brings nothing back.
    await lose(id, 3);
    (await homeOf(folder, project.id)).damage(`audio/${id}.wav`, (bytes) => {
      bytes[9999] ^= 1;
      return bytes;
    });
    expect(
      await repairSources({ folder: folder.handle, projectId: project.id, sources: [id] }, context),
    ).toBe(0);
    expect(await readBlock(id, 3)).toBeUndefined();
  });
});
