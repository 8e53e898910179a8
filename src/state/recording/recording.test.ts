import { heardFramesOf, sheetFramesOf } from '@/core/timeline/timeline';
import { loadTimeline } from '@/core/timeline/stored';
import { loadProject } from '@/storage/projects';
import { BlockWriter } from '@/storage/blocks';
import { createSource, finishSource, sourceRecord } from '@/storage/sources';
import { usePart, edit, select, setCaret, openPart, timelineOfPart } from '../sheet/part';
import { addTrack } from '@/core/timeline/tracks';
import {
  messages,
  openFresh,
  rate,
  record as planted,
  stored,
  struck,
  table,
  until,
} from '../testing/fixture';
import { dismissAll } from '../page/notices';
import * as devices from '../testing/devices';
import { partRecord, useProject } from '../project/openProject';
import { changePart, setRecordSettings, setRoutes } from '../project/settings';
import { useTransport } from '../hearing/transport';
import { chooseInput, monitor, useInput } from './input';
import { retakeSentence, startNextPart } from './readingOn';
import { recordIntent } from './recordPlan';
import { recordStretch } from './recorder';
import { closeTransport, record, stopRecording } from './recording';

const { asked, begun, captured, clock, fakeInput, finish, heard, recorder, resultOf } = devices;

jest.mock('../hearing/engine', () => jest.requireActual<typeof devices>('../testing/devices').engineModule);
jest.mock('@/audio/playAt', () => jest.requireActual<typeof devices>('../testing/devices').playAtModule);
jest.mock('@/audio/capture', () => jest.requireActual<typeof devices>('../testing/devices').captureModule);
jest.mock('@/audio/inputs', () => jest.requireActual<typeof devices>('../testing/devices').inputsModule);
jest.mock(
  '@/audio/simulatedInput',
  () => jest.requireActual<typeof devices>('../testing/devices').simulatedInputModule,
);
let mockFails = false;
jest.mock('../hearing/rendering', () => ({
  renderer: () => (_from: number, frames: number) =>
    mockFails
      ? Promise.reject(new Error('cannot be rendered'))
      : Promise.resolve([new Float32Array(frames).fill(0.25)]),
}));
/** The sentence before the head begins a second before it; an abandoned one ends half a second later. */
jest.mock('../sheet/sentenceSteps', () => ({
  punchBefore: (head: number, back: number) => Promise.resolve(Math.max(0, head - rate * (1 + back))),
  abandonedEnd: (_timeline: unknown, _voices: unknown, at: number) => Promise.resolve(at + rate / 2),
}));

const mode = () => useTransport.getState().mode;
const takes = () => [...useProject.getState().sources.values()].map(({ name }) => name);
const sheetFrames = () => sheetFramesOf(usePart.getState().timeline);
const becomes = (wanted: ReturnType<typeof mode>) => until(() => mode() === wanted);

async function choose(channels = 1, simulated = false) {
  const input = fakeInput(channels, simulated);
  devices.inputs.push(input);
  await chooseInput(
    simulated ? { kind: 'reader' } : { kind: 'microphone', deviceId: 'mic', label: 'Microphone' },
  );
  expect(useInput.getState().status).toBe('open');
  return input;
}

/** A take of so many seconds, from the key to its place on the sheet. */
async function take(seconds: number) {
  await record();
  begun();
  captured(seconds * rate);
  const ended = stopRecording();
  finish(seconds * rate);
  await ended;
}

let projectId = '';
beforeEach(async () => {
  devices.resetDevices();
  mockFails = false;
  devices.microphones.push({ deviceId: 'mic', label: 'Microphone' });
  ({
    project: { id: projectId },
  } = await openFresh());
  dismissAll();
});
afterEach(closeTransport);

