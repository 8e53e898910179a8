import { openFresh, rate, recordAudio, table } from '../testing/fixture';
import { concat, noise, sine } from '@/core/testing/signals';
import { addMark } from './marks';
import { closePart, edit, select } from './part';
import { changeGain } from '@/core/timeline/joints';
import { levelsAround, meanSquares, pauseLevel, speechLevel } from '../pictures/sheetLevels';
import { saved } from '../page/saving';
import { snapped, zeroCrossing } from './snapping';

/** Two seconds of a voice-like tone, half a second of room, two seconds of tone. */
const audio = concat(sine(rate, 2, 220, -20), noise(rate / 2, -65, 1), sine(rate, 2, 220, -20));

beforeEach(async () => {
  await openFresh();
  await recordAudio(audio);
  // Peaks are read when they are first asked for.
  await meanSquares(table(), 0, audio.length);
});
afterEach(async () => {
  await saved();
  closePart();
});

describe('where a pointer means to be', () => {
  test('a mark, an end of the selection, a cut; nothing where there is nothing', () => {
    const id = addMark('note', rate);
    expect(id).not.toBe('');
    select(3 * rate, 4 * rate);
    expect(snapped(rate + 900, 1000)).toBe(rate);
    expect(snapped(3 * rate - 200, 1000)).toBe(3 * rate);
    expect(snapped(rate + 2000, 1000)).toBe(rate + 2000);
  });

  test('the pause beside a word, when it is near', () => {
    const place = snapped(2 * rate - 500, 4000);
    expect(place).toBeGreaterThan(2 * rate);
    expect(place).toBeLessThan(2.1 * rate);
    expect(snapped(1.2 * rate, 4000)).toBe(1.2 * rate);
  });

  test('the nearest zero crossing upwards, as far as it may look', () => {
    // From under zero at sample 47 to over it at sample 48.
    const wave = sine(48_000, 0.01, 1000, -6, 3);
    expect(zeroCrossing(wave, 50, 10)).toBe(48);
    expect(zeroCrossing(wave, 70, 5)).toBe(70);
    expect(zeroCrossing(new Float32Array(100), 50, 20)).toBe(50);
  });
});

describe('levels on the sheet', () => {
  test('of speech and of pauses; with the gain a passage has', async () => {
    const levels = await meanSquares(table(), 0, audio.length);
    // A sine of −20 dBFS peak is −23 dBFS RMS.
    expect(speechLevel(levels)).toBeCloseTo(-23, 0);
    expect(Math.abs(pauseLevel(await meanSquares(table(), 2.02 * rate, 2.48 * rate)) + 65)).toBeLessThan(2);
    edit('louder', (timeline) => changeGain(timeline, { from: 0, to: rate }, 6));
    expect(speechLevel(await meanSquares(table(), 0, rate))).toBeCloseTo(-17, 0);
  });

  test('around a range, without what is in it', async () => {
    const around = await levelsAround(table(), { from: 0, to: 2 * rate }, rate / 2);
    expect(speechLevel(around)).toBeLessThan(-60);
    expect(speechLevel(new Float32Array(0))).toBe(-Infinity);
    expect(pauseLevel(new Float32Array(8))).toBe(-Infinity);
  });
});
