import { messages, openFresh, record, stored } from '../testing/fixture';
import { builtInChains } from '@/core/chain/builtIn';
import { chainToJson } from '@/core/chain/chainFile';
import { changeStrip, stripOf } from '@/core/timeline/mixEdits';
import { loadTimeline } from '@/core/timeline/stored';
import { soundingOf } from '@/core/timeline/sounding';
import type { Timeline } from '@/core/timeline/timeline';
import { loadProject } from '@/storage/projects';
import { heardThrough, useChainHearing } from '../hearing/chainHearing';
import { useMixing } from '../mix/strips';
import { useNotices } from '../page/notices';
import { saved } from '../page/saving';
import { soundingSettings, useProject } from '../project/openProject';
import { closePart, editPart, redo, undo, usePart } from '../sheet/part';
import { forgetChain, keepChain, openChainFile, readChainLibrary, useChainLibrary } from './chainLibrary';
import {
  chainOf,
  chosenStep,
  draftStep,
  hearStepAlone,
  moveChosenStep,
  placeStep,
  putStep,
  removeStep,
  setStep,
  stepThrough,
  toggleStep,
  useChains,
  voiceSounding,
} from './chains';
import { otherVoices, shareChain, undoLast } from './sharing';

const voice = 'track-1';
const kinds = () => chainOf(usePart.getState().timeline, voice).steps.map(({ kind }) => kind);

beforeEach(() => {
  useNotices.setState({ notices: [] });
  useMixing.setState({ chosen: null, draft: null });
  useChains.setState({ step: null, choosing: false });
  useChainHearing.setState({ voice: null, hear: 'finished', alone: null, equal: true, equalDb: null });
});
afterEach(async () => {
  await saved();
  closePart();
});

test('steps come, change, move and go, each as one step that can be undone, and all of it is stored', async () => {
  const { project } = await openFresh();
  record(2);
  const even = putStep(voice, 'even');
  putStep(voice, 'rumble');
  expect(kinds()).toEqual(['rumble', 'even']);
  if (even?.kind !== 'even') throw new Error('no step');
  setStep(voice, { ...even, ratio: 5 });
  placeStep(voice, even.id, 0);
  expect(kinds()).toEqual(['even', 'rumble']);
  toggleStep(voice, even.id);
  const [first] = chainOf(usePart.getState().timeline, voice).steps;
  expect(first).toMatchObject({ id: even.id, on: false, ratio: 5 });
  removeStep(voice, even.id);
  expect(kinds()).toEqual(['rumble']);
  const end = await stored(project.id);
  expect(end).toBeTruthy();
  const [part] = (await loadProject(project.id)).parts;
  expect(stripOf(loadTimeline(part.timeline), voice).chain?.steps.map(({ kind }) => kind)).toEqual([
    'rumble',
  ]);
  for (let i = 0; i < 6; i++) await undo();
  expect(usePart.getState().timeline.mix).toBeUndefined();
  for (let i = 0; i < 6; i++) await redo();
  expect(kinds()).toEqual(['rumble']);
});

test('a value on its way is a draft: heard, and no step of the history until it ends', async () => {
  await openFresh();
  record(1);
  const step = putStep(voice, 'rumble');
  const at = usePart.getState().historyAt;
  if (step?.kind !== 'rumble') throw new Error('no step');
  draftStep(voice, { ...step, hertz: 120 });
  expect(usePart.getState().historyAt).toBe(at);
  expect(useMixing.getState().draft?.changes.chain?.steps[0]).toMatchObject({ hertz: 120 });
  setStep(voice, { ...step, hertz: 125 });
  expect(useMixing.getState().draft).toBeNull();
  expect(usePart.getState().historyAt).toBe(at + 1);
});

test('keys go through the steps and move them; without a chain they say so', async () => {
  await openFresh();
  record(1);
  stepThrough(1);
  expect(messages().join()).toContain('This voice has no chain yet');
  putStep(voice, 'rumble');
  putStep(voice, 'even');
  useChains.setState({ step: null });
  stepThrough(1);
  expect(chosenStep()?.step.kind).toBe('rumble');
  stepThrough(-1);
  expect(chosenStep()?.step.kind).toBe('even');
  moveChosenStep(-1);
  expect(kinds()).toEqual(['even', 'rumble']);
  hearStepAlone();
  expect(useChainHearing.getState().alone).toBe(chosenStep()?.step.id);
  hearStepAlone();
  expect(useChainHearing.getState().alone).toBeNull();
});

test('where a project is only looked at nothing changes', async () => {
  await openFresh();
  record(1);
  useProject.setState({ readOnly: true });
  putStep(voice, 'rumble');
  expect(kinds()).toEqual([]);
});