describe('a take', () => {
  test('stands on the sheet and in the list with what was captured around it, and the next one goes on', async () => {
    await choose();
    clock.frame = 1000;
    await record();
    expect(useTransport.getState()).toMatchObject({ mode: 'recording', rolling: null });
    expect(asked().source.projectIds).toEqual([projectId]);
    expect(asked()).toMatchObject({ input: 'main', channels: [0], atFrame: 1000, handleFrames: rate });
    expect(asked().source).toMatchObject({
      take: 1,
      name: 'Take 1',
      trackIds: ['track-1'],
      state: 'recording',
    });
    begun(rate);
    captured(2 * rate);
    expect(useTransport.getState().live?.frames).toBe(2 * rate);
    clock.frame = 1000 + 2 * rate;
    const ended = stopRecording();
    expect(mode()).toBe('finishing');
    expect(recorder().of('stop')).toEqual([
      { type: 'stop', sourceId: asked().source.id, atFrame: 1000 + 2 * rate, handleFrames: rate / 2 },
    ]);
    const { id } = asked().source;
    finish(2 * rate, { frames: 3.5 * rate, handleFrames: rate });
    await ended;

    expect(mode()).toBe('idle');
    expect(table().pieces).toMatchObject([{ kind: 'audio', source: id, from: rate, length: 2 * rate }]);
    expect(useProject.getState().sources.get(id)).toMatchObject({
      state: 'kept',
      frames: 3.5 * rate,
      handleFrames: rate,
      summary: { peakDbfs: -6 },
    });
    expect(usePart.getState().caret).toBe(2 * rate);
    await stored(projectId);

    await take(1);
    expect(takes()).toEqual(['Take 1', 'Take 2']);
    expect(sheetFrames()).toBe(3 * rate);
  });

  test('ends what is playing', async () => {
    await choose();
    useTransport.setState({ mode: 'playing' });
    await take(1);
    expect(sheetFrames()).toBe(rate);
  });

  test('one of two quiet microphones is nothing to tell of', async () => {
    edit('add track', (timeline) => addTrack(timeline, { id: 'guest', name: 'Guest' }));
    setRoutes([{ track: 'guest', channel: 1, armed: true }]);
    await choose(2);
    await record();
    begun();
    const { id: sourceId } = asked().source;
    recorder().say({ type: 'signal', sourceId, channel: 1, signal: 'quiet' });
    expect(messages()).toEqual([]);
    recorder().say({ type: 'signal', sourceId, channel: 1, signal: 'none' });
    expect(messages()).toEqual([expect.stringContaining('Nothing comes from the input for Guest')]);
    const ended = stopRecording();
    finish(rate);
    await ended;
  });

  test('is asked for once, however often the key is pressed', async () => {
    await choose();
    await Promise.all([record(), record()]);
    begun();
    await record();
    expect(recorder().of('start')).toHaveLength(1);
    const ended = stopRecording();
    finish(rate);
    await ended;
    expect(sheetFrames()).toBe(rate);
  });

  test('that was stopped before it was asked for leaves nothing behind, and the next one is recorded', async () => {
    await choose();
    let letGo: () => void = () => undefined;
    devices.held.engine = new Promise<void>((resolve) => (letGo = resolve));
    const first = record();
    await stopRecording();
    expect(mode()).toBe('idle');
    letGo();
    await first;
    expect(recorder().of('start')).toEqual([]);
    await take(1);
    expect(takes()).toEqual(['Take 1']);
  });

  test('without an input that is still open says so, and is over', async () => {
    await choose();
    let letGo: () => void = () => undefined;
    devices.held.engine = new Promise<void>((resolve) => (letGo = resolve));
    const first = record();
    const { closeInput } = jest.requireActual<typeof import('./openInputs')>('./openInputs');
    closeInput('main');
    letGo();
    await first;
    expect(mode()).toBe('idle');
    expect(messages()).toEqual(['The input is not open any more. Choose it again.']);
  });

  test('what was heard and found during it becomes marks: one clap, though two microphones hear it', async () => {
    await choose();
    await record();
    begun();
    const { id: sourceId } = asked().source;
    recorder().say({
      type: 'found',
      sourceId,
      findings: [
        { kind: 'clap', at: rate, length: 0 },
        { kind: 'clap', at: rate + 0.04 * rate, length: 0 },
        { kind: 'clap', at: rate + 0.2 * rate, length: 0 },
        { kind: 'clipped', at: 1.9 * rate, length: rate },
        { kind: 'faint', at: 2 * rate, length: 10 },
      ],
    });
    captured(2 * rate);
    const ended = stopRecording();
    finish(2 * rate);
    await ended;
    expect(
      usePart.getState().timeline.marks.map(({ kind, at, length, name }) => ({ kind, at, length, name })),
    ).toEqual([
      { kind: 'flub', at: rate, length: 0, name: 'Clap' },
      { kind: 'flub', at: 1.2 * rate, length: 0, name: 'Clap' },
      { kind: 'clipped', at: 1.9 * rate, length: 0.1 * rate, name: 'Clipped' },
    ]);
  });

  test('says when storage could not keep up, and how much was lost', async () => {
    await choose();
    await record();
    begun();
    const ended = stopRecording();
    finish(rate, { overrunFrames: rate / 4 });
    await ended;
    expect(messages()).toEqual([expect.stringContaining('0.25 s of take 1 were lost')]);
  });

  test('the current line of the script is read from its beginning on', async () => {
    await choose();
    const { id } = usePart.getState();
    changePart(id ?? '', { script: [{ id: 'line', text: 'Once upon a time' }], currentLine: 0 });
    await take(1);
    expect(usePart.getState().timeline.marks).toMatchObject([{ kind: 'line', at: 0 }]);
  });

  test.each([
    ['sound', []],
    ['none', [expect.stringContaining('Nothing comes from the input for Voice')]],
    ['quiet', [expect.stringContaining('Nothing has been said for 20 seconds')]],
  ] as const)('tells what comes from its microphone: %s', async (signal, told) => {
    await choose();
    await record();
    begun();
    recorder().say({ type: 'signal', sourceId: asked().source.id, channel: 0, signal });
    expect(messages()).toEqual(told);
    expect(useTransport.getState().live?.signals).toEqual([signal]);
    const ended = stopRecording();
    finish(rate);
    await ended;
  });
});

