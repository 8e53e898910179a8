import { through, voiceThrough } from '../testing/chains';
import { concat, noise, sine } from '../testing/signals';
import { pictureOf } from './picture';
import { usualStep } from './settings';

const rateHz = 48_000;
const audio = concat(noise(rateHz, -50, 1), sine(rateHz, 1, 300, -6), noise(rateHz, -50, 2));
const steps = [
  { ...usualStep('even', 'a'), thresholdDb: -30, ratio: 4, makeUpDb: 5 },
  { ...usualStep('pauses', 'b'), thresholdDb: -40, rangeDb: 8 },
];

test('a picture is the lowest and highest of what comes out, and what was taken off without the make-up', async () => {
  const voice = voiceThrough([audio], steps, rateHz);
  const picture = await pictureOf(voice, 256 * 100, 256 * 400);
  const made = await through(audio, steps, rateHz);
  for (const step of [0, 150, 399]) {
    const part = made.subarray(256 * (100 + step), 256 * (101 + step));
    expect(picture.low[0][step]).toBe(Math.min(...part));
    expect(picture.high[0][step]).toBe(Math.max(...part));
  }
  expect(Math.max(...picture.takenDb)).toBe(0);
  // The loud tone: RMS −9, 21 dB over, three quarters off.
  const inTone = picture.takenDb[Math.floor((1.5 * rateHz) / 256) - 100];
  expect(inTone).toBeCloseTo(-15.75, 0);
});

test('a pair has a row for each side, and one for what both lose', async () => {
  const voice = voiceThrough([audio, audio.map((sample) => sample / 2)], steps, rateHz);
  const { low, high, takenDb } = await pictureOf(voice, 0, 25_600);
  expect([low.length, high.length]).toEqual([2, 2]);
  expect(high[1][50]).toBeCloseTo(high[0][50] / 2, 6);
  expect(takenDb).toHaveLength(100);
});
