import { addCharacters, addCues, changeCharacter, changeCues } from '@/core/timeline/cueEdits';
import { addGuide } from '@/core/timeline/guides';
import { addTrack } from '@/core/timeline/tracks';
import { chooseCue, toggleDone, useCues } from '../cues/cues';
import { useTransport } from '../hearing/transport';
import { dismissAll } from '../page/notices';
import { useProject } from '../project/openProject';
import { recordSettings, setCueSettings, setRoutes } from '../project/settings';
import { edit, undo, usePart } from '../sheet/part';
import * as devices from '../testing/devices';
import { audioPiece, messages, openFresh, rate, stored, table } from '../testing/fixture';
import { takesOfCue } from './cuePlan';
import { stepTakeOfCue } from './cueTakes';
import { dryRun } from './dryRun';
import { chooseInput } from './input';
import { retakeSentence } from './readingOn';
import { recordIntent } from './recordPlan';
import { closeTransport, record, stopRecording } from './recording';

const { asked, begun, captured, clock, fakeInput, finish, heard, recorder } = devices;

jest.mock('../hearing/engine', () => jest.requireActual<typeof devices>('../testing/devices').engineModule);
jest.mock('@/audio/playAt', () => jest.requireActual<typeof devices>('../testing/devices').playAtModule);
jest.mock('@/audio/capture', () => jest.requireActual<typeof devices>('../testing/devices').captureModule);
jest.mock('@/audio/inputs', () => jest.requireActual<typeof devices>('../testing/devices').inputsModule);
/** What a player was given to play, and where it was told to begin. */
interface Played {
  range: { from: number; to: number };
  render: (from: number, frames: number) => Promise<Float32Array[]>;
  atFrame?: number;
  end: () => void;
}
const mockPlayers: Played[] = [];
jest.mock('@/audio/player', () => ({
  Player: class {
    ended: Promise<void>;
    constructor(
      _context: unknown,
      range: Played['range'],
      render: Played['render'],
      _onError: unknown,
      _bus: unknown,
      { atFrame }: { atFrame?: number },
    ) {
      let end: () => void = () => undefined;
      this.ended = new Promise((resolve) => (end = resolve));
      mockPlayers.push({ range, render, atFrame, end });
    }
    stop() {
      // What is played is of no interest any more.
    }
  },
}));
/** The guide is heard as 0.25, where it is not silent. */
jest.mock('../hearing/rendering', () => ({
  renderer:
    ({ tracks }: { tracks: readonly { pieces: readonly { kind: string; length: number }[] }[] }) =>
    (from: number, frames: number) => {
      const samples = new Float32Array(frames);
      for (const { pieces } of tracks) {
        let at = 0;
        for (const { kind, length } of pieces) {
          if (kind === 'audio') samples.fill(0.25, Math.max(0, at - from), Math.max(0, at + length - from));
          at += length;
        }
      }
      return Promise.resolve([samples]);
    },
}));

const seconds = (count: number) => count * rate;
const mode = () => useTransport.getState().mode;
const cue = (number: number, from: number, to: number, character?: string) => ({
  ...{ id: `cue-${number}`, number: String(number), from: seconds(from), to: seconds(to) },
  ...{ text: `Line ${number}`, note: '', ...(character && { character }) },
});

let projectId = '';
beforeEach(async () => {
  devices.resetDevices();
  mockPlayers.length = 0;
  devices.microphones.push({ deviceId: 'mic', label: 'Microphone' });
  ({
    project: { id: projectId },
  } = await openFresh());
  dismissAll();
  edit('cues', (timeline) => addCues(timeline, [cue(1, 5, 7), cue(2, 9, 12), cue(3, 20, 22)]));
});
afterEach(closeTransport);

async function choose(channels = 1) {
  devices.inputs.push(fakeInput(channels));
  await chooseInput({ kind: 'microphone', deviceId: 'mic', label: 'Microphone' });
}

