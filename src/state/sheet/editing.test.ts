import {
  messages,
  audioPiece,
  heardFrames,
  openFresh,
  rate,
  record,
  recordAudio,
  stored,
  struck,
  table,
} from '../testing/fixture';
import { concat, noise } from '@/core/testing/signals';
import { addGuide } from '@/core/timeline/guides';
import { emptyTimeline, sheetFramesOf } from '@/core/timeline/timeline';
import { loadTimeline } from '@/core/timeline/stored';
import { loadProject } from '@/storage/projects';
import * as editing from './editing';
import { useNotices } from '../page/notices';
import { addMark, endMark } from './marks';
import {
  closePart,
  closeUpAll,
  edit,
  openPart,
  select,
  setCaret,
  undo,
  usePart,
  timelineOfPart,
} from './part';
import { copyToNewPart, moveToPart, putPartIn, splitAtPartMarks } from './partEdits';
import { selectPart } from './parts';
import { saved } from '../page/saving';
import { selectBetweenMarks, selectPiece } from './selecting';
import { rememberSource, useProject } from '../project/openProject';
import { focusOn, stepFocus, useStaveFocus } from './staveFocus';
import { moveTakes } from '../recording/takes';
import { addMarks } from '@/core/timeline/edits';
import { addTrack } from '@/core/timeline/tracks';
import { useQuestion } from '../page/questions';

const told = () =>
  useNotices
    .getState()
    .notices.map(({ text }) => text)
    .join(' ');
const selection = () => usePart.getState().selection;

beforeEach(() => {
  useNotices.setState({ notices: [] });
  editing.useClipboard.setState({ passage: null });
  useStaveFocus.setState({ track: null });
});
afterEach(async () => {
  await saved();
  closePart();
});

