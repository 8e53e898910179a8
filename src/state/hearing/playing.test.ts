import { strike } from '@/core/timeline/edits';
import { PieceTable } from '@/core/timeline/pieces';
import { audioPiece, openFresh, rate, record } from '../testing/fixture';
import { useNotices } from '../page/notices';
import { useProject } from '../project/openProject';
import { edit, setCaret, usePart } from '../sheet/part';
import {
  endPlaying,
  play,
  playRange,
  playTake,
  playTimeline,
  playTracks,
  scrub,
  stopToEdit,
  takeFrame,
} from './playing';
import { playback, useTransport } from './transport';

/** An engine that starts when the test says so, and players that only tell what they were asked for. */
let engines: { start: () => void; fail: (reason: Error) => void }[] = [];
let players: { range: { from: number; to: number }; frame: number; stopped: boolean; finish: () => void }[] =
  [];

jest.mock('./engine', () => ({
  startEngine: () =>
    new Promise((resolve, reject) => {
      engines.push({ start: () => resolve({ context: { currentTime: 0 }, bus: {} }), fail: reject });
    }),
}));
/** What was rendered at once, and what was given to the browser with it. */
let scrubbed: { from: number; samples: Float32Array; stopped: boolean }[] = [];
let renderedFrom = 0;
jest.mock('./rendering', () => ({
  renderer: () => (from: number, frames: number) => {
    renderedFrom = from;
    return Promise.resolve([new Float32Array(frames).fill(1)]);
  },
}));
jest.mock('@/audio/playAt', () => ({
  playAt: (_context: unknown, _bus: unknown, [samples]: Float32Array[]) => {
    const sound = { from: renderedFrom, samples, stopped: false, stop: () => (sound.stopped = true) };
    scrubbed.push(sound);
    return sound;
  },
}));
jest.mock('@/audio/player', () => ({
  Player: class {
    stopped = false;
    frame = 0;
    finish: () => void = () => undefined;
    ended = new Promise<void>((resolve) => (this.finish = resolve));
    constructor(
      _context: unknown,
      readonly range: { from: number; to: number },
    ) {
      this.frame = range.from;
      players.push(this);
    }
    stop() {
      this.stopped = true;
      this.finish();
    }
  },
}));

const mode = () => useTransport.getState().mode;
const turn = () => new Promise((resolve) => setTimeout(resolve, 0));

beforeEach(async () => {
  engines = [];
  players = [];
  scrubbed = [];
  await openFresh();
  record(4);
  setCaret(0);
});
afterEach(() => endPlaying());

test('what is stopped before the engine has started is never heard, and the next can be played', async () => {
  void play();
  expect(mode()).toBe('playing');
  endPlaying({ back: true });
  expect(mode()).toBe('idle');
  engines[0].start();
  await turn();
  expect(players).toHaveLength(0);
  expect(mode()).toBe('idle');
  void play();
  engines[1].start();
  await turn();
  expect(players).toHaveLength(1);
  expect(mode()).toBe('playing');
});

test('the last of two that are asked for while the engine starts is heard, and only that', async () => {
  void playRange({ from: 0, to: rate });
  void playRange({ from: rate, to: 2 * rate });
  for (const { start } of engines) start();
  await turn();
  expect(players.map(({ range }) => range)).toEqual([{ from: rate, to: 2 * rate }]);
});

test('an engine that fails after the stop says nothing and ends nothing; one that fails before says why', async () => {
  useNotices.setState({ notices: [] });
  void play();
  endPlaying();
  void play();
  engines[1].start();
  engines[0].fail(new Error('too late'));
  await turn();
  expect(useNotices.getState().notices).toEqual([]);
  expect(mode()).toBe('playing');
  endPlaying();
  void play();
  engines[2].fail(new Error('no sound'));
  await turn();
  expect(mode()).toBe('idle');
  expect(useNotices.getState().notices).toHaveLength(1);
});