/** A take of the chosen cue that ends by itself. */
async function takeToItsEnd(length: number) {
  await record();
  begun(rate);
  captured(length);
  finish(length, { frames: length + 1.5 * rate, handleFrames: rate });
  await devices.clock;
  while (mode() !== 'idle') await new Promise((resolve) => setTimeout(resolve, 1));
}

describe('recording a cue', () => {
  test('Record is for the chosen cue: counted in to the frame, kept from before its line to after it', async () => {
    await choose();
    chooseCue('cue-1');
    expect(recordSettings().mode).toBe('cue');
    expect(recordIntent()).toEqual({ can: true, label: 'take 1 · to its end' });
    clock.frame = 1000;
    await record();
    const [runUp] = heard as unknown as { samples: Float32Array; at: number; frames: number }[];
    // Three seconds under three beeps; the fourth would fall where the line begins.
    expect(runUp.frames).toBe(seconds(3));
    expect(runUp.samples.every((value) => value === 0.5)).toBe(true);
    const punch = runUp.at + runUp.frames;
    const roundTrip = 480;
    expect(asked()).toMatchObject({ atFrame: punch + roundTrip - 0.5 * rate, handleFrames: rate });
    expect(recorder().of('stop')).toMatchObject([
      { atFrame: asked().atFrame + seconds(0.5 + 2 + 1), handleFrames: rate / 2 },
    ]);
    expect(useTransport.getState().cueRun).toMatchObject({ dry: false, beginsAt: punch / rate });
    expect(asked().source).toMatchObject({ cue: 'cue-1', take: 1, name: 'Cue 1, take 1' });
    begun(rate);
    captured(seconds(3.5));
    finish(seconds(3.5), { frames: seconds(5), handleFrames: rate });
    while (mode() !== 'idle') await new Promise((resolve) => setTimeout(resolve, 1));
    expect(useTransport.getState().cueRun).toBeNull();
    expect(table().pieces).toMatchObject([
      { kind: 'silence', length: seconds(4.5) },
      { kind: 'audio', from: rate, length: seconds(3.5) },
    ]);
    // The same cue again, with one key.
    expect(useCues.getState().chosen).toBe('cue-1');
    expect(usePart.getState().caret).toBe(seconds(5));
    expect(recordIntent().label).toBe('take 2 · to its end');
    await stored(projectId);
  });

  test('takes are counted by cue; one before is heard again by a key, and undone', async () => {
    await choose();
    chooseCue('cue-2');
    await takeToItsEnd(seconds(4.5));
    const first = asked().source.id;
    await takeToItsEnd(seconds(4.5));
    const second = asked().source.id;
    chooseCue('cue-1');
    await takeToItsEnd(seconds(3.5));
    const names = [...useProject.getState().sources.values()].map(({ name }) => name);
    expect(names).toEqual(['Cue 2, take 1', 'Cue 2, take 2', 'Cue 1, take 1']);
    const heardAt = (at: number) => table().slice(seconds(at), seconds(at) + 1)[0];
    expect(heardAt(10)).toMatchObject({ source: second });
    chooseCue('cue-2');
    stepTakeOfCue(1);
    expect(heardAt(10)).toMatchObject({ source: first });
    undo();
    expect(heardAt(10)).toMatchObject({ source: second });
    // A take whose recording was undone has its place by its cue.
    undo();
    undo();
    expect(heardAt(10)).toMatchObject({ source: first });
    stepTakeOfCue(1);
    expect(heardAt(10)).toMatchObject({ source: second });
    await stored(projectId);
  });

  test('Backspace says it again as a whole; a run-up is called off; one may run on', async () => {
    await choose();
    chooseCue('cue-3');
    setCueSettings({ end: 'on', beeps: false });
    await record();
    expect(recorder().of('stop')).toEqual([]);
    begun(rate);
    captured(seconds(1));
    const again = retakeSentence();
    finish(seconds(1), { frames: seconds(2), handleFrames: rate });
    await again;
    expect(mode()).toBe('rolling');
    expect(asked().source).toMatchObject({ name: 'Cue 3, take 2' });
    const ended = stopRecording();
    finish(0, { frames: 0 });
    await ended;
    expect(mode()).toBe('idle');
    expect([...useProject.getState().sources.values()].map(({ name }) => name)).toEqual(['Cue 3, take 1']);
    expect(table().pieces.at(-1)).toMatchObject({ kind: 'audio', length: seconds(1) });
  });

  test('what follows is chosen: the next one to do, or playing on', async () => {
    await choose();
    chooseCue('cue-1');
    toggleDone(new Set(['cue-2']));
    setCueSettings({ then: 'next' });
    await takeToItsEnd(seconds(3.5));
    expect(useCues.getState().chosen).toBe('cue-3');
    chooseCue('cue-1');
    setCueSettings({ then: 'play' });
    await record();
    begun(rate);
    captured(seconds(3.5));
    finish(seconds(3.5), { frames: seconds(5), handleFrames: rate });
    while (mode() !== 'playing') await new Promise((resolve) => setTimeout(resolve, 1));
    expect(mockPlayers.at(-1)?.range.from).toBe(seconds(7));
  });

  test('who speaks it has a track: from its own microphone where that is armed, from another where not', async () => {
    edit('characters', (timeline) => {
      const two = addTrack(timeline, { id: 'track-2', name: 'Young' });
      const named = addCharacters(two, ['Young'], () => 'young');
      const given = changeCues(named, new Set(['cue-2']), () => ({ character: 'young' }));
      return changeCharacter(given, 'young', { track: 'track-2' });
    });
    await choose(2);
    chooseCue('cue-2');
    expect(recordIntent().label).toBe('take 1 · Young · to its end');
    await record();
    expect(asked()).toMatchObject({ channels: [0], source: { trackIds: ['track-2'] } });
    const calledOff = stopRecording();
    finish(0, { frames: 0 });
    await calledOff;
    setRoutes([
      { track: 'track-1', channel: 0, armed: true },
      { track: 'track-2', channel: 1, armed: true },
    ]);
    await record();
    expect(asked()).toMatchObject({ channels: [1], source: { trackIds: ['track-2'] } });
    const off = stopRecording();
    finish(0, { frames: 0 });
    await off;
    // A microphone that is not there is no obstacle: another one is.
    setRoutes([
      { track: 'track-1', channel: 0, armed: true },
      { track: 'track-2', channel: 5, armed: true },
    ]);
    expect(recordIntent()).toEqual({ can: true, label: 'take 1 · Young · to its end' });
    setCueSettings({ voices: 'armed' });
    expect(recordIntent()).toEqual({ can: false, label: 'no input 6 for Young' });
    setCueSettings({ voices: 'own' });
    setRoutes([
      { track: 'track-1', channel: 0, armed: true },
      { track: 'track-2', channel: 1, armed: true },
    ]);
    // A character without a track is recorded on all that are armed.
    chooseCue('cue-1');
    await record();
    expect(asked()).toMatchObject({ channels: [0, 1], source: { trackIds: ['track-1', 'track-2'] } });
    const last = stopRecording();
    finish(0, { frames: 0 });
    await last;
  });

  test('several at once: every armed track is recorded, and is a take of the other’s cue as well', async () => {
    edit('characters', (timeline) => {
      const two = addTrack(timeline, { id: 'track-2', name: 'Young' });
      const named = addCharacters(
        two,
        ['Old', 'Young'],
        (() => {
          let count = 0;
          return () => ['old', 'young'][count++];
        })(),
      );
      const given = changeCues(named, new Set(['cue-1']), () => ({ character: 'old' }));
      const both = changeCues(given, new Set(['cue-2']), () => ({
        character: 'young',
        from: seconds(6),
        to: seconds(8),
      }));
      return changeCharacter(changeCharacter(both, 'old', { track: 'track-1' }), 'young', {
        track: 'track-2',
      });
    });
    await choose(2);
    setRoutes([
      { track: 'track-1', channel: 0, armed: true },
      { track: 'track-2', channel: 1, armed: true },
    ]);
    setCueSettings({ voices: 'armed', runOutSeconds: 2 });
    chooseCue('cue-1');
    expect(recordIntent().label).toBe('take 1 · Voice + Young · to its end');
    await takeToItsEnd(seconds(4.5));
    const { id } = asked().source;
    const { sources, cueSheet } = { ...useProject.getState(), ...usePart.getState().timeline };
    const [first, second] = cueSheet?.cues ?? [];
    expect(takesOfCue(first, sources.values()).map((take) => take.id)).toEqual([id]);
    expect(takesOfCue(second, sources.values()).map(({ name }) => name)).toEqual(['Cue 1, take 1']);
    // It is heard in both, each on its own stave; another take of the second leaves the first alone.
    expect(table(1).slice(seconds(7), seconds(7) + 1)[0]).toMatchObject({ source: id, channel: 1 });
    setCueSettings({ voices: 'own' });
    chooseCue('cue-2');
    await takeToItsEnd(seconds(4));
    expect(table(1).slice(seconds(7), seconds(7) + 1)[0]).toMatchObject({ source: asked().source.id });
    stepTakeOfCue(1);
    expect(table(1).slice(seconds(7), seconds(7) + 1)[0]).toMatchObject({ source: id, channel: 1 });
    expect(table(0).slice(seconds(6), seconds(6) + 1)[0]).toMatchObject({ source: id, channel: 0 });
    const places = usePart.getState().timeline.places.filter(({ source }) => source === id);
    expect(places.map(({ track }) => track).sort()).toEqual(['track-1', 'track-2']);
    await stored(projectId);
  });

  test('without a cue nothing is recorded, and in a part without cues Record continues', async () => {
    await choose();
    chooseCue('cue-1');
    useCues.setState({ chosen: null });
    expect(recordIntent()).toEqual({ can: false, label: 'choose a cue first' });
    await dryRun();
    expect(messages()).toEqual(['Choose a cue first.']);
    undo();
    expect(recordIntent()).toEqual({ can: true, label: 'take 1 · at the end' });
  });
});