describe('passages', () => {
  test('what is copied in one part goes into another, without its audio being copied', async () => {
    const { project, parts } = await openFresh('One', 'Two');
    const source = record(10);
    select(2 * rate, 5 * rate);
    editing.copySelection();
    await stored(project.id);
    await selectPart(parts[1].id);
    editing.pasteAtCaret();
    expect(table().pieces).toEqual([{ ...audioPiece(source, 3 * rate), from: 2 * rate }]);
    expect(selection()).toEqual({ from: 0, to: 3 * rate });
    await stored(project.id);
  });

  test('cut leaves the caret at the cut; undo brings everything back', async () => {
    const { project } = await openFresh();
    record(10);
    const before = usePart.getState().timeline;
    select(2 * rate, 5 * rate);
    editing.cutSelection();
    expect(usePart.getState().caret).toBe(2 * rate);
    expect(table().frames).toBe(7 * rate);
    await undo();
    expect(usePart.getState().timeline).toEqual(before);
    await stored(project.id);
  });

  test('a nudge moves a passage and leaves its length; at the edge of the sheet it stops', async () => {
    await openFresh();
    record(10);
    select(2 * rate, 5 * rate);
    editing.nudge(100);
    expect(selection()).toEqual({ from: 2 * rate + 4800, to: 5 * rate + 4800 });
    expect(table().frames).toBe(10 * rate);
    editing.slide({ from: 0, to: rate }, -rate);
    expect(table().frames).toBe(10 * rate);
    expect(told()).toBe('');
  });

  test('copied to a new part, moved to another one, and split at part marks', async () => {
    const { project, parts } = await openFresh('One', 'Two');
    record(10);
    select(rate, 3 * rate);
    await copyToNewPart();
    expect(table().frames).toBe(10 * rate);
    const copied = (await loadProject(project.id)).parts.find(({ name }) => name === 'Part 3');
    expect(copied && sheetFramesOf(loadTimeline(copied.timeline))).toBe(2 * rate);

    select(4 * rate, 6 * rate);
    await moveToPart(parts[1].id);
    expect(table().frames).toBe(8 * rate);
    await saved();
    const moved = (await loadProject(project.id)).parts.find(({ id }) => id === parts[1].id);
    expect(moved).toMatchObject({ historyAt: 1, heardFrames: 2 * rate });
    // There it is a step of its own, which can be undone.
    if (moved) await openPart(moved);
    await undo();
    expect(usePart.getState().timeline.tracks[0].table.frames).toBe(0);
    await selectPart(parts[0].id);

    const line = { id: 'l1', text: 'A line.' };
    useProject.setState(({ parts: all }) => ({
      parts: all.map((part) => (part.id === parts[0].id ? { ...part, script: [line] } : part)),
    }));
    addMark('part', 5 * rate);
    await splitAtPartMarks();
    expect(table().frames).toBe(5 * rate);
    const all = (await loadProject(project.id)).parts;
    expect(all.map(({ timeline }) => sheetFramesOf(loadTimeline(timeline)) / rate)).toEqual([5, 0, 2, 3]);
  });

  test('in step nothing is lost or doubled: what is moved falls silent here, and nothing goes in at the end there', async () => {
    const { parts } = await openFresh('One', 'Two');
    record(10);
    const guide = { id: 'g', name: 'Visitor', pieces: table().pieces };
    edit('guide', (timeline) => addGuide(timeline, guide));
    const there = () => sheetFramesOf(timelineOfPart(parts[1].id) ?? emptyTimeline(['']));
    select(4 * rate, 6 * rate);
    moveToPart(parts[1].id);
    expect(there()).toBe(2 * rate);
    expect(table().frames).toBe(10 * rate);
    expect(table().pieces.map(({ kind, length }) => [kind, length / rate])).toEqual([
      ['audio', 4],
      ['silence', 2],
      ['audio', 4],
    ]);
    addMark('part', 5 * rate);
    await splitAtPartMarks();
    expect(messages().at(-1)).toMatch(/in step with its guide/);
    expect(useProject.getState().parts).toHaveLength(2);
    closeUpAll();
    expect(messages().at(-1)).toMatch(/in step with its guide/);
    // The other way round: the part in step takes nothing in, and the passage stays where it is.
    await selectPart(parts[1].id);
    select(0, rate);
    moveToPart(parts[0].id);
    expect(messages().at(-1)).toMatch(/“One” is in step with its guide: nothing goes in at its end/);
    expect(table().frames).toBe(2 * rate);
  });

  test('another part is put in at the caret, all of it or up to a mark, with its tracks, marks and lines', async () => {
    const { project, parts } = await openFresh('One', 'Two');
    record(10);
    const [one, two] = parts;
    await selectPart(two.id);
    record(6);
    edit('two voices', (timeline) => addTrack(timeline, { id: 'guest', name: 'Guest' }));
    const lines = ['first', 'second'].map((id) => ({ id, text: `The ${id} line.` }));
    useProject.setState(({ parts: all }) => ({
      parts: all.map((part) => (part.id === two.id ? { ...part, script: lines } : part)),
    }));
    edit('lines', (timeline) =>
      addMarks(timeline, [
        { id: 'm1', kind: 'line', at: rate, length: 0, name: '', line: 'first' },
        { id: 'm2', kind: 'line', at: 4 * rate, length: 0, name: '', line: 'second' },
        { id: 'm3', kind: 'note', at: 3 * rate, length: 0, name: 'Song' },
      ]),
    );
    await selectPart(one.id);
    setCaret(2 * rate);
    const put = putPartIn(two.id);
    useQuestion.getState().question?.answer('m3');
    await put;
    const { timeline } = usePart.getState();
    expect(timeline.tracks.map(({ name, table: { frames } }) => [name, frames / rate])).toEqual([
      ['Voice', 13],
      ['Guest', 13],
    ]);
    expect(timeline.marks.map(({ kind, at }) => [kind, at / rate])).toEqual([['line', 3]]);
    await saved();
    const stored = (await loadProject(project.id)).parts;
    expect(stored.find(({ id }) => id === one.id)?.script.map(({ id }) => id)).toEqual(['first']);
    expect(stored.find(({ id }) => id === two.id)?.heardFrames).toBe(6 * rate);
    await undo();
    expect(usePart.getState().timeline.tracks.map(({ table: { frames } }) => frames)).toEqual([10 * rate]);
    const whole = putPartIn(two.id);
    useQuestion.getState().question?.answer('all');
    await whole;
    expect(table().frames).toBe(16 * rate);
    // Closed without an answer nothing is put in.
    const none = putPartIn(two.id);
    useQuestion.getState().question?.answer(null);
    await none;
    expect(table().frames).toBe(16 * rate);
  });

  test('without anything to act on they say what to do, and make no step', async () => {
    await openFresh();
    record(2);
    const { historyAt } = usePart.getState();
    editing.copySelection();
    editing.cutSelection();
    editing.pasteAtCaret();
    editing.strikeSelection();
    editing.silenceSelection();
    editing.strikeFlubs();
    closeUpAll();
    editing.setJoinAtCaret();
    editing.trimAtCaret('start');
    await copyToNewPart();
    await splitAtPartMarks();
    await editing.matchGain();
    expect(usePart.getState().historyAt).toBe(historyAt);
    expect(useNotices.getState().notices.length).toBeGreaterThan(7);
  });
});