describe('an input that goes away', () => {
  test('ends the take with what was captured; the input can be chosen again and the next take is made', async () => {
    const input = await choose();
    await record();
    begun();
    captured(2 * rate);
    const { id } = asked().source;
    input.unplug();
    expect(
      recorder()
        .told.slice(-2)
        .map(({ type }) => type),
    ).toEqual(['stop', 'detach']);
    expect(input.closed).toBe(true);
    expect(useInput.getState()).toMatchObject({ status: 'failed', channels: 0, monitoring: false });
    expect(messages()).toEqual([expect.stringContaining('Microphone went away while recording')]);
    recorder().say({ type: 'finished', take: resultOf(id, 1.5 * rate) });
    await becomes('idle');
    expect(sheetFrames()).toBe(1.5 * rate);
    expect(takes()).toEqual(['Take 1']);

    await choose();
    await take(1);
    expect(takes()).toEqual(['Take 1', 'Take 2']);
  });

  test('while nothing is recorded is told of, and is closed', async () => {
    const input = await choose();
    input.unplug();
    expect(messages()).toEqual([expect.stringContaining('Microphone went away. Plug it in')]);
    expect(input.closed).toBe(true);
    expect(recordIntent().can).toBe(false);
  });

  test('one that has been replaced already is of no interest', async () => {
    const first = await choose();
    await choose();
    first.unplug();
    expect(useInput.getState().status).toBe('open');
    expect(messages()).toEqual([]);
  });

  test.each([true, false])('a browser that stops its sound (for good: %s) ends the take', async (gone) => {
    await choose();
    await record();
    begun();
    const { id } = asked().source;
    devices.stopSound(gone);
    expect(messages()).toEqual([
      expect.stringContaining(gone ? 'went away while recording' : 'has interrupted the sound'),
    ]);
    expect(recorder().of(gone ? 'detach' : 'stop')).toHaveLength(1);
    recorder().say({ type: 'finished', take: resultOf(id, rate) });
    await becomes('idle');
    expect(sheetFrames()).toBe(rate);
    await choose();
    await take(1);
    expect(sheetFrames()).toBe(2 * rate);
  });

  test('a sleeping context is nothing to tell of while nothing is recorded', async () => {
    await choose();
    devices.stopSound(false);
    expect(messages()).toEqual([]);
  });
});

