import { addGuide, guidesOf } from '@/core/timeline/guides';
import { addTrack } from '@/core/timeline/tracks';
import { sheetFramesOf } from '@/core/timeline/timeline';
import * as devices from '../testing/devices';
import { audioPiece, messages, openFresh, rate, record as planted, stored, table } from '../testing/fixture';
import { nextHear, setHear, toggleMuted, useListening } from '../hearing/listening';
import { dismissAll } from '../page/notices';
import { setRecordSettings, setRoutes } from '../project/settings';
import { closeUpAll, edit, select, setCaret, undo, usePart } from '../sheet/part';
import { pasteAtCaret, copySelection, cutSelection, strikeSelection } from '../sheet/editing';
import { removeGuide, renameGuide, setInStep } from './guides';
import { chooseInput } from './input';
import { recordIntent } from './recordPlan';
import { closeTransport, record, stopRecording } from './recording';
import { cutBackToCaret } from './tracks';

const { asked, begun, captured, clock, fakeInput, finish, heard } = devices;

jest.mock('../hearing/engine', () => jest.requireActual<typeof devices>('../testing/devices').engineModule);
jest.mock('@/audio/playAt', () => jest.requireActual<typeof devices>('../testing/devices').playAtModule);
jest.mock('@/audio/capture', () => jest.requireActual<typeof devices>('../testing/devices').captureModule);
jest.mock('@/audio/inputs', () => jest.requireActual<typeof devices>('../testing/devices').inputsModule);
jest.mock('../sheet/sentenceSteps', () => ({
  abandonedEnd: (_timeline: unknown, _voices: unknown, at: number) => Promise.resolve(at),
}));
interface Rendering {
  tracks: readonly { pieces: readonly { source?: string }[]; strip?: { levelDb: number } }[];
}
/** Players that were made, each with what it renders now. */
const mockPlayers: {
  range: { from: number; to: number };
  atFrame?: number;
  stopped: boolean;
  changed: number;
}[] = [];
const mockRendered: Rendering[] = [];
jest.mock('../hearing/rendering', () => ({
  renderer: (sounding: Rendering) => {
    mockRendered.push(sounding);
    return (_from: number, frames: number) => Promise.resolve([new Float32Array(frames).fill(0.25)]);
  },
}));
jest.mock('@/audio/player', () => ({
  Player: class {
    private readonly made;
    constructor(
      _context: unknown,
      range: { from: number; to: number },
      _render: unknown,
      _onError: unknown,
      _bus: unknown,
      options: { atFrame?: number },
    ) {
      this.made = { range, atFrame: options.atFrame, stopped: false, changed: 0 };
      mockPlayers.push(this.made);
    }
    change() {
      this.made.changed++;
      return Promise.resolve();
    }
    stop() {
      this.made.stopped = true;
    }
  },
}));

const seconds = (count: number) => count * rate;
const sheetFrames = () => sheetFramesOf(usePart.getState().timeline);

let projectId = '';
beforeEach(async () => {
  devices.resetDevices();
  mockPlayers.length = 0;
  mockRendered.length = 0;
  devices.microphones.push({ deviceId: 'mic', label: 'Microphone' });
  ({
    project: { id: projectId },
  } = await openFresh());
  devices.inputs.push(fakeInput(2));
  await chooseInput({ kind: 'microphone', deviceId: 'mic', label: 'Microphone' });
  edit('guide', (timeline) =>
    addGuide(timeline, { id: 'guide', name: 'Visitor', pieces: [audioPiece('statement', seconds(60))] }),
  );
  setRecordSettings({ runUpSeconds: 1 });
  dismissAll();
});
afterEach(async () => {
  setHear('both');
  await closeTransport();
});

async function take(length: number) {
  await record();
  begun();
  captured(seconds(length));
  const ended = stopRecording();
  finish(seconds(length));
  await ended;
}

test('the guide plays from the punch on, at its frame, and the take is placed by the round trip', async () => {
  expect(recordIntent()).toMatchObject({ can: true, label: 'take 1 · over 00:00.000 on · hearing Visitor' });
  await record();
  const [runUp] = heard;
  const punch = runUp.at + runUp.frames;
  expect(mockPlayers).toEqual([
    { range: { from: 0, to: seconds(60) }, atFrame: punch, stopped: false, changed: 0 },
  ]);
  // The fake device's estimate: what is spoken along with the guide is captured so much later.
  expect(asked().atFrame).toBe(punch + 480);
  begun();
  captured(seconds(5));
  const ended = stopRecording();
  finish(seconds(5));
  await ended;
  expect(mockPlayers[0].stopped).toBe(true);
  expect(sheetFrames()).toBe(seconds(60));
  expect(table().pieces).toMatchObject([
    { kind: 'audio', length: seconds(5) },
    { kind: 'silence', length: seconds(55) },
  ]);
  await stored(projectId);
});

test('the next one goes on where the reading ends, wherever the caret is', async () => {
  await take(5);
  setCaret(seconds(2));
  expect(recordIntent().label).toMatch(/^take 2 · over 00:05/);
  await record();
  expect(mockPlayers[1].range.from).toBe(seconds(5));
});

test('what is heard changes nothing of what is asked of the recorder', async () => {
  clock.frame = 5000;
  await record();
  const { source: _, ...wanted } = asked();
  await callOff();
  for (const change of [
    () => nextHear(),
    () => toggleMuted('guide'),
    () => setRecordSettings({ hearOthers: false }),
  ]) {
    change();
    expect(recordIntent().label).toMatch(/guide not heard/);
    await record();
    const { source: __, ...same } = asked();
    expect(same).toEqual(wanted);
    expect(mockPlayers).toHaveLength(1);
    await callOff();
    useListening.setState({ hear: 'both', muted: new Set() });
    setRecordSettings({ hearOthers: true });
  }
});

