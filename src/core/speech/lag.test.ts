import { seededRandom } from '../base/random';
import { seeds } from '../testing/seeds';
import { lagAlong, summaryOf } from './lag';

const stepSeconds = 256 / 48_000;

interface Phrase {
  from: number;
  to: number;
}

/** Phrases of one to five seconds with pauses between them, as people speak. */
function statement(seed: number, seconds: number): Phrase[] {
  const random = seededRandom(seed);
  const phrases: Phrase[] = [];
  let at = 0.5;
  while (at < seconds) {
    const to = at + 1 + 4 * random();
    phrases.push({ from: at, to });
    at = to + 0.35 + 1.4 * random();
  }
  return phrases;
}

/** Said after it: each phrase later by the lag at that time, begun sooner or later, shorter or longer. */
function interpreted(phrases: readonly Phrase[], lagAt: (at: number) => number, seed: number): Phrase[] {
  const random = seededRandom(seed);
  return phrases.map(({ from, to }) => {
    const begins = from + lagAt(from) + 0.3 * (random() - 0.5);
    return { from: begins, to: begins + (to - from) * (0.9 + 0.2 * random()) };
  });
}

/** Mean squares of phrases over a room at −65 dB, syllables going up and down in them. */
function levels(phrases: readonly Phrase[], seconds: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  const result = new Float32Array(Math.round(seconds / stepSeconds));
  for (let i = 0; i < result.length; i++) result[i] = 10 ** (-6.5 + 0.2 * (random() - 0.5));
  for (const { from, to } of phrases)
    for (let i = Math.round(from / stepSeconds); i < Math.min(result.length, to / stepSeconds); i++)
      result[i] = 10 ** (-2.2 + Math.sin(i / 14) + 0.3 * random());
  return result;
}

test.each(seeds(12))('seed %i: a lag that grows from 2 to 4 seconds is followed', (seed) => {
  const seconds = 300;
  const truth = (at: number) => 2 + (2 * at) / seconds;
  const said = statement(seed, seconds);
  const voice = levels(interpreted(said, truth, seed + 100), seconds, seed + 1);
  const lags = lagAlong(voice, levels(said, seconds, seed + 2), stepSeconds);
  expect(lags.length).toBeGreaterThan(45);
  const near = lags.filter((lag) => Math.abs(lag.seconds - truth(lag.at - lag.seconds)) < 0.35);
  expect(near.length / lags.length).toBeGreaterThan(0.9);
  expect(summaryOf(lags)?.usual).toBeGreaterThan(2.5);
  expect(summaryOf(lags)?.usual).toBeLessThan(3.5);
  expect(summaryOf(lags)?.longest).toBeGreaterThan(3.6);
});

test('rhythms that have nothing in common have hardly a lag; a voice that is silent has none', () => {
  let told = 0;
  let windows = 0;
  for (let seed = 1; seed <= 10; seed++) {
    const guide = levels(statement(seed, 300), 300, 1);
    told += lagAlong(levels(statement(seed + 50, 300), 300, 2), guide, stepSeconds).length;
    windows += 55;
  }
  expect(told / windows).toBeLessThan(0.15);
  const guide = levels(statement(1, 100), 100, 1);
  expect(lagAlong(new Float32Array(guide.length), guide, stepSeconds)).toEqual([]);
  expect(lagAlong(new Float32Array(0), guide, stepSeconds)).toEqual([]);
  expect(summaryOf([])).toBeNull();
});

test('a voice that has been recorded half-way only is measured as far as it goes', () => {
  const said = statement(7, 200);
  const own = interpreted(said, () => 2.5, 8).filter(({ to }) => to < 100);
  const voice = levels(own, 200, 3).map((level, i) => (i * stepSeconds > 100 ? 0 : level));
  const lags = lagAlong(voice, levels(said, 200, 4), stepSeconds);
  expect(lags.length).toBeGreaterThan(4);
  for (const { seconds } of lags.filter(({ at }) => at < 85))
    expect(Math.abs(seconds - 2.5)).toBeLessThan(0.3);
  expect(Math.max(...lags.map(({ at }) => at))).toBeLessThan(115);
});
