import { amplitudeToDb, dbToAmplitude } from '../base/units';
import { through, voiceThrough } from '../testing/chains';
import { concat, sine } from '../testing/signals';
import type { EvenStep } from './chain';
import { takenOff } from './even';
import { usualStep } from './settings';

const rateHz = 48_000;
const step = (changes: Partial<EvenStep>): EvenStep => ({ ...usualStep('even', 'a'), ...changes });
const peakDb = (audio: Float32Array) =>
  amplitudeToDb(audio.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0));

/** The static curve of Giannoulis, Massberg and Reiss (JAES 60, 2012), equation 4, as it is written there. */
function published(x: number, { thresholdDb: T, ratio: R, kneeDb: W }: EvenStep): number {
  if (2 * (x - T) < -W) return x;
  if (2 * Math.abs(x - T) <= W && W > 0) return x + ((1 / R - 1) * (x - T + W / 2) ** 2) / (2 * W);
  return T + (x - T) / R;
}

describe.each([0, 6, 12, 24])('with a knee of %d dB', (kneeDb) => {
  test.each([1.5, 3, 20])('the static curve of %d to 1 at 20 levels, measured on sines', async (ratio) => {
    const one = step({ kneeDb, ratio, thresholdDb: -26, detector: 'peak', attackMs: 5, releaseMs: 60 });
    const levels = Array.from({ length: 20 }, (_, i) => -58 + 3 * i);
    // Each level for 0.6 s: long after the release what is measured stands still.
    const audio = concat(...levels.map((level) => sine(rateHz, 0.6, 1000, level)));
    const made = await through(audio, [one], rateHz);
    levels.forEach((level, index) => {
      const end = (index + 1) * 0.6 * rateHz;
      const out = peakDb(made.subarray(end - 0.1 * rateHz, end - 100));
      expect(Math.abs(out - published(level, one))).toBeLessThan(0.1);
      expect(level - takenOff(level, one)).toBeCloseTo(published(level, one), 6);
    });
  });
});

test('an RMS detector knows a sine by its RMS, 3 dB under its peak', async () => {
  const one = step({ thresholdDb: -23, ratio: 20, kneeDb: 0, detector: 'rms' });
  const out = peakDb((await through(sine(rateHz, 1, 1000, -10), [one], rateHz)).subarray(0.6 * rateHz));
  expect(Math.abs(out - (-23 + 3.01 + (13 - 3.01) / 20))).toBeLessThan(0.1);
});

/**
 * Attack and release in the manner of IEC 60268-8: a level steps by 10 dB, and the time is that until the
 * gain is within 2 dB of its end, for a gain that moves by all of the 10 dB (from memory of the standard).
 */
function timesOf(gainsDb: Float32Array, from: number, ticksPerSecond: number) {
  const start = gainsDb[from - 20];
  const end = gainsDb[gainsDb.length - 20];
  const nearEnd = start + 0.8 * (end - start);
  for (let i = from; i < gainsDb.length; i++)
    if (end < start ? gainsDb[i] <= nearEnd : gainsDb[i] >= nearEnd)
      return ((i - from) / ticksPerSecond) * 1000;
  return Infinity;
}

describe.each(['peak', 'rms'] as const)('with a %s detector', (detector) => {
  test.each([
    { attackMs: 20, releaseMs: 120 },
    { attackMs: 50, releaseMs: 400 },
    { attackMs: 100, releaseMs: 1000 },
  ])('an attack of $attackMs ms and a release of $releaseMs ms are what is set, to 10 %', async (times) => {
    const one = step({ ...times, detector, ratio: 20, kneeDb: 0, thresholdDb: -32 });
    const tone = (seconds: number, level: number) => sine(rateHz, seconds, 2000, level);
    const measure = async (levels: readonly [number, number]) => {
      const audio = concat(tone(4, levels[0]), tone(6, levels[1]));
      const [{ gainsDb }] = voiceThrough([audio], [one], rateHz).stages;
      const ticksPerSecond = rateHz / 16;
      const [gains] = (await gainsDb?.read(0, 9.9 * ticksPerSecond)) ?? [];
      return timesOf(gains, 4 * ticksPerSecond, ticksPerSecond);
    };
    // The mean square is taken around a moment: half its window of 10 ms stands before the step.
    const early = detector === 'rms' ? 1 : 0;
    const attack = await measure([-20, -10]);
    const release = await measure([-10, -20]);
    expect(Math.abs(attack - times.attackMs)).toBeLessThan(0.1 * times.attackMs + early);
    expect(Math.abs(release - times.releaseMs)).toBeLessThan(0.1 * times.releaseMs + early);
  });
});

test('a quick attack is quick: 5 ms on a peak detector', async () => {
  const one = step({ attackMs: 5, detector: 'peak', ratio: 20, kneeDb: 0, thresholdDb: -32 });
  const audio = concat(sine(rateHz, 1, 4000, -20), sine(rateHz, 1, 4000, -10));
  const [{ gainsDb }] = voiceThrough([audio], [one], rateHz).stages;
  const [gains] = (await gainsDb?.read(0, 5900)) ?? [];
  expect(Math.abs(timesOf(gains, 3000, 3000) - 5)).toBeLessThan(0.5);
});

test('what is under the knee is as it was, made up by what is asked', async () => {
  const audio = sine(rateHz, 1, 300, -40);
  const made = await through(audio, [step({ makeUpDb: 6 })], rateHz);
  const gain = dbToAmplitude(6);
  expect(Math.max(...made.map((sample, i) => Math.abs(sample - audio[i] * gain)))).toBeLessThan(1e-6);
});

test('the loud and the faint of a reading come nearer, and its gain never rises over the make-up', async () => {
  const audio = concat(sine(rateHz, 1, 200, -6), sine(rateHz, 1, 200, -30));
  const one = step({ thresholdDb: -30, ratio: 4, makeUpDb: 4 });
  const [{ gainsDb }] = voiceThrough([audio], [one], rateHz).stages;
  const [gains] = (await gainsDb?.read(0, 6000)) ?? [];
  expect(Math.max(...gains)).toBeLessThanOrEqual(4);
  const made = await through(audio, [one], rateHz);
  const apart = peakDb(made.subarray(0.5 * rateHz, rateHz)) - peakDb(made.subarray(1.8 * rateHz));
  expect(apart).toBeLessThan(10);
});
