import { heardFrames, messages, openFresh, rate, record, stored, table, until } from '../testing/fixture';
import { addMark as putMark } from '@/core/timeline/edits';
import { sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import { storeTimeline } from '@/core/timeline/stored';
import { loadProject } from '@/storage/projects';
import { useNotices } from '../page/notices';
import { addMark, endMark, renameMark } from './marks';
import {
  closePart,
  closeUpSelection,
  edit,
  editPart,
  lastStep,
  openPart,
  redo,
  restCaret,
  select,
  selectFromCaret,
  setCaret,
  stands,
  timelineOfPart,
  undo,
  usePart,
} from './part';
import { stetSelection, strikeSelection } from './editing';
import { readStep } from '@/storage/parts';
import { saved, tryAgain, useSaving } from '../page/saving';
import { useProject } from '../project/openProject';

beforeEach(() => useNotices.setState({ notices: [] }));
afterEach(async () => {
  await saved();
  closePart();
});

test('every edit is stored with its step; undo and redo go through all of them and back', async () => {
  const { project } = await openFresh();
  record(10);
  select(2 * rate, 4 * rate);
  strikeSelection();
  addMark('note', 5 * rate);
  closeUpSelection();
  const end = await stored(project.id);
  expect(sheetFramesOf(usePart.getState().timeline)).toBe(8 * rate);
  expect(usePart.getState().timeline.marks[0].at).toBe(3 * rate);
  for (let i = 0; i < 4; i++) await undo();
  expect(sheetFramesOf(usePart.getState().timeline)).toBe(0);
  await stored(project.id);
  await undo();
  for (let i = 0; i < 4; i++) await redo();
  await redo();
  expect((await stored(project.id)).timeline).toEqual(end.timeline);
});

test('the history goes on after the part has been closed and opened again', async () => {
  const { project } = await openFresh();
  record(10);
  select(rate, 2 * rate);
  strikeSelection();
  await undo();
  const part = await stored(project.id);
  closePart();
  await openPart(part);
  expect(usePart.getState()).toMatchObject({ historyAt: 1, historyLength: 2 });
  await redo();
  expect(heardFrames()).toBe(9 * rate);
  await undo();
  await undo();
  expect(table().frames).toBe(0);
  await stored(project.id);
});

test('a new edit after undo drops what could have been redone', async () => {
  const { project } = await openFresh();
  record(10);
  select(rate, 2 * rate);
  strikeSelection();
  await undo();
  addMark('flub', rate);
  await redo();
  expect(heardFrames()).toBe(10 * rate);
  expect(usePart.getState().historyLength).toBe(2);
  await stored(project.id);
});

test('closing up keeps the caret with its audio, and drops a selection that is gone', async () => {
  await openFresh();
  record(10);
  select(2 * rate, 4 * rate);
  strikeSelection();
  setCaret(6 * rate);
  usePart.setState({ selection: null });
  closeUpSelection();
  expect(usePart.getState()).toMatchObject({ caret: 4 * rate, selection: null });
});

test('stet without a selection brings back the passage under the caret, and says so where there is none', async () => {
  await openFresh();
  record(10);
  select(2 * rate, 4 * rate);
  strikeSelection();
  usePart.setState({ selection: null });
  setCaret(rate);
  stetSelection();
  expect(heardFrames()).toBe(8 * rate);
  expect(useNotices.getState().notices[0].text).toContain('Nothing is struck here');
  setCaret(3 * rate);
  stetSelection();
  expect(heardFrames()).toBe(10 * rate);
});

test('edits without anything to act on say what to do, and make no step', async () => {
  await openFresh();
  record(10);
  strikeSelection();
  closeUpSelection();
  expect(usePart.getState().historyLength).toBe(1);
  expect(messages()).toEqual([
    expect.stringContaining('Select the passage to strike first') as string,
    expect.stringContaining('nothing struck') as string,
  ]);
});

test('caret and selection stay on the sheet', async () => {
  await openFresh();
  record(10);
  setCaret(99 * rate);
  expect(usePart.getState().caret).toBe(10 * rate);
  setCaret(-5);
  expect(usePart.getState().caret).toBe(0);
  select(3 * rate, -rate);
  expect(usePart.getState().selection).toEqual({ from: 0, to: 3 * rate });
  select(5, 5);
  expect(usePart.getState().selection).toBeNull();
  setCaret(4 * rate);
  selectFromCaret('start');
  expect(usePart.getState().selection).toEqual({ from: 4 * rate, to: 10 * rate });
  setCaret(6 * rate);
  selectFromCaret('end');
  expect(usePart.getState().selection).toEqual({ from: 4 * rate, to: 6 * rate });
});

test('a mark keeps a name, never an empty one', async () => {
  await openFresh();
  record(10);
  addMark('note', rate);
  const [mark] = usePart.getState().timeline.marks;
  renameMark(mark.id, '  ');
  expect(usePart.getState().timeline.marks[0].name).toBe('Mark');
});

test('in a project that another tab edits, nothing changes', async () => {
  const { project } = await openFresh();
  record(10);
  const before = await stored(project.id);
  useProject.setState({ readOnly: true });
  select(0, rate);
  strikeSelection();
  addMark('flub', 0);
  await undo();
  expect((await loadProject(project.id)).parts[0]).toEqual(before);
  expect(storeTimeline(usePart.getState().timeline)).toEqual(before.timeline);
});

test('a step for a part that is gone is told of, and holds nothing up', async () => {
  const { project } = await openFresh();
  record(10);
  await saved();
  const part = usePart.getState().id;
  usePart.setState({ id: 'gone' });
  addMark('flub', 0);
  await saved();
  expect(useNotices.getState().notices.at(-1)?.severity).toBe('error');
  usePart.setState({ id: part, historyAt: 1 });
  addMark('flub', rate);
  await saved();
  expect(useSaving.getState()).toMatchObject({ failed: false, pending: 0 });
  expect((await loadProject(project.id)).parts[0].timeline.marks).toHaveLength(2);
});

test('a step that could not be stored is stored before the next one: the history has no hole', async () => {
  const { project, part } = await openFresh();
  record(10);
  await saved();
  const put = jest.spyOn(IDBObjectStore.prototype, 'put').mockImplementationOnce(() => {
    throw new DOMException('The quota has been exceeded', 'QuotaExceededError');
  });
  addMark('flub', 0);
  addMark('note', rate);
  expect(await saved()).toBe(false);
  expect(useSaving.getState()).toMatchObject({ failed: true, pending: 2 });
  expect(useNotices.getState().notices.at(-1)?.text).toMatch(/used up.*tried again by itself/);
  put.mockRestore();
  tryAgain();
  expect(await saved()).toBe(true);
  expect(useSaving.getState()).toMatchObject({ failed: false, pending: 0 });
  await stored(project.id);
  const steps = await Promise.all([0, 1, 2].map((seq) => readStep(part.id, seq)));
  expect(steps.map((step) => step?.label)).toEqual(['take 1', 'flub mark', 'note mark']);
  closePart();
  await openPart((await loadProject(project.id)).parts[0]);
  for (let i = 0; i < 3; i++) await undo();
  expect(sheetFramesOf(usePart.getState().timeline)).toBe(0);
});

test('a step that cannot be read leaves undo alive: it says so, and later steps can be undone', async () => {
  const { project } = await openFresh();
  record(10);
  addMark('flub', 0);
  await saved();
  closePart();
  const part = (await loadProject(project.id)).parts[0];
  const read = jest.spyOn(IDBObjectStore.prototype, 'get').mockImplementation(() => {
    throw new DOMException('gone', 'UnknownError');
  });
  await openPart(part);
  await undo();
  expect(useNotices.getState().notices.length).toBeGreaterThan(0);
  read.mockRestore();
  addMark('note', rate);
  await undo();
  expect(usePart.getState().timeline.marks.map(({ kind }) => kind)).toEqual(['flub']);
  await undo();
  expect(usePart.getState().timeline.marks).toEqual([]);
});

describe('what is opened', () => {
  test('has its caret on the sheet, wherever it was stored, and says what undo and redo would do', async () => {
    const { project } = await openFresh();
    record(2);
    strikeOf(rate, 2 * rate);
    await undo();
    const part = await stored(project.id);
    closePart();
    await openPart({ ...part, caret: 50 * rate });
    expect(usePart.getState().caret).toBe(2 * rate);
    expect([...usePart.getState().steps].map(([seq, { label }]) => [seq, label])).toEqual([
      [0, 'take 1'],
      [1, 'strike'],
    ]);
    await openPart({ ...part, caret: rate });
    expect(usePart.getState().caret).toBe(rate);
  });

  test('steps of a part that has been left meanwhile do not come into the next one', async () => {
    const { project, parts } = await openFresh('One', 'Two');
    record(2);
    const part = await stored(project.id);
    closePart();
    const left = usePart.subscribe(({ id }) => {
      if (id === part.id) usePart.setState({ id: parts[1].id });
    });
    await openPart(part);
    left();
    expect(usePart.getState().steps.size).toBe(0);
  });
});

const strikeOf = (from: number, to: number) => {
  select(from, to);
  strikeSelection();
};

test('undo takes caret and selection back onto the sheet; a selection that still stands stays', async () => {
  await openFresh();
  record(2);
  record(2);
  setCaret(3 * rate);
  select(0, 2 * rate);
  await undo();
  expect(usePart.getState()).toMatchObject({ caret: 2 * rate, selection: { from: 0, to: 2 * rate } });
  await redo();
  select(rate, 3 * rate);
  await undo();
  expect(usePart.getState().selection).toBeNull();
});

test('a step stands until it is undone, and another one in its place is not it', async () => {
  await openFresh();
  record(4);
  const first = lastStep();
  strikeOf(0, rate);
  const second = lastStep();
  expect(first && stands(first)).toBe(true);
  expect(second && stands(second)).toBe(true);
  await undo();
  expect(second && stands(second)).toBe(false);
  expect(lastStep()).toEqual(first);
  await redo();
  expect(second && stands(second)).toBe(true);
  await undo();
  strikeOf(rate, 2 * rate);
  expect(first && stands(first)).toBe(true);
  expect(second && stands(second)).toBe(false);
  await undo();
  await undo();
  expect(lastStep()).toBeNull();
});

test('any part of the project can be edited, open or not, and what is stored is what is shown', async () => {
  const { project, parts } = await openFresh('One', 'Two');
  const note = (timeline: Timeline) =>
    putMark(timeline, { id: crypto.randomUUID(), kind: 'note', at: 0, length: 0, name: 'Here' });
  expect(editPart(parts[0].id, 'note', note)).toBe(true);
  expect(usePart.getState().timeline.marks).toHaveLength(1);
  expect(editPart(parts[1].id, 'note', note)).toBe(true);
  expect(editPart(parts[1].id, 'note', note)).toBe(true);
  expect(timelineOfPart(parts[1].id)?.marks).toHaveLength(2);
  expect(editPart(parts[1].id, 'nothing', (timeline) => timeline)).toBe(false);
  expect(editPart('gone', 'note', note)).toBe(false);
  expect(timelineOfPart('gone')).toBeNull();
  await saved();
  const two = (await loadProject(project.id)).parts.find(({ id }) => id === parts[1].id);
  expect(two).toMatchObject({ historyAt: 2 });
  expect(two?.timeline.marks).toHaveLength(2);
  useProject.setState({ readOnly: true });
  expect(editPart(parts[0].id, 'note', note)).toBe(false);
  expect(editPart(parts[1].id, 'note', note)).toBe(false);
  expect(timelineOfPart(parts[0].id)?.marks).toHaveLength(1);
  expect(timelineOfPart(parts[1].id)?.marks).toHaveLength(2);
});

test('marks of a kind are counted; only one that was begun becomes a range', async () => {
  await openFresh();
  record(4);
  addMark('note', 0);
  addMark('flub', rate);
  addMark('note', 2 * rate);
  expect(usePart.getState().timeline.marks.map(({ name }) => name)).toEqual(['Note 1', 'Flub 1', 'Note 2']);
  expect(endMark('note', 3 * rate)).toBe(false);
  addMark('note', 3 * rate, 0, true);
  expect(endMark('note', 3.5 * rate)).toBe(true);
  expect(usePart.getState().timeline.marks.at(-1)).toMatchObject({ at: 3 * rate, length: 0.5 * rate });
});

describe('the caret', () => {
  const storedCaret = async (projectId: string) => (await loadProject(projectId)).parts[0].caret;

  test('is stored where it rests, once', async () => {
    const { project } = await openFresh();
    record(4);
    setCaret(rate);
    setCaret(3 * rate);
    expect(useProject.getState().parts[0].caret).toBe(0);
    await until(() => useProject.getState().parts[0].caret === 3 * rate);
    await saved();
    expect(await storedCaret(project.id)).toBe(3 * rate);
  });

  test('is stored at once for whoever is about to leave', async () => {
    const { project } = await openFresh();
    record(4);
    setCaret(2 * rate);
    restCaret();
    await saved();
    expect(await storedCaret(project.id)).toBe(2 * rate);
  });

  test('in a window that may not write, or in no part, is not stored', async () => {
    const { project } = await openFresh();
    record(4);
    useProject.setState({ readOnly: true });
    setCaret(rate);
    expect(usePart.getState().caret).toBe(rate);
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(await storedCaret(project.id)).toBe(0);
  });
});

test('nothing can be edited where only reading is allowed', async () => {
  await openFresh();
  record(4);
  useProject.setState({ readOnly: true });
  expect(edit('note', (timeline) => ({ ...timeline, marks: [] }))).toBe(false);
  await undo();
  expect(usePart.getState().historyAt).toBe(1);
  expect(messages()).toEqual([]);
});
