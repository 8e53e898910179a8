import { readSetting } from '@/storage/settings';
import { ParolaError } from '@/core/base/errors';
import { addTrack } from '@/core/timeline/tracks';
import * as devices from '../testing/devices';
import { messages, openFresh, until } from '../testing/fixture';
import { dismissAll } from '../page/notices';
import { useProject } from '../project/openProject';
import { edit } from '../sheet/part';
import { useTransport } from '../hearing/transport';
import {
  armedNow,
  chooseInput,
  followDevices,
  inputName,
  missingMicrophone,
  refreshDevices,
  resetInput,
  routes,
  setRoute,
  unreachableNow,
  useInput,
} from './input';
import { closeInput, levels, openedInput } from './openInputs';
import { closeTransport } from './recording';

const { fakeInput, inputs, microphones } = devices;

jest.mock('../hearing/engine', () => jest.requireActual<typeof devices>('../testing/devices').engineModule);
jest.mock('@/audio/capture', () => jest.requireActual<typeof devices>('../testing/devices').captureModule);
jest.mock('@/audio/inputs', () => jest.requireActual<typeof devices>('../testing/devices').inputsModule);
jest.mock(
  '@/audio/simulatedInput',
  () => jest.requireActual<typeof devices>('../testing/devices').simulatedInputModule,
);

const booth = { kind: 'microphone', deviceId: 'booth', label: 'Booth' } as const;
const state = useInput.getState;

beforeEach(async () => {
  devices.resetDevices();
  microphones.push({ deviceId: 'booth', label: 'Booth' }, { deviceId: 'desk', label: 'Desk' });
  await openFresh();
  dismissAll();
});
afterEach(closeTransport);

describe('choosing an input', () => {
  test('opens it, says what was granted, and keeps it with the project and on this machine', async () => {
    inputs.push(fakeInput(2));
    await chooseInput(booth);
    expect(state()).toMatchObject({
      status: 'open',
      choice: booth,
      channels: 2,
      detail: '2 inputs · 48 kHz',
      warnings: [],
      lastMicrophone: 'Booth',
    });
    expect(useProject.getState().project?.input).toEqual(booth);
    await until(() => state().listed);
    expect(state().microphones.map(({ label }) => label)).toEqual(['Booth', 'Desk']);
    expect(await readSetting('lastMicrophone')).toBe('Booth');
    inputs.push(fakeInput(1));
    await chooseInput({ kind: 'reader' });
    expect(state().detail).toBe('mono · 48 kHz');
    expect(state().lastMicrophone).toBe('Booth');
  });

  test('warns of processing that the browser does not leave out', async () => {
    const input = fakeInput(1);
    inputs.push({ ...input, granted: { ...input.granted, noiseSuppression: true } });
    await chooseInput(booth);
    expect(state().warnings).toHaveLength(1);
  });

  test('says why it cannot be opened; the next choice works', async () => {
    inputs.push(new ParolaError('permission-denied', 'Not allowed.'));
    await chooseInput(booth);
    expect(state()).toMatchObject({ status: 'failed', detail: 'Not allowed.', channels: 0 });
    expect(messages()).toEqual(['Not allowed.']);
    expect(openedInput()).toBeNull();
    inputs.push(fakeInput(1));
    await chooseInput(booth);
    expect(state().status).toBe('open');
  });

  test('the last choice counts, however late an earlier one comes; what comes too late is closed', async () => {
    let answer: (input: devices.FakeInput) => void = () => undefined;
    const late = fakeInput(4);
    const quick = fakeInput(1);
    inputs.push(new Promise((resolve) => (answer = resolve)), quick);
    const first = chooseInput(booth);
    await until(() => inputs.length === 1);
    await chooseInput({ kind: 'reader' });
    expect(state()).toMatchObject({ status: 'open', choice: { kind: 'reader' }, channels: 1 });
    answer(late);
    await first;
    expect(state()).toMatchObject({ status: 'open', choice: { kind: 'reader' }, channels: 1 });
    expect(openedInput()).toBe(quick);
    expect(quick.closed).toBe(false);
    expect(late.closed).toBe(true);
  });

  test('what comes when the project has been left is closed', async () => {
    let answer: (input: devices.FakeInput) => void = () => undefined;
    const late = fakeInput(1);
    inputs.push(new Promise((resolve) => (answer = resolve)));
    const choosing = chooseInput(booth);
    await until(() => inputs.length === 0);
    await closeTransport();
    answer(late);
    await choosing;
    expect(late.closed).toBe(true);
    expect(openedInput()).toBeNull();
    expect(state().status).toBe('none');
    expect(messages()).toEqual([]);
  });

  test('of an earlier choice nothing is told any more, not even that it failed', async () => {
    let fail: (reason: Error) => void = () => undefined;
    inputs.push(new Promise((_resolve, reject) => (fail = reject)), fakeInput(1));
    const first = chooseInput(booth);
    await until(() => inputs.length === 1);
    await chooseInput({ kind: 'reader' });
    fail(new Error('too late'));
    await first;
    expect(state().status).toBe('open');
    expect(messages()).toEqual([]);
  });

  test('is not possible while something is recorded or played', async () => {
    useTransport.setState({ mode: 'recording' });
    await chooseInput(booth);
    expect(state().status).toBe('none');
    useTransport.setState({ mode: 'idle' });
  });

  test('a file is asked for again when the browser does not have it any more', async () => {
    await chooseInput({ kind: 'file', name: 'voice.wav' });
    expect(state()).toMatchObject({ status: 'failed', detail: expect.stringContaining('“voice.wav” again') });
    inputs.push(fakeInput(1));
    await chooseInput({ kind: 'file', name: 'voice.wav' }, new File(['x'], 'voice.wav'));
    expect(state().status).toBe('open');
    // For as long as the project is open it is known.
    inputs.push(fakeInput(1));
    await chooseInput({ kind: 'file', name: 'voice.wav' });
    expect(state().status).toBe('open');
    resetInput();
    await chooseInput({ kind: 'file', name: 'voice.wav' });
    expect(state().status).toBe('failed');
  });

  test('a microphone whose id has changed is found by its name, when only one has it; never another one', async () => {
    inputs.push(fakeInput(1));
    await chooseInput({ ...booth, deviceId: 'of another day' });
    expect(state().choice).toEqual(booth);
    microphones.push({ deviceId: 'booth-2', label: 'Booth' });
    inputs.push(fakeInput(1));
    await chooseInput({ ...booth, deviceId: 'of another day' });
    expect(state().choice).toMatchObject({ deviceId: 'of another day' });
  });
});

