import { ParolaError } from '@/core/base/errors';
import { useNotices } from './notices';
import { save, savePassing, saved, stored, useSaving } from './saving';

beforeEach(() => {
  useNotices.setState({ notices: [] });
  jest.useFakeTimers();
});
afterEach(async () => {
  await jest.runAllTimersAsync();
  jest.useRealTimers();
});

const full = () => Promise.reject(new ParolaError('storage-full', 'The disk is full.'));
const messages = () => useNotices.getState().notices.map(({ text }) => text);

test('writes happen in the order they were asked for, however long each takes', async () => {
  const done: number[] = [];
  for (const ms of [30, 5, 10])
    void save(() => new Promise<void>((resolve) => setTimeout(() => resolve(void done.push(ms)), ms)));
  await jest.runAllTimersAsync();
  expect(done).toEqual([30, 5, 10]);
  expect(useSaving.getState()).toMatchObject({ pending: 0, failed: false });
});

test('one that fails is tried again by itself, ever more seldom, and nothing overtakes it', async () => {
  const done: string[] = [];
  let room = false;
  let tries = 0;
  const first = save(() => {
    tries++;
    return room ? Promise.resolve(done.push('first')) : full();
  });
  const second = save(() => Promise.resolve(done.push('second')));
  expect(await saved()).toBe(false);
  expect(useSaving.getState()).toMatchObject({ pending: 2, failed: true });
  await jest.advanceTimersByTimeAsync(8500);
  expect(tries).toBe(4);
  expect(done).toEqual([]);
  // It is told once, not at every try.
  expect(messages()).toHaveLength(1);
  expect(messages()[0]).toMatch(/The disk is full.*leave this window open/);
  room = true;
  const all = stored();
  await jest.advanceTimersByTimeAsync(10_000);
  expect(await all).toBe(true);
  expect([await first, await second, ...done]).toEqual([true, true, 'first', 'second']);
  expect(useSaving.getState()).toMatchObject({ pending: 0, failed: false });
});

test('one that never answers counts as failed, and what comes after it is not lost', async () => {
  let answers = false;
  const done: string[] = [];
  void save(() => (answers ? Promise.resolve(done.push('first')) : new Promise(() => undefined)));
  void save(() => Promise.resolve(done.push('second')));
  const told = saved();
  await jest.advanceTimersByTimeAsync(30_000);
  expect(await told).toBe(false);
  expect(messages()[0]).toMatch(/does not answer/);
  answers = true;
  await jest.advanceTimersByTimeAsync(2000);
  expect(done).toEqual(['first', 'second']);
});

test('one that can never be done is told of and let go', async () => {
  const gone = save(() => Promise.reject(new ParolaError('not-found', 'This part is gone.')));
  const next = save(() => Promise.resolve());
  expect([await gone, await next]).toEqual([false, true]);
  expect(messages()).toEqual(['This part is gone.']);
});

test('what may be missing is tried once, in its order, and stops nobody', async () => {
  const done: string[] = [];
  const looked = savePassing(full);
  const made = save(() => Promise.resolve(done.push('made')));
  const looking = savePassing(() => Promise.resolve(done.push('looked')));
  expect([await looked, await made, await looking]).toEqual([false, true, true]);
  expect(done).toEqual(['made', 'looked']);
  expect(messages()).toEqual([]);
  expect(useSaving.getState()).toMatchObject({ pending: 0, failed: false });
  expect(await saved()).toBe(true);
});

test('the sign is not cleared by the first of several that are stored at last, but by the last', async () => {
  let room = false;
  const signs: [number, boolean][] = [];
  const write = () => (room ? Promise.resolve() : full());
  void save(write);
  void save(write);
  void save(write);
  expect(await saved()).toBe(false);
  const stop = useSaving.subscribe(({ pending, failed }) => void signs.push([pending, failed]));
  room = true;
  const all = stored();
  await jest.advanceTimersByTimeAsync(10_000);
  await all;
  stop();
  expect(signs).toEqual([
    [2, true],
    [1, true],
    [0, false],
  ]);
});

test('one that failed and then can never be done leaves no sign behind', async () => {
  let gone = false;
  const lost = save(() => (gone ? Promise.reject(new ParolaError('not-found', 'Gone.')) : full()));
  expect(await saved()).toBe(false);
  gone = true;
  await jest.advanceTimersByTimeAsync(2000);
  expect(await lost).toBe(false);
  expect(useSaving.getState()).toMatchObject({ pending: 0, failed: false });
});