describe('how a voice is heard', () => {
  const heard = (timeline: Timeline) =>
    heardThrough(soundingOf(timeline, soundingSettings()), timeline).tracks[0].strip;

  test('finished is with its chain, as recorded without and as loud, taken away is the difference', async () => {
    await openFresh();
    record(1);
    putStep(voice, 'rumble');
    const even = putStep(voice, 'even');
    const { timeline } = usePart.getState();
    useChainHearing.setState({ voice, equalDb: 2.5 });
    expect(heard(timeline)?.chain).toHaveLength(2);
    useChainHearing.setState({ hear: 'recorded' });
    expect(heard(timeline)).toEqual({ levelDb: 2.5, place: 0, points: [] });
    useChainHearing.setState({ equal: false });
    expect(heard(timeline)?.levelDb).toBe(0);
    useChainHearing.setState({ hear: 'taken' });
    expect(heard(timeline)).toMatchObject({ taken: true });
    useChainHearing.setState({ hear: 'finished', alone: even?.id ?? '' });
    expect(heard(timeline)?.chain?.map(({ kind }) => kind)).toEqual(['even']);
    // Of a level of its own it stays a change on top.
    const louder = changeStrip(timeline, voice, { levelDb: 3 });
    useChainHearing.setState({ hear: 'recorded', alone: null, equal: true });
    expect(heard(louder)?.levelDb).toBe(5.5);
  });

  test('where nothing runs nothing is taken away, and other voices are as they are', async () => {
    await openFresh();
    record(1);
    const { timeline } = usePart.getState();
    useChainHearing.setState({ voice, hear: 'taken' });
    expect(heard(timeline)?.levelDb).toBe(-Infinity);
    useChainHearing.setState({ voice: 'another' });
    expect(heard(timeline)).toBeUndefined();
  });
});

describe('a chain on other voices', () => {
  const order = ['One', 'Two', 'Three'];
  const chainsOf = async (projectId: string) => {
    const { parts } = await loadProject(projectId);
    return [...parts]
      .sort((a, b) => order.indexOf(a.name) - order.indexOf(b.name))
      .map(({ timeline }) => stripOf(loadTimeline(timeline), voice).chain?.steps.length ?? 0);
  };

  test('which ones are asked for; one undo takes it back in all parts, in storage too', async () => {
    const { project, parts } = await openFresh('One', 'Two', 'Three');
    record(1);
    putStep(voice, 'rumble');
    const others = otherVoices({ partId: parts[0].id, voice });
    expect(others.map(({ part, name }) => `${part}: ${name}`)).toEqual(['Two: Voice', 'Three: Voice']);
    shareChain({ partId: parts[0].id, voice }, others);
    await saved();
    expect(await chainsOf(project.id)).toEqual([1, 1, 1]);
    await undoLast();
    await saved();
    expect(await chainsOf(project.id)).toEqual([1, 0, 0]);
    expect(messages().join()).toContain('taken back everywhere');
    // The next undo is an ordinary one.
    await undoLast();
    expect(kinds()).toEqual([]);
  });

  test('a part that was edited since keeps its edit and its chain, and that is told', async () => {
    const { project, parts } = await openFresh('One', 'Two', 'Three');
    record(1);
    putStep(voice, 'rumble');
    shareChain({ partId: parts[0].id, voice }, otherVoices({ partId: parts[0].id, voice }));
    editPart(parts[1].id, 'level', (timeline) => changeStrip(timeline, voice, { levelDb: -3 }));
    await undoLast();
    await saved();
    expect(await chainsOf(project.id)).toEqual([1, 1, 0]);
    expect(messages().join()).toContain('One part was edited since');
  });

  test('after another edit here undo is of that edit', async () => {
    const { project, parts } = await openFresh('One', 'Two');
    record(1);
    putStep(voice, 'rumble');
    shareChain({ partId: parts[0].id, voice }, otherVoices({ partId: parts[0].id, voice }));
    putStep(voice, 'even');
    await undoLast();
    expect(kinds()).toEqual(['rumble']);
    await saved();
    expect(await chainsOf(project.id)).toEqual([1, 1]);
  });
});

describe('saved chains', () => {
  const mine = { ...builtInChains[0], name: 'Mine', note: 'for mornings' };
  const fileOf = (text: string, name = 'mine.chain.json') => new File([text], name);

  test('are kept by name, replaced, forgotten, and read again', async () => {
    expect(await keepChain(mine)).toBe(true);
    await keepChain({ ...mine, note: 'for evenings' });
    useChainLibrary.setState({ own: [] });
    await readChainLibrary();
    expect(useChainLibrary.getState().own.map(({ note }) => note)).toEqual(['for evenings']);
    await forgetChain('Mine');
    await readChainLibrary();
    expect(useChainLibrary.getState().own).toEqual([]);
  });

  test('a name that comes with Parola stays what it is', async () => {
    expect(await keepChain({ ...mine, name: ' quiet BOOTH, one voice' })).toBe(false);
    expect(messages().join()).toContain('Give yours another name');
  });

  test('come in from files; one that cannot be used says why and changes nothing', async () => {
    expect(await openChainFile(fileOf(chainToJson(mine)))).toMatchObject({ name: 'Mine' });
    expect(await openChainFile(fileOf('{"parolaChain":1,"steps":[{"kind":"even","on":true}]}'))).toBeNull();
    expect(messages().join()).toMatch(/mine\.chain\.json: .*step 1 \(Evener reading\)/);
    expect(useChainLibrary.getState().own).toHaveLength(1);
    const named = await openChainFile(fileOf(chainToJson({ ...mine, name: '' }), 'Van.chain.json'));
    expect(named?.name).toBe('Van');
    expect(await openChainFile(fileOf(chainToJson(builtInChains[0])))).toMatchObject({
      name: `${builtInChains[0].name} (from a file)`,
    });
  });
});

test('a voice by itself has neither level nor place, and the left side of a pair first', async () => {
  await openFresh();
  record(1);
  putStep(voice, 'rumble');
  const { timeline } = usePart.getState();
  const loud = changeStrip(timeline, voice, { levelDb: 6, place: 1 });
  expect(voiceSounding(loud, voice).tracks).toMatchObject([{ strip: { levelDb: 0, place: 0 } }]);
  expect(voiceSounding(loud, voice, { dry: true }).tracks[0].strip).toBeUndefined();
});