describe('one stave of several', () => {
  async function openTwo() {
    const opened = await openFresh();
    edit('add track', (timeline) => addTrack(timeline, { id: 'track-2', name: 'Two' }));
    record(10, ['track-1', 'track-2']);
    return opened;
  }

  test('striking it leaves the time of the others; stet lets its reading be heard again', async () => {
    const { project } = await openTwo();
    focusOn('track-2');
    select(2 * rate, 4 * rate);
    editing.strikeSelection();
    expect(table(0).pieces).toHaveLength(1);
    expect(table(1).pieces.map(({ kind }) => kind)).toEqual(['audio', 'silence', 'audio']);
    expect(table(1).frames).toBe(10 * rate);
    expect(heardFrames()).toBe(10 * rate);
    select(2 * rate, 4 * rate);
    editing.stetSelection();
    expect(table(1).pieces).toHaveLength(1);
    await stored(project.id);
  });

  test('gain and fades are for it alone; the focus goes round', async () => {
    await openTwo();
    focusOn('track-1');
    select(2 * rate, 4 * rate);
    editing.changeGain(3);
    editing.fadeSelection('fadeOut');
    expect(table(0).pieces[1]).toMatchObject({ gainDb: 3, fadeOut: { frames: 2 * rate, shape: 'power' } });
    expect(table(1).pieces).toHaveLength(1);
    // The same fade again takes it away.
    editing.fadeSelection('fadeOut');
    expect(table(0).pieces[1].fadeOut).toBeUndefined();
    const seen = [0, 1, 2].map(() => {
      stepFocus();
      return useStaveFocus.getState().track;
    });
    expect(seen).toEqual(['track-2', null, 'track-1']);
  });
});

describe('joins, marks and selections', () => {
  test('a split makes pieces that can be selected; the join nearest the caret gets its length', async () => {
    await openFresh();
    record(4);
    record(4);
    setCaret(rate);
    editing.splitAtCaret();
    setCaret(2 * rate);
    selectPiece();
    expect(selection()).toEqual({ from: rate, to: 4 * rate });
    editing.useEditSettings.setState({ joinMs: 50, joinShape: 'smooth' });
    setCaret(4 * rate + 10);
    editing.setJoinAtCaret();
    expect(table().pieces[2].joint).toEqual({ frames: 2400, shape: 'smooth' });
    setCaret(6 * rate);
    editing.trimAtCaret('end');
    expect(struck()).toEqual([{ from: 6 * rate, to: 8 * rate }]);
  });

  test('between marks; a flub as a range, in either direction', async () => {
    await openFresh();
    record(10);
    addMark('note', 2 * rate);
    addMark('note', 6 * rate);
    setCaret(3 * rate);
    selectBetweenMarks();
    expect(selection()).toEqual({ from: 2 * rate, to: 6 * rate });
    addMark('flub', 5 * rate, 0, true);
    expect(endMark('flub', 4 * rate)).toBe(true);
    expect(endMark('flub', 9 * rate)).toBe(false);
    editing.strikeFlubs();
    expect(struck()).toEqual([{ from: 4 * rate, to: 5 * rate }]);
    setCaret(7 * rate);
    closeUpAll();
    expect(usePart.getState().caret).toBe(6 * rate);
  });

  test('takes that are not on the sheet go to another part, with a number of their own; others stay', async () => {
    const { parts } = await openFresh('One', 'Two');
    const onSheet = record(2);
    const take = (id: string, number: number) => ({
      id,
      projectIds: [parts[0].projectId],
      partId: parts[0].id,
      trackId: 'track-1',
      take: number,
      name: `Take ${number}`,
      rateHz: rate,
      channels: 1,
      state: 'kept' as const,
      frames: rate,
      handleFrames: 0,
      startedAt: number,
      overrunFrames: 0,
      input: 'test',
    });
    const takes = [take(onSheet, 1), take('free', 2)];
    takes.forEach(rememberSource);
    moveTakes(takes, parts[1].id);
    const { sources } = useProject.getState();
    expect(sources.get('free')).toMatchObject({ partId: parts[1].id, take: 1 });
    expect(sources.get(onSheet)).toMatchObject({ partId: parts[0].id });
    expect(told()).toMatch(/stays in its part/);
  });
});