describe('a recorder that dies', () => {
  const storeAudio = async (frames: number) => {
    await createSource({ ...asked().source, frames: 0, handleFrames: 0 });
    const writer = new BlockWriter(asked().source.id, 1);
    await writer.write([new Float32Array(frames)]);
    await writer.close();
  };

  test('leaves what it had stored; a new one gets the input, and the next take is recorded', async () => {
    await choose();
    await record();
    begun();
    await storeAudio(16_384);
    const { id } = asked().source;
    const dead = recorder();
    dead.onerror();
    await becomes('idle');
    expect(dead.terminated).toBe(true);
    expect(sheetFrames()).toBe(16_384);
    expect(messages()).toEqual([
      expect.stringMatching(/The recorder stopped unexpectedly.*Everything up to then is kept/),
    ]);
    expect(await sourceRecord(id)).toMatchObject({ state: 'kept', frames: 16_384 });

    await take(1);
    expect(recorder()).not.toBe(dead);
    expect(recorder().of('attach')).toHaveLength(1);
    expect(sheetFrames()).toBe(16_384 + rate);
    // What a dead one still says is not believed.
    dead.onerror();
    expect(recorder().terminated).toBe(false);
  });

  test('handles belong to what it had stored, not to the take', async () => {
    await choose();
    await record();
    begun(1000);
    await storeAudio(16_384);
    await finishSource(asked().source.id, { handleFrames: 1000, overrunFrames: 48 });
    recorder().onerror();
    await becomes('idle');
    expect(table().pieces).toMatchObject([{ from: 1000, length: 15_384 }]);
    expect(messages()).toContainEqual(expect.stringContaining('0.00 s of take 1 were lost'));
  });

  test('without having stored anything says so', async () => {
    await choose();
    await record();
    recorder().onerror();
    await becomes('idle');
    expect(messages()).toEqual([expect.stringContaining('Nothing had been recorded yet')]);
    expect(takes()).toEqual([]);
  });

  test('is one that has not said anything for over a second; one that is alive is let be', async () => {
    await choose();
    await record();
    begun();
    const first = recorder();
    for (let turn = 0; turn < 4; turn++) {
      await new Promise((resolve) => setTimeout(resolve, 400));
      first.say({ type: 'alive' });
    }
    expect(mode()).toBe('recording');
    await becomes('idle');
    expect(first.terminated).toBe(true);
    expect(messages()).toEqual([expect.stringContaining('The recorder stopped unexpectedly')]);
  });

  test('a recording that ends by itself says why, and what is kept', async () => {
    await choose();
    await record();
    begun();
    const take = resultOf(asked().source.id, rate);
    recorder().say({ type: 'failed', take, code: 'storage-full', message: 'The disk is full.' });
    await becomes('idle');
    expect(messages()).toEqual(['Recording stopped: The disk is full. Everything up to then is kept.']);
    expect(sheetFrames()).toBe(rate);
  });
});