describe('a dry run', () => {
  const guided = () =>
    edit('guide', (timeline) =>
      addGuide(timeline, { id: 'guide', name: 'Film', pieces: [audioPiece('film', seconds(30))] }),
    );
  const played = async (from: number, to: number) => {
    const [{ render }] = mockPlayers;
    return (await render(seconds(from), seconds(to - from)))[0];
  };

  test('plays run-up, beeps and guide as they will be, and records nothing', async () => {
    guided();
    await choose();
    chooseCue('cue-2');
    const running = dryRun();
    while (mockPlayers.length === 0) await new Promise((resolve) => setTimeout(resolve, 1));
    expect(mode()).toBe('playing');
    expect(useTransport.getState().cueRun).toMatchObject({ dry: true, cue: { number: '2' } });
    const [{ range }] = mockPlayers;
    expect(range).toEqual({ from: seconds(6), to: seconds(13) });
    expect(new Set(await played(6, 9))).toEqual(new Set([0.75]));
    expect(new Set(await played(9, 13))).toEqual(new Set([0.25]));
    const across = await played(8.9, 9.1);
    expect([across[0], across.at(-1)]).toEqual([0.75, 0.25]);
    mockPlayers[0].end();
    await running;
    expect(useTransport.getState()).toMatchObject({ mode: 'idle', cueRun: null });
    expect(recorder()?.of('start') ?? []).toEqual([]);
  });

  test('the guide is silent while the line is said where that is wanted, and begins before the sheet', async () => {
    guided();
    setCueSettings({ guide: 'off', beeps: false, runUpSeconds: 6 });
    chooseCue('cue-1');
    const running = dryRun();
    while (mockPlayers.length === 0) await new Promise((resolve) => setTimeout(resolve, 1));
    expect(mockPlayers[0].range).toEqual({ from: seconds(-1), to: seconds(8) });
    expect(new Set(await played(-1, 0))).toEqual(new Set([0]));
    expect(new Set(await played(0, 5))).toEqual(new Set([0.25]));
    expect(new Set(await played(5, 7))).toEqual(new Set([0]));
    expect(new Set(await played(7, 8))).toEqual(new Set([0.25]));
    mockPlayers[0].end();
    await running;
  });
});