test('stopping puts the caret where it is heard, or back where it began; a range leaves it', async () => {
  for (const [back, caret] of [
    [false, 3 * rate],
    [true, rate],
  ] as const) {
    setCaret(rate);
    void play();
    engines.at(-1)?.start();
    await turn();
    const player = players[players.length - 1];
    player.frame = 3 * rate;
    endPlaying({ back });
    expect(player.stopped).toBe(true);
    expect(playback.player).toBeNull();
    expect(usePart.getState().caret).toBe(caret);
  }
  void playRange({ from: 2 * rate, to: 3 * rate });
  engines.at(-1)?.start();
  await turn();
  players[players.length - 1].finish();
  await turn();
  expect(mode()).toBe('idle');
  expect(usePart.getState().caret).toBe(rate);
});

/** What is asked for begins at once. */
async function begun(asked: () => unknown) {
  asked();
  engines.at(-1)?.start();
  await turn();
  return players[players.length - 1];
}

test('from the end of the part it plays from the start; with nothing on the sheet, not at all', async () => {
  setCaret(4 * rate);
  expect((await begun(play)).range).toEqual({ from: 0, to: 4 * rate });
  // A second one changes nothing.
  void play();
  expect(players).toHaveLength(1);
  endPlaying();
  edit('strike', (timeline) => strike(timeline, { from: 0, to: 4 * rate }));
  void play();
  expect(mode()).toBe('idle');
});

test('what is struck is not heard: a range is played in heard time, and one that is all struck not at all', async () => {
  edit('strike', (timeline) => strike(timeline, { from: rate, to: 2 * rate }));
  const player = await begun(() => playRange({ from: 0, to: 3 * rate }));
  expect(player.range).toEqual({ from: 0, to: 2 * rate });
  expect(playback).toMatchObject({ onSheet: true, caretMoves: false });
  endPlaying();
  void playRange({ from: rate, to: 2 * rate });
  expect(mode()).toBe('idle');
  await begun(() => playTimeline(usePart.getState().timeline, { from: 0, to: rate }));
  expect(playback.onSheet).toBe(false);
});

test('a take is listened to from a place in it to its end, without its handle, in place of what plays', async () => {
  const source = record(2);
  const take = useProject.getState().sources.get(source);
  if (!take) throw new Error('no take');
  const handled = { ...take, handleFrames: 1000, frames: 2 * rate };
  void play();
  expect(takeFrame()).toBeNull();
  const player = await begun(() => playTake(handled, rate));
  expect(player.range).toEqual({ from: rate, to: 2 * rate - 1000 });
  expect(useTransport.getState().playingTake).toBe(source);
  player.frame = rate + 7;
  expect(takeFrame()).toBe(rate + 7);
  expect((await begun(() => playTake(handled, 9 * rate))).range.from).toBe(2 * rate - 1000);
  endPlaying();
  expect(takeFrame()).toBeNull();
});

test('a file is listened to in place of what plays; nothing is, while something is recorded', async () => {
  void play();
  const table = PieceTable.of([audioPiece('file', 100)]);
  expect((await begun(() => playTracks([{ table }], { from: 0, to: 100 }))).range.to).toBe(100);
  expect(stopToEdit()).toBe(true);
  expect(mode()).toBe('idle');
  const before = engines.length;
  useTransport.setState({ mode: 'recording' });
  void playTracks([{ table }], { from: 0, to: 100 });
  void playRange({ from: 0, to: rate });
  void play();
  void scrub(0);
  expect(stopToEdit()).toBe(false);
  expect(engines).toHaveLength(before);
  useTransport.setState({ mode: 'idle' });
});

test('scrubbing lets a moment around a frame be heard, faded at both ends; the one before falls silent', async () => {
  const moment = 0.12 * rate;
  await begun(() => scrub(rate));
  await turn();
  const [first] = scrubbed;
  expect(first.from).toBe(rate - moment / 2);
  expect(first.samples).toHaveLength(moment);
  expect([first.samples[0], first.samples[moment / 2]]).toEqual([0, 1]);
  expect(first.samples[moment - 1]).toBeLessThan(0.01);
  await begun(() => scrub(10));
  await turn();
  expect(first.stopped).toBe(true);
  expect(scrubbed[1].from).toBe(0);
  // At the very end it is what is left; a part shorter than a click is not heard.
  await begun(() => scrub(9 * rate));
  await turn();
  expect(scrubbed[2].samples).toHaveLength(moment / 2);
  const before = engines.length;
  edit('strike', (timeline) => strike(timeline, { from: 60, to: 4 * rate }));
  void scrub(0);
  expect(engines).toHaveLength(before);
});
