import { seededRandom } from '../base/random';
import { seeds } from '../testing/seeds';
import { marksIn } from './markIndex';
import type { Mark } from './timeline';

test('marks that touch a range are found as by looking at each of them', () => {
  for (const seed of seeds(40)) {
    const random = seededRandom(seed);
    const whole = (most: number) => Math.floor(random() * most);
    const marks: Mark[] = Array.from({ length: whole(60) }, (_, i) => ({
      id: `m${i}`,
      kind: 'note',
      at: whole(1000),
      length: random() < 0.5 ? 0 : whole(random() < 0.2 ? 900 : 40),
      name: '',
    }));
    for (let trial = 0; trial < 20; trial++) {
      const from = whole(1100) - 50;
      const to = from + whole(200);
      const expected = marks
        .filter(({ at, length }) => at <= to && at + length >= from)
        .sort((a, b) => a.at - b.at)
        .map(({ id }) => id);
      expect(marksIn(marks, { from, to }).map(({ id }) => id)).toEqual(expected);
    }
  }
});
