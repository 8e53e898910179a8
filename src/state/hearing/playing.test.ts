import { openFresh, rate, record } from '../testing/fixture';
import { useNotices } from '../page/notices';
import { setCaret, usePart } from '../sheet/part';
import { endPlaying, play, playRange } from './playing';
import { playback, useTransport } from './transport';

/** An engine that starts when the test says so, and players that only tell what they were asked for. */
let engines: { start: () => void; fail: (reason: Error) => void }[] = [];
let players: { range: { from: number; to: number }; frame: number; stopped: boolean; finish: () => void }[] =
  [];

jest.mock('./engine', () => ({
  startEngine: () =>
    new Promise((resolve, reject) => {
      engines.push({ start: () => resolve({ context: {}, bus: {} }), fail: reject });
    }),
}));
jest.mock('./rendering', () => ({ renderer: () => () => Promise.resolve([]) }));
jest.mock('@/audio/playAt', () => ({}));
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