describe('where a take goes', () => {
  beforeEach(async () => {
    planted(10);
    await choose();
    setRecordSettings({ mode: 'retake', runUpSeconds: 3 });
    setCaret(4 * rate);
  });

  test('a retake is led into by what is before it, and begins when the reader has heard that to its end', async () => {
    clock.frame = 500;
    await record();
    expect(mode()).toBe('rolling');
    const punch = Math.ceil(500 + 0.15 * rate) + 3 * rate;
    expect(heard).toMatchObject([{ frames: 3 * rate, at: punch - 3 * rate }]);
    // The input says how long its round trip is.
    expect(asked().atFrame).toBe(punch + 480);
    const { rolling } = useTransport.getState();
    expect(rolling).toMatchObject({ seconds: 3, fromFrame: 4 * rate });
    expect((rolling?.until ?? 0) - performance.now() / 1000).toBeCloseTo(3.15, 1);
    expect(useTransport.getState().live).toBeNull();
    begun();
    expect(mode()).toBe('recording');
    captured(rate);
    const ended = stopRecording();
    expect(heard[0].stopped).toBe(true);
    finish(rate);
    await ended;
    expect(table().pieces.map(({ length }) => length)).toEqual([4 * rate, rate, 5 * rate]);
    // The sentence it replaces went on for half a second more.
    expect(struck()).toEqual([{ from: 5 * rate, to: 5.5 * rate }]);
    expect(usePart.getState().caret).toBe(5 * rate);
  });

  test('calling a run-up off leaves the sheet as it was', async () => {
    await record();
    const ended = stopRecording();
    expect(heard[0].stopped).toBe(true);
    finish(0);
    await ended;
    expect(mode()).toBe('idle');
    expect(sheetFrames()).toBe(10 * rate);
    expect(takes()).toEqual(['Take 1']);
    expect(usePart.getState().caret).toBe(4 * rate);
  });

  test('an insert opens a gap', async () => {
    setRecordSettings({ mode: 'insert', runUpSeconds: 0 });
    await take(1);
    expect(sheetFrames()).toBe(11 * rate);
  });

  test('a patch ends by itself with the selection, after which the sheet is heard going on', async () => {
    setRecordSettings({ mode: 'patch', runUpSeconds: 0 });
    await record();
    expect(messages()).toEqual([expect.stringContaining('select what to replace')]);
    select(4 * rate, 6 * rate);
    await record();
    const { atFrame, source } = asked();
    expect(recorder().of('stop')).toMatchObject([{ sourceId: source.id, atFrame: atFrame + 2 * rate }]);
    expect(heard).toMatchObject([{ frames: 2 * rate, at: atFrame + 2 * rate }]);
    begun();
    finish(2 * rate);
    await becomes('idle');
    expect(heard[0].stopped).toBe(true);
    expect(table().pieces.map(({ length }) => length)).toEqual([4 * rate, 2 * rate, 4 * rate]);
  });

  test('a patch goes on where what follows it cannot be heard; without a run-up nothing is recorded', async () => {
    setRecordSettings({ mode: 'patch', runUpSeconds: 0 });
    select(4 * rate, 6 * rate);
    mockFails = true;
    await record();
    expect(mode()).toBe('recording');
    expect(heard).toEqual([]);
    begun();
    finish(2 * rate);
    await becomes('idle');
    expect(table().pieces).toHaveLength(3);
    setRecordSettings({ mode: 'retake', runUpSeconds: 2 });
    await record();
    expect(mode()).toBe('idle');
    expect(recorder().of('start')).toHaveLength(1);
    expect(messages()).toEqual([expect.stringContaining('cannot be rendered')]);
    mockFails = false;
    setRecordSettings({ runUpSeconds: 0 });
    await take(1);
    expect(takes()).toHaveLength(3);
  });

  test('near the end a patch is followed by what there is', async () => {
    setRecordSettings({ mode: 'patch', runUpSeconds: 0 });
    select(8 * rate, 9.5 * rate);
    await record();
    expect(heard).toMatchObject([{ frames: 0.5 * rate }]);
    finish(1.5 * rate);
    await becomes('idle');
    select(8 * rate, 10 * rate);
    await record();
    expect(heard).toHaveLength(1);
    finish(2 * rate);
    await becomes('idle');
  });

  test('a patch of its own length goes on until it is stopped', async () => {
    setRecordSettings({ mode: 'patch', runUpSeconds: 0, patchLength: 'reading' });
    select(4 * rate, 6 * rate);
    await record();
    expect(recorder().of('stop')).toEqual([]);
    begun();
    const ended = stopRecording();
    finish(3 * rate);
    await ended;
    expect(sheetFrames()).toBe(11 * rate);
  });

  test('a take of a fixed length ends by itself; a simulated input is told when', async () => {
    setRecordSettings({ mode: 'continue', runUpSeconds: 0, fixedSeconds: 5 });
    const input = await choose(1, true);
    await record();
    const { atFrame, source } = asked();
    expect(input.started).toEqual([atFrame]);
    expect(input.stopped).toEqual([atFrame + 5 * rate]);
    expect(recorder().of('stop')).toMatchObject([{ sourceId: source.id, atFrame: atFrame + 5 * rate }]);
    begun();
    finish(5 * rate);
    await becomes('idle');
    expect(sheetFrames()).toBe(15 * rate);
  });

  test('beeps lead in where there is nothing to hear, and longer than a short run-up', async () => {
    setRecordSettings({ mode: 'continue', countIn: 'beeps', runUpSeconds: 1 });
    await record();
    expect(useTransport.getState().rolling?.seconds).toBe(3);
    expect(heard).toMatchObject([{ frames: 3 * rate }]);
    const { samples } = heard[0] as unknown as { samples: Float32Array };
    expect(samples[0]).toBeCloseTo(0.5, 6);
    const ended = stopRecording();
    finish(0);
    await ended;
  });

  test('what Record will do, or why it cannot, is said before it is pressed', async () => {
    expect(recordIntent()).toEqual({ can: true, label: 'take 2 · over 00:04.000 on' });
    setRecordSettings({ mode: 'insert' });
    expect(recordIntent().label).toBe('take 2 · gap at 00:04.000');
    setRecordSettings({ mode: 'continue', fixedSeconds: 5, keepGoing: true });
    expect(recordIntent().label).toBe('take 2 · at the end · 5 s · P: next part');
    setRecordSettings({ mode: 'patch', fixedSeconds: null, keepGoing: false });
    select(4 * rate, 5.5 * rate);
    expect(recordIntent().label).toBe('take 2 · exactly 1.5 s');
    setRecordSettings({ patchLength: 'reading' });
    expect(recordIntent().label).toBe('take 2 · selection, own length');
    edit('add track', (timeline) => addTrack(timeline, { id: 'guest', name: 'Guest' }));
    expect(recordIntent().label).toMatch(/^take 2 · Voice · /);
    setRoutes([
      { track: 'track-1', channel: 0, armed: true },
      { track: 'guest', channel: 1, armed: true },
    ]);
    expect(recordIntent()).toEqual({ can: false, label: 'no input 2 for Guest' });
    setRoutes([{ track: 'track-1', channel: 0, armed: false }]);
    expect(recordIntent()).toEqual({ can: false, label: 'no track is armed' });
    useProject.setState({ readOnly: true });
    expect(recordIntent()).toEqual({ can: false, label: 'read-only here' });
  });
});