test('inputs have names that can be told apart', () => {
  expect(
    [
      { kind: 'reader' as const },
      { kind: 'reader' as const, script: 'conversation' as const },
      { kind: 'file' as const, name: 'voice.wav' },
      booth,
    ].map(inputName),
  ).toEqual(['Practice reader', 'Practice reader, two voices', 'voice.wav', 'Booth']);
});

describe('a microphone that is missing', () => {
  const remember = () =>
    useProject.setState(({ project }) => ({ project: project && { ...project, input: booth } }));

  test('is named once the list has been read; nothing is said where devices have no names', async () => {
    remember();
    resetInput();
    useInput.setState({ listed: false });
    microphones.length = 0;
    expect(missingMicrophone()).toBeNull();
    await refreshDevices();
    expect(missingMicrophone()).toBe('Booth');
    microphones.push({ deviceId: 'x', label: '' });
    await refreshDevices();
    expect(missingMicrophone()).toBeNull();
    microphones.push({ deviceId: 'desk', label: 'Desk' });
    await refreshDevices();
    expect(missingMicrophone()).toBe('Booth');
    microphones.push({ deviceId: 'changed', label: 'Booth' });
    await refreshDevices();
    expect(missingMicrophone()).toBeNull();
  });

  test('is opened again when it is plugged in, and only then', async () => {
    const first = fakeInput(1);
    inputs.push(first);
    await chooseInput(booth);
    const stop = followDevices();
    await new Promise((resolve) => setTimeout(resolve, 20));
    first.unplug();
    microphones.shift();
    dismissAll();
    devices.plug();
    await until(() => state().microphones.length === 1);
    expect(state().status).toBe('failed');
    inputs.push(fakeInput(1));
    microphones.push({ deviceId: 'booth', label: 'Booth' });
    devices.plug();
    await until(() => state().status === 'open');
    await until(() => messages().length > 0);
    expect(messages()).toEqual(['Booth is back.']);
    stop();
    microphones.length = 0;
    devices.plug();
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(state().microphones).toHaveLength(2);
  });

  test('an input that was refused is not opened again by itself', async () => {
    inputs.push(new ParolaError('permission-denied', 'Not allowed.'));
    await chooseInput({ kind: 'reader' });
    await refreshDevices();
    expect(state().status).toBe('failed');
  });
});

describe('which input goes to which track', () => {
  test('what an input does not have is told, and what is armed is what it has', async () => {
    edit('add track', (timeline) => addTrack(timeline, { id: 'guest', name: 'Guest' }));
    inputs.push(fakeInput(1));
    await chooseInput(booth);
    expect(armedNow()).toEqual([{ id: 'track-1', name: 'Voice', input: 'main', channel: 0 }]);
    setRoute('guest', { armed: true });
    expect(routes()).toEqual([{ track: 'guest', input: 'main', channel: 1, armed: true }]);
    expect(unreachableNow().map(({ id }) => id)).toEqual(['guest']);
    setRoute('guest', { channel: 0 });
    expect(routes()).toHaveLength(1);
    expect(armedNow().map(({ id, channel }) => [id, channel])).toEqual([
      ['track-1', 0],
      ['guest', 0],
    ]);
    setRoute('track-1', { armed: false });
    expect(armedNow().map(({ id }) => id)).toEqual(['guest']);
    expect(useProject.getState().project?.routes).toHaveLength(2);
  });

  test('levels are those of an open input', async () => {
    expect(levels(0)).toBeNull();
    inputs.push(fakeInput(1));
    await chooseInput(booth);
    expect(openedInput()).not.toBeNull();
    closeInput('main');
    expect(levels(0)).toBeNull();
    expect(openedInput()).toBeNull();
  });
});