describe('levels', () => {
  const loud = noise(3 * rate, -20, 1);
  const soft = noise(3 * rate, -26, 2);
  const gains = () =>
    table().pieces.map((piece) => (piece.kind === 'audio' ? Math.round(piece.gainDb) + 0 : null));

  test('a passage is made as loud as the speech around it, once', async () => {
    await openFresh();
    await recordAudio(concat(loud, soft, loud));
    select(3 * rate, 6 * rate);
    await editing.matchGain();
    expect(gains()).toEqual([0, 6, 0]);
    await editing.matchGain();
    expect(told()).toContain('as loud as its neighbours already');
    select(0, 9 * rate);
    await editing.matchGain();
    expect(told()).toContain('There is no speech here, or none around it');
  });

  test('what is pasted over is as loud as what is beside it', async () => {
    await openFresh();
    await recordAudio(concat(soft, loud, loud, loud));
    select(0, 3 * rate);
    editing.copySelection();
    setCaret(6 * rate);
    usePart.setState({ selection: null });
    await editing.pasteOverAtCaret();
    expect(table().frames).toBe(12 * rate);
    expect(gains()).toEqual([0, 6, 0]);
    expect(selection()).toEqual({ from: 6 * rate, to: 9 * rate });
    expect(table().pieces[1]).toMatchObject({ from: 0, length: 3 * rate });
  });

  test('pasting over wants something to paste', async () => {
    await openFresh();
    record(2);
    await editing.pasteOverAtCaret();
    expect(told()).toContain('Nothing was cut or copied yet');
  });
});

describe('what cannot be done is said', () => {
  test('a split where there is one, a trim at an edge, a join that was not set', async () => {
    await openFresh();
    record(4);
    setCaret(2 * rate);
    editing.splitAtCaret();
    expect(table().pieces).toHaveLength(2);
    editing.splitAtCaret();
    expect(told()).toContain('There is an end of a piece here already');
    editing.trimAtCaret('start');
    expect(told()).toContain('nothing to trim on that side');
    editing.clearJoinAtCaret();
    expect(table().pieces).toHaveLength(1);
    editing.clearJoinAtCaret();
    expect(told()).toContain('Nothing was set by hand at the join');
  });

  test('a trim strikes what is before the caret', async () => {
    await openFresh();
    record(4);
    setCaret(rate);
    editing.trimAtCaret('start');
    expect(struck()).toEqual([{ from: 0, to: rate }]);
    expect(usePart.getState().steps.get(1)?.label).toBe('trim start');
  });

  test('stet where nothing is struck; without a selection it is what is struck at the caret', async () => {
    await openFresh();
    record(4);
    setCaret(rate);
    editing.stetSelection();
    expect(told()).toContain('Nothing is struck here');
    select(0, 2 * rate);
    editing.strikeSelection();
    usePart.setState({ selection: null });
    editing.stetSelection();
    expect(struck()).toEqual([]);
  });
});

test('a pause gets the length that is set', async () => {
  await openFresh();
  record(10);
  select(4 * rate, 7 * rate);
  await editing.setPause(0.5);
  expect(heardFrames()).toBe(7.5 * rate);
  expect(selection()).toBeNull();
  expect(usePart.getState().steps.get(1)?.label).toBe('pause of 0.5 s');
});