describe('sentence by sentence', () => {
  test('goes back to the start of the sentence, and during the run-up one further', async () => {
    setRecordSettings({ runUpSeconds: 1 });
    await choose();
    await record();
    begun();
    captured(5 * rate);
    const first = asked().source.id;
    const again = retakeSentence();
    recorder().say({ type: 'finished', take: resultOf(first, 5 * rate) });
    await again;
    expect(mode()).toBe('rolling');
    expect(asked().source).toMatchObject({ take: 2, placement: { mode: 'retake', at: 4 * rate } });

    const second = asked().source.id;
    const further = retakeSentence();
    recorder().say({ type: 'finished', take: resultOf(second, 0) });
    await further;
    expect(asked().source).toMatchObject({ take: 2, placement: { mode: 'retake', at: 3 * rate } });
    const once = asked().source.id;
    const furthest = retakeSentence();
    recorder().say({ type: 'finished', take: resultOf(once, 0) });
    await furthest;
    expect(asked().source).toMatchObject({ placement: { mode: 'retake', at: 2 * rate } });
    const third = asked().source.id;
    begun();
    captured(rate);
    const ended = stopRecording();
    recorder().say({ type: 'finished', take: resultOf(third, rate) });
    await ended;
    expect(table().pieces).toMatchObject([
      { source: first, length: 2 * rate },
      { source: third, length: rate },
      { source: first, length: 2 * rate },
    ]);
    expect(struck()).toEqual([{ from: 3 * rate, to: 3.5 * rate }]);
  });

  test('inside an insert or a patch nothing that follows on the sheet is overwritten', async () => {
    planted(10);
    await choose();
    setRecordSettings({ mode: 'insert', runUpSeconds: 0 });
    setCaret(4 * rate);
    await record();
    begun();
    captured(2 * rate);
    const again = retakeSentence();
    finish(2 * rate);
    await again;
    expect(asked().source.placement).toEqual({
      mode: 'patch',
      from: 5 * rate,
      to: 6 * rate,
      length: 'reading',
    });
    begun();
    captured(rate);
    const further = retakeSentence();
    finish(rate);
    await further;
    expect(asked().source.placement).toMatchObject({ mode: 'patch', from: 5 * rate, to: 6 * rate });
    begun();
    const ended = stopRecording();
    finish(rate);
    await ended;
    expect(sheetFrames()).toBe(12 * rate);
  });
});

