import { createRing, RingWriter } from '@/core/base/ring';
import { RecorderFeed } from './recorderFeed';

const rateHz = 48_000;

/** A feed that has heard a second of sound, and nothing since. */
function heardASecond() {
  const memory = createRing(1, 2 * rateHz);
  const writer = new RingWriter(memory);
  for (let i = 0; i < 375; i++) writer.write([new Float32Array(128)], 128);
  const feed = new RecorderFeed(memory);
  feed.read();
  expect(feed.at + feed.count).toBe(rateHz);
  return feed;
}

const after = (feed: RecorderFeed, stopAfter: number, silentMs: number) =>
  feed.silence(stopAfter, rateHz, feed.heardAtMs + silentMs);

test('a recording that was stopped waits for the rest of its handle a moment, not longer', () => {
  const feed = heardASecond();
  expect(after(feed, rateHz - 10, 399)).toBeNull();
  expect(after(feed, rateHz - 10, 401)).toBe('ended');
});

test('sound that is held up ends no recording whose end lies ahead; sound that is gone does', () => {
  const feed = heardASecond();
  // Ten seconds are wanted, as in a sound check or a patch of fixed length.
  expect(after(feed, 10 * rateHz, 401)).toBeNull();
  expect(after(feed, 10 * rateHz, 1199)).toBeNull();
  expect(after(feed, 10 * rateHz, 1201)).toBe('lost');
  expect(after(feed, Infinity, 1199)).toBeNull();
  expect(after(feed, Infinity, 1201)).toBe('lost');
});

test('the last of a recording of fixed length may come late, but not for ever', () => {
  const feed = heardASecond();
  expect(after(feed, 1.2 * rateHz, 590)).toBeNull();
  expect(after(feed, 1.2 * rateHz, 610)).toBe('ended');
});
