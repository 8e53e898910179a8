import { seededRandom } from '../base/random';
import { SteadyClock } from './steadyClock';

/** A context that counts in steps of a device's buffer, 80 ppm faster than the page. */
const counted = (seconds: number, stepSeconds: number) => {
  const true_ = 7 + seconds * 1.00008;
  return Math.floor(true_ / stepSeconds) * stepSeconds;
};

describe('the time of a context', () => {
  it.each([128 / 48_000, 0.01, 0.023])(
    'is told within 2 ms, though it is counted in steps of %f s',
    (step) => {
      const clock = new SteadyClock();
      const random = seededRandom(3);
      let worst = 0;
      let last = -Infinity;
      for (let page = 0; page < 120; page += 0.001 + 0.04 * random()) {
        const told = clock.read(counted(page, step), page);
        if (page > 5) worst = Math.max(worst, Math.abs(told - (7 + page * 1.00008)));
        expect(told).toBeGreaterThanOrEqual(last);
        last = told;
      }
      expect(worst).toBeLessThan(0.002);
    },
  );

  it('stands still where the context has, and goes on from there', () => {
    const clock = new SteadyClock();
    for (let page = 0; page < 20; page += 0.05) clock.read(page, page);
    // Asleep for a minute.
    for (let page = 80; page < 100; page += 0.05) clock.read(page - 60, page);
    expect(clock.read(40, 100)).toBeCloseTo(40, 2);
  });
});