describe('several parts in one go', () => {
  const twoMicrophones = () =>
    setRoutes([
      { track: 'track-1', channel: 0, armed: true },
      { track: 'guest', channel: 1, armed: true },
    ]);

  test('the next take begins where the one before ends, on the same staves of a new part', async () => {
    edit('add track', (timeline) => addTrack(timeline, { id: 'guest', name: 'Guest' }));
    await choose(2);
    twoMicrophones();
    clock.frame = 700;
    await record();
    begun();
    captured(3 * rate);
    const first = asked().source;
    const firstPart = usePart.getState().id;
    clock.frame = 700 + 3 * rate;
    const next = startNextPart();
    await until(() => recorder().of('start').length === 2);
    const second = asked();
    expect(second).toMatchObject({ atFrame: 700 + 3 * rate, channels: [0, 1] });
    expect(recorder().of('stop')).toMatchObject([{ sourceId: first.id, atFrame: second.atFrame }]);
    expect(second.source).toMatchObject({ take: 1, trackIds: ['track-1', 'guest'] });
    recorder().say({ type: 'finished', take: resultOf(first.id, 3 * rate) });
    await next;
    expect(usePart.getState().id).toBe(second.source.partId);
    expect(partRecord(second.source.partId)?.name).toBe('Part 2');
    expect(mode()).toBe('recording');
    expect(useTransport.getState().live?.sourceId).toBe(second.source.id);
    const ended = stopRecording();
    finish(2 * rate);
    await ended;

    expect(usePart.getState().timeline.tracks.map(({ id, name }) => ({ id, name }))).toEqual([
      { id: 'track-1', name: 'Voice' },
      { id: 'guest', name: 'Guest' },
    ]);
    expect(usePart.getState().timeline.tracks.map(({ table: { pieces } }) => pieces[0].length)).toEqual([
      2 * rate,
      2 * rate,
    ]);
    const before = timelineOfPart(firstPart ?? '');
    expect(before && heardFramesOf(before)).toBe(3 * rate);
    await stored(projectId);
  });

  test('a part that is there already is gone on in, at its end; staves it lacks are added', async () => {
    const { parts } = await openFresh('One', 'Two');
    edit('add track', (timeline) => addTrack(timeline, { id: 'guest', name: 'Guest', side: 'left' }));
    await choose(2);
    twoMicrophones();
    await record();
    begun();
    const first = asked().source;
    const next = startNextPart();
    await until(() => recorder().of('start').length === 2);
    expect(asked().source.partId).toBe(parts[1].id);
    recorder().say({ type: 'finished', take: resultOf(first.id, rate) });
    await next;
    const ended = stopRecording();
    finish(rate);
    await ended;
    expect(usePart.getState().timeline.tracks).toMatchObject([
      { id: 'track-1' },
      { id: 'guest', name: 'Guest', side: 'left' },
    ]);
    expect(useProject.getState().parts).toHaveLength(2);
  });

  test('nothing happens while nothing is recorded', async () => {
    await choose();
    await startNextPart();
    expect(useProject.getState().parts).toHaveLength(1);
  });
});