/** Nothing comes of the take. */
async function callOff() {
  const ended = stopRecording();
  finish(0);
  await ended;
}

test('muted while it is recorded, the guide falls silent; the take goes on', async () => {
  await record();
  begun();
  toggleMuted('guide');
  expect(mockPlayers[0]).toMatchObject({ changed: 1, stopped: false });
  expect(mockRendered.at(-1)?.tracks).toHaveLength(1);
  toggleMuted('guide');
  expect(mockRendered.at(-1)?.tracks).toHaveLength(2);
  await callOff();
});

test('a patch hears the guide as far as it goes: to the end of the selection, or on with its own length', async () => {
  await take(5);
  setRecordSettings({ mode: 'patch' });
  select(seconds(1), seconds(2));
  await record();
  expect(mockPlayers[1].range).toEqual({ from: seconds(1), to: seconds(2) });
  await callOff();
  setRecordSettings({ patchLength: 'reading' });
  await record();
  expect(mockPlayers[2].range).toEqual({ from: seconds(1), to: seconds(60) });
  begun();
  captured(seconds(0.5));
  const ended = stopRecording();
  finish(seconds(0.5));
  await ended;
  expect(sheetFrames()).toBe(seconds(60));
  expect(table().pieces.map(({ kind, length }) => [kind, length / rate])).toEqual([
    ['audio', 1],
    ['audio', 0.5],
    ['silence', 0.5],
    ['audio', 3],
    ['silence', 55],
  ]);
});

test('of two tracks the one that is not armed is heard while the other is recorded', async () => {
  edit('let go', (timeline) => ({ ...timeline, guides: undefined }));
  edit('add track', (timeline) => addTrack(timeline, { id: 'track-2', name: 'Guest' }));
  planted(10, ['track-1', 'track-2']);
  setRoutes([
    { track: 'track-1', channel: 0, armed: false },
    { track: 'track-2', channel: 1, armed: true },
  ]);
  // At the end there is nothing to hear.
  expect(recordIntent().label).not.toMatch(/hearing/);
  setRecordSettings({ mode: 'retake' });
  setCaret(seconds(63));
  expect(recordIntent().label).toMatch(/hearing Voice$/);
  setRecordSettings({ hearOthers: false });
  expect(recordIntent().label).toMatch(/others not heard$/);
  setRecordSettings({ hearOthers: true });
  await record();
  expect(mockPlayers[0].range).toEqual({ from: seconds(63), to: seconds(70) });
  const [own, other] = mockRendered.at(-1)?.tracks ?? [];
  expect(own.strip).toBeUndefined();
  expect(other.strip?.levelDb).toBe(-Infinity);
  await callOff();
  setRecordSettings({ mode: 'patch' });
  select(seconds(61), seconds(62));
  await record();
  expect(mockPlayers[1].range).toEqual({ from: seconds(61), to: seconds(62) });
  await callOff();
});

test('Insert is refused with the reason; pasting too; what is struck or cut falls silent', async () => {
  await take(5);
  setRecordSettings({ mode: 'insert' });
  expect(recordIntent()).toEqual({
    can: false,
    label: 'no gap in step with a guide: Retake, or let go of step',
  });
  setRecordSettings({ mode: 'continue' });
  select(seconds(1), seconds(2));
  copySelection();
  pasteAtCaret();
  expect(messages().at(-1)).toMatch(/in step with its guide.*let go of step, or take the guide away/);
  select(seconds(1), seconds(2));
  strikeSelection();
  select(seconds(3), seconds(4));
  cutSelection();
  expect(usePart.getState().timeline.struck).toEqual([]);
  expect(table().pieces.map(({ kind, length }) => [kind, length / rate])).toEqual([
    ['audio', 1],
    ['silence', 1],
    ['audio', 1],
    ['silence', 1],
    ['audio', 1],
    ['silence', 55],
  ]);
  closeUpAll();
  expect(sheetFrames()).toBe(seconds(60));
  setInStep('guide', false);
  pasteAtCaret();
  expect(sheetFrames()).toBe(seconds(61));
  expect(guidesOf(usePart.getState().timeline)[0].table.frames).toBe(seconds(61));
  setInStep('guide', true);
  renameGuide('guide', ' Anders ');
  expect(guidesOf(usePart.getState().timeline)[0]).not.toHaveProperty('free');
  expect(guidesOf(usePart.getState().timeline)[0].name).toBe('Anders');
  removeGuide('guide');
  expect(guidesOf(usePart.getState().timeline)).toEqual([]);
  await undo();
  expect(guidesOf(usePart.getState().timeline)).toHaveLength(1);
  await stored(projectId);
});

test('a reading is cut back to the caret by one key, and gone on with there', async () => {
  await take(5);
  setCaret(seconds(3));
  cutBackToCaret();
  expect(table().pieces[0]).toMatchObject({ kind: 'audio', length: seconds(3) });
  expect(sheetFrames()).toBe(seconds(60));
  expect(recordIntent().label).toMatch(/over 00:03/);
  cutBackToCaret();
  expect(messages().at(-1)).toMatch(/Nothing is recorded after the caret/);
  // Without a guide it is struck, as everything that is not wanted.
  removeGuide('guide');
  setCaret(seconds(2));
  cutBackToCaret();
  expect(usePart.getState().timeline.struck).toEqual([{ from: seconds(2), to: seconds(60) }]);
});
