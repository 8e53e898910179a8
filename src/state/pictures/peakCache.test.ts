import { readPeaks } from '@/storage/blocks';
import { PeakCache } from './peakCache';

jest.mock('@/storage/blocks', () => ({ readPeaks: jest.fn() }));
const read = jest.mocked(readPeaks);
const block = [Float32Array.of(-0.5, 0.25, 0.1)];

beforeEach(() => {
  jest.useFakeTimers();
  read.mockReset();
});
afterEach(() => jest.useRealTimers());

test('what could not be read is read again, and listeners are told to look', async () => {
  const cache = new PeakCache();
  const told = jest.fn();
  cache.onLoaded(told);
  read.mockRejectedValueOnce(new Error('The disk is asleep'));
  read.mockResolvedValue([block]);
  expect(cache.span('a', 0, 0, 10)).toBeNull();
  await jest.advanceTimersByTimeAsync(500);
  // Drawing goes on at every frame: it does not hammer a disk that fails.
  expect(cache.span('a', 0, 0, 10)).toBeNull();
  expect(read).toHaveBeenCalledTimes(1);
  await jest.advanceTimersByTimeAsync(1000);
  expect(told).toHaveBeenCalledTimes(1);
  expect(cache.span('a', 0, 0, 10)).toBeNull();
  await jest.advanceTimersByTimeAsync(0);
  expect(told).toHaveBeenCalledTimes(2);
  expect(cache.span('a', 0, 0, 10)).toEqual({ low: -0.5, high: 0.25, meanSquare: Math.fround(0.1) });
});

test('who waits for a picture that cannot be read is told so, and one who waits while it is being read reads nothing twice', async () => {
  const cache = new PeakCache();
  read.mockRejectedValueOnce(new Error('The disk is asleep'));
  await expect(cache.ready('a', 0, 0, 10)).rejects.toThrow('The disk is asleep');
  await jest.advanceTimersByTimeAsync(1000);
  read.mockResolvedValue([block]);
  expect(cache.span('a', 0, 0, 10)).toBeNull();
  await cache.ready('a', 0, 0, 10);
  expect(read).toHaveBeenCalledTimes(2);
  expect(cache.span('a', 0, 0, 10)).not.toBeNull();
});

test('peaks are read in groups, each once, from first to last block; who has stopped looking is told nothing', async () => {
  const cache = new PeakCache();
  const told = jest.fn();
  const stop = cache.onLoaded(told);
  const groupFrames = 64 * 16_384;
  // Each block is as long as the number of its group says.
  read.mockImplementation((_source, from) =>
    Promise.resolve(Array.from({ length: 64 }, () => [new Float32Array(64 * 3).fill(from / 64 + 1)])),
  );
  await cache.ready('a', 0, groupFrames, 3 * groupFrames);
  expect(read.mock.calls).toEqual([
    ['a', 64, 127],
    ['a', 128, 191],
  ]);
  expect(told).toHaveBeenCalledTimes(2);
  expect(cache.span('a', 0, groupFrames, groupFrames + 1)).toEqual({ low: 2, high: 2, meanSquare: 2 });
  expect(cache.span('a', 0, 2 * groupFrames - 256, 2 * groupFrames + 256)).toEqual({
    low: 2,
    high: 3,
    meanSquare: 2.5,
  });
  expect(read).toHaveBeenCalledTimes(2);
  stop();
  await cache.ready('a', 0, 0, 1);
  expect(read).toHaveBeenLastCalledWith('a', 0, 63);
  expect(told).toHaveBeenCalledTimes(2);
});

test('what no source has is silence', async () => {
  const cache = new PeakCache();
  read.mockResolvedValue([]);
  await cache.ready('a', 1, 0, 10);
  expect(cache.span('a', 1, 0, 10)).toEqual({ low: 0, high: 0, meanSquare: 0 });
});

test('what will be looked at is read ahead, one group after another, until it is told to end', async () => {
  const cache = new PeakCache();
  const groupFrames = 64 * 16_384;
  read.mockImplementation(() => Promise.resolve([block]));
  await cache.ready('a', 0, groupFrames, groupFrames + 1);
  cache.readAhead([{ source: 'a', channel: 0, from: 0, to: 3 * groupFrames }]);
  await jest.advanceTimersByTimeAsync(0);
  expect(read.mock.calls.map(([, from]) => from / 64)).toEqual([1, 0, 2]);
  expect(cache.span('a', 0, 2 * groupFrames, 2 * groupFrames + 1)).not.toBeNull();
  const end = cache.readAhead([{ source: 'b', channel: 0, from: 0, to: 90 * groupFrames }]);
  end();
  await jest.advanceTimersByTimeAsync(0);
  expect(read.mock.calls.filter(([source]) => source === 'b')).toHaveLength(1);
  // Never so much that what is looked at has to go.
  cache.readAhead([{ source: 'c', channel: 0, from: 0, to: 9000 * groupFrames }]);
  await jest.advanceTimersByTimeAsync(0);
  expect(read.mock.calls.filter(([source]) => source === 'c')).toHaveLength(448);
});