describe('a take for a part that is not open', () => {
  test('is placed there all the same', async () => {
    const { parts } = await openFresh('One', 'Two');
    await choose();
    await record();
    begun();
    const ended = stopRecording();
    await openPart(parts[1]);
    finish(rate);
    await ended;
    expect(sheetFrames()).toBe(0);
    expect(usePart.getState().caret).toBe(0);
    const timeline = timelineOfPart(parts[0].id);
    expect(timeline && sheetFramesOf(timeline)).toBe(rate);
    const kept = (await loadProject(parts[0].projectId)).parts.find(({ id }) => id === parts[0].id);
    expect(kept && sheetFramesOf(loadTimeline(kept.timeline))).toBe(rate);
  });

  test('of a part that is gone is not lost without a word', async () => {
    await choose();
    await record();
    begun();
    const { partId } = asked().source;
    const ended = stopRecording();
    useProject.setState({ parts: [] });
    usePart.setState({ id: null });
    expect(partRecord(partId)).toBeUndefined();
    finish(rate);
    await ended;
    expect(messages()).toEqual(['The part of take 1 is not there any more.']);
    expect(mode()).toBe('idle');
  });
});

describe('a stretch for a check', () => {
  test('is what was asked for, to its end', async () => {
    await choose();
    const { sourceId, done } = recordStretch({
      role: 'tone',
      channel: 0,
      atFrame: 100,
      frames: rate,
      rateHz: rate,
      projectId: 'p',
    });
    expect(asked()).toMatchObject({ atFrame: 100, handleFrames: 0, channels: [0] });
    expect(asked().source).toMatchObject({ id: sourceId, role: 'tone', name: 'Room tone' });
    expect(recorder().of('stop')).toMatchObject([{ sourceId, atFrame: 100 + rate, handleFrames: 0 }]);
    finish(rate);
    expect(await done).toMatchObject({ length: rate });
  });

  test('that ended too early, or failed, is none', async () => {
    await choose();
    const short = recordStretch({
      role: 'check',
      channel: 0,
      atFrame: 100,
      frames: rate,
      rateHz: rate,
      projectId: 'p',
    });
    finish(rate - 1);
    await expect(short.done).rejects.toMatchObject({ code: 'device-lost' });
    const failed = recordStretch({
      role: 'check',
      channel: 0,
      atFrame: 100,
      frames: rate,
      rateHz: rate,
      projectId: 'p',
    });
    const take = resultOf(asked().source.id, 0);
    recorder().say({ type: 'failed', take, code: 'device-lost', message: 'Nothing came.' });
    await expect(failed.done).rejects.toMatchObject({ code: 'device-lost', message: 'Nothing came.' });
  });
});

test('leaving a project ends its take, and lets go of the input and of the recorder', async () => {
  const input = await choose();
  monitor(true);
  expect(input.connected).toEqual(['capture', 'ears']);
  monitor(false);
  expect(input.connected).toEqual(['capture']);
  await record();
  begun();
  const last = recorder();
  const closed = closeTransport();
  await until(() => last.of('stop').length === 1);
  finish(rate);
  await closed;
  expect(sheetFrames()).toBe(rate);
  expect(input.closed).toBe(true);
  expect(last.terminated).toBe(true);
  expect(useInput.getState().status).toBe('none');
  expect(useTransport.getState()).toMatchObject({ mode: 'idle', live: null, rolling: null });
});
