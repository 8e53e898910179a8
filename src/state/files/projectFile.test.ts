import { File } from 'node:buffer';
import { readFileSync } from 'node:fs';
import { seededRandom } from '@/core/base/random';
import { noise } from '@/core/testing/signals';
import { heardTracks } from '@/core/timeline/heard';
import type { Step } from '@/core/timeline/history';
import { loadTimeline } from '@/core/timeline/stored';
import { heardFramesOf } from '@/core/timeline/timeline';
import { allOf, database } from '@/storage/database';
import { readPeaks, sourcesOfProject } from '@/storage/sources';
import { BlockReader } from '@/storage/blockReader';
import { duplicateProject, loadProject } from '@/storage/projects';
import { purgeDeleted } from '@/storage/purge';
import { openProjectFile, saveProjectFile } from '@/workers/projectFile';
import { openFresh, recordAudio } from '../testing/fixture';
import { saved } from '../page/saving';
import { resetStores } from '../page/resets';
import { useProject } from '../project/openProject';
import { copySelection, pasteAtCaret, strikeSelection, useClipboard } from '../sheet/editing';
import { addMark, closeUpAll, edit, openPart, redo, select, setCaret, undo, usePart } from '../sheet/part';
import { copyToNewPart, moveToPart, splitAtPartMarks } from '../sheet/partEdits';
import { selectPart } from '../sheet/parts';
import { changeTake, deleteTake } from '../recording/takes';
import { seeds } from '@/core/testing/seeds';

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
        close: () => Promise.resolve({ size: parts.reduce((sum, { length }) => sum + length, 0) }),
        discard: () => Promise.resolve(),
      });
    },
  },
}));

beforeAll(() => {
  const locks = { request: (_name: string, work: () => unknown) => work() };
  Object.defineProperty(globalThis, 'navigator', { value: { locks }, configurable: true });
});

const context = { signal: new AbortController().signal, progress: () => undefined };

async function writtenFile(projectId: string): Promise<globalThis.File> {
  expect(await saved()).toBe(true);
  const { path } = await saveProjectFile({ projectId, fileName: 'a.parola' }, context);
  return new File(mockFiles.get(path) ?? [], 'a.parola') as unknown as globalThis.File;
}

/** All that a project is, with its recordings called by their names: ids are given anew in a file. */
async function contents(projectId: string) {
  const { project, parts } = await loadProject(projectId);
  const db = await database();
  const histories = await Promise.all(parts.map(({ id }) => db.getAll('history', allOf(id))));
  const used = JSON.stringify([parts, histories]);
  const sources = (await sourcesOfProject(projectId)).filter(
    ({ id, deleted }) => !deleted || used.includes(id),
  );
  const number = new Map(parts.map(({ id }, index) => [id, `part ${index}`]));
  const names = new Map(sources.map(({ id, name }) => [id, name]));
  const known = (value: unknown): unknown =>
    JSON.parse(JSON.stringify(value), (key, inside: unknown) => {
      if ((key === 'source' || key === 'id') && typeof inside === 'string')
        return names.get(inside) ?? inside;
      // Nothing looks up the place of a recording that is gone.
      if (key === 'places' && Array.isArray(inside))
        return inside.filter((place) => [...names.values()].includes((place as { source: string }).source));
      return inside;
    });
  return {
    name: project.name,
    rateHz: project.rateHz,
    parts: parts.map(({ name, script, timeline, historyAt, caret, heardFrames }, index) => ({
      name,
      script,
      timeline: known(timeline),
      historyAt,
      caret,
      heardFrames,
      steps: histories[index].map(({ step }: { step: Step }) => step.label),
    })),
    takes: sources
      .map(({ partId, name, take, circled, note, deleted, frames, channels }) => ({
        part: number.get(partId) ?? null,
        ...{ name, take, circled, note, deleted, frames, channels },
      }))
      .sort((a, b) => (a.name < b.name ? -1 : 1)),
  };
}

/** Everything that takes recordings from one place to another, in any order. */
async function randomWork(random: () => number): Promise<void> {
  const upTo = (limit: number) => Math.floor(random() * limit);
  const parts = () => useProject.getState().parts;
  const end = () => loadTimeline({ ...openStored() }).tracks[0].table.frames;
  const openStored = () =>
    parts().find(({ id }) => id === usePart.getState().id)?.timeline ?? { tracks: [], marks: [] };
  const someRange = () => {
    const [a, b] = [upTo(end() + 1), upTo(end() + 1)];
    select(a, b);
  };
  let takes = useProject.getState().sources.size;
  for (let turn = 0; turn < 26; turn++) {
    const action = upTo(14);
    someRange();
    if (action === 0 || takes === 0) {
      const source = await recordAudio(noise(4000, -20, turn + 1));
      changeTake(source, { name: `Recording ${takes++}`, note: `turn ${turn}` });
    } else if (action === 1) strikeSelection();
    else if (action === 2) closeUpAll();
    else if (action === 3) copySelection();
    else if (action === 4) {
      setCaret(upTo(end()));
      pasteAtCaret();
    } else if (action === 5) await copyToNewPart();
    else if (action === 6) moveToPart(parts()[upTo(parts().length)].id);
    else if (action === 7) {
      addMark('part', upTo(end()));
      await splitAtPartMarks();
    } else if (action === 8 || action === 13) await undo();
    else if (action === 9) await redo();
    else if (action === 10) await selectPart(parts()[upTo(parts().length)].id);
    else if (action === 11) {
      const all = [...useProject.getState().sources.values()];
      const take = all[upTo(all.length)];
      if (random() < 0.5) deleteTake(take);
      else changeTake(take, { circled: true });
    } else edit('gain', (timeline) => ({ ...timeline }));
  }
}

test.each(seeds(30))('whatever is done, saving and opening gives an equal project, seed %d', async (seed) => {
  const { project } = await openFresh('One', 'Two');
  await randomWork(seededRandom(seed));
  expect(await saved()).toBe(true);
  const { projectId, left } = await openProjectFile({ file: await writtenFile(project.id) }, context);
  expect(left).toEqual([]);
  expect(await contents(projectId)).toEqual(await contents(project.id));
  // The same after what was deleted has gone for good, and of a copy that shares the audio.
  await purgeDeleted(project.id);
  const copy = await duplicateProject(project.id, 'Copy');
  const again = await openProjectFile({ file: await writtenFile(copy.id) }, context);
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
  const { projectId } = await openProjectFile({ file: await writtenFile(project.id) }, context);
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
  const { projectId, left } = await openProjectFile({ file: file as unknown as globalThis.File }, context);
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
