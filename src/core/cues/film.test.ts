import { seededRandom } from '../base/random';
import { rateOfTimes, stillTime, tradeRate, type Film } from './film';
import { rateNames, rates } from './timecode';

const film = (changes: Partial<Film> = {}): Film => ({
  ...{ fileName: 'film.mp4', bytes: 1, width: 640, height: 360, frames: 250, seconds: 10 },
  ...{ rate: { num: 25, den: 1 }, ...changes },
});

describe('the rate of a film', () => {
  test.each(rateNames)('%s is read from the times of its pictures, exact or to a millisecond', (name) => {
    const { num, den } = rates[name];
    const times = Array.from({ length: 300 }, (_, i) => 0.08 + (i * den) / num);
    expect(rateOfTimes(times)).toEqual({ num, den });
    // As WebM rounds them, and in the order in which they are coded.
    const rounded = times.map((time) => Math.round(time * 1000) / 1000);
    expect(rateOfTimes([...rounded.slice(5), ...rounded.slice(0, 5)])).toEqual({ num, den });
  });

  test('one that is none of the trade is told in thousandths; uneven ones have none', () => {
    expect(rateOfTimes(Array.from({ length: 90 }, (_, i) => i / 15))).toEqual({ num: 15_000, den: 1000 });
    const random = seededRandom(4);
    expect(rateOfTimes(Array.from({ length: 90 }, (_, i) => (i + 0.6 * random()) / 25))).toBeNull();
    const missing = Array.from({ length: 90 }, (_, i) => (i < 50 ? i : i + 3) / 25);
    expect(rateOfTimes(missing)).toBeNull();
    expect(rateOfTimes([0])).toBeNull();
    expect(rateOfTimes([1, 1, 1])).toBeNull();
    expect(tradeRate(23.98)?.name).toBe('23.976');
    expect(tradeRate(27)).toBeNull();
  });
});

describe('standing still', () => {
  test('the film stands in the middle of the picture that belongs to a frame of sound, and within itself', () => {
    const at = (seconds: number, changes: Partial<Film> = {}) =>
      stillTime(film(changes), Math.round(seconds * 48_000), 48_000);
    expect(at(4)).toBeCloseTo(4.02, 9);
    expect(at(4.0399)).toBeCloseTo(4.02, 9);
    expect(at(4.04)).toBeCloseTo(4.06, 9);
    expect(at(-1)).toBeCloseTo(0.02, 9);
    expect(at(99)).toBeCloseTo(9.98, 9);
    expect(at(4.0399, { rate: null })).toBeCloseTo(4.0399, 4);
    expect(at(99, { rate: null })).toBeLessThan(10);
    // An hour in, at 29.97, from the frame of sound nearest to the picture's beginning on.
    const { num, den } = rates['29.97'];
    const begins = Math.round((107_892 * den * 44_100) / num);
    const long = film({ rate: { num, den }, frames: 200_000, seconds: 7000 });
    expect(stillTime(long, begins, 44_100)).toBeCloseTo((107_892.5 * den) / num, 9);
    expect(stillTime(long, begins - 1, 44_100)).toBeCloseTo((107_891.5 * den) / num, 9);
  });
});
