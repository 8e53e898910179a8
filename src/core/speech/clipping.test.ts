import { prompts } from '../testing/prompts';
import { decodeWithFfmpeg, chunksOf, sine } from '../testing/signals';
import { findFlattened, FullScaleFinder } from './clipping';

const rateHz = 16_000;

test('recorded speech is not flat; the same speech driven into a ceiling is, where it was driven', () => {
  for (const [index, prompt] of prompts('en', 40, 1.4).entries()) {
    expect(findFlattened(prompt, rateHz)).toEqual([]);
    const from = Math.round(prompt.length * 0.4);
    const to = from + Math.round(0.3 * rateHz);
    const driven = prompt.map((value, i) =>
      i >= from && i < to ? Math.max(-0.3, Math.min(0.3, value * 20)) : value,
    );
    const loud = prompt.subarray(from, to).some((value) => Math.abs(value) > 0.1);
    const found = findFlattened(driven, rateHz);
    if (loud) expect([index, found.length]).toEqual([index, 1]);
    for (const stretch of found) {
      expect(stretch.to).toBeGreaterThan(from);
      expect(stretch.from).toBeLessThan(to);
    }
  }
});

test('the clipped word of the demo is found through its MP3 coding, and nothing else', () => {
  const found = findFlattened(decodeWithFfmpeg('public/demo/stair.mp3'), 48_000);
  expect(found).toHaveLength(1);
  // Line 6 is read from 33.617 to 37.114 s; its clipped word begins at 45 % of its second half
  // (public/demo/truth.csv).
  expect(found[0].from / 48_000).toBeGreaterThan(34.9);
  expect(found[0].to / 48_000).toBeLessThan(35.7);
  for (const file of ['arrival', 'boat-house', 'keepers-talk'])
    expect(findFlattened(decodeWithFfmpeg(`public/demo/${file}.mp3`), 48_000)).toEqual([]);
});

test('full scale for three samples counts, for two it does not; chunks do not matter', () => {
  const audio = sine(48_000, 1, 100, -3);
  audio.fill(1, 10_000, 10_002);
  audio.fill(-1, 20_000, 20_003);
  audio.fill(1, 20_100, 20_200);
  const finder = new FullScaleFinder(48_000);
  for (const chunk of chunksOf(audio, 500, 3)) finder.process(chunk);
  expect(finder.found).toEqual([{ from: 20_000, to: 20_200 }]);
});
