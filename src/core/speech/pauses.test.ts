import { concat } from '../testing/signals';
import { findPauses } from './pauses';

test('pauses are found between stretches of speech, short gaps are not pauses', () => {
  const power = (db: number, count: number) => new Float32Array(count).fill(10 ** (db / 10));
  const levels = concat(
    power(-62, 60),
    power(-20, 100),
    power(-60, 10),
    power(-20, 80),
    power(-61, 90),
    power(-22, 50),
  );
  expect(findPauses(levels, 28)).toEqual([
    { from: 0, to: expect.closeTo(60, -1) as number },
    { from: expect.closeTo(250, -1) as number, to: expect.closeTo(340, -1) as number },
  ]);
});
