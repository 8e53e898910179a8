import { seededRandom } from '../base/random';
import { seeds } from '../testing/seeds';
import { equalRanges, framesOf, intersection, isIn, overlap, union, without, type Range } from './range';

const length = 60;
const framesIn = (ranges: readonly Range[]) =>
  Array.from({ length }, (_, frame) => ranges.some((range) => isIn(range, frame)));

test.each(seeds(30))(
  'unions, what is left and what is common are those of single frames, seed %d',
  (seed) => {
    const random = seededRandom(seed);
    const some = () =>
      union(
        Array.from({ length: 6 }, () => {
          const from = Math.floor(random() * length);
          return { from, to: Math.min(length, from + Math.floor(random() * 12)) };
        }),
      );
    const [a, b] = [some(), some()];
    const [inA, inB] = [framesIn(a), framesIn(b)];
    expect(framesOf(a)).toBe(inA.filter(Boolean).length);
    expect(framesIn(union([...a, ...b]))).toEqual(inA.map((one, frame) => one || inB[frame]));
    expect(framesIn(without(a, b))).toEqual(inA.map((one, frame) => one && !inB[frame]));
    expect(framesIn(intersection(a, b))).toEqual(inA.map((one, frame) => one && inB[frame]));
    // In order, none empty, none that touches the next.
    for (const ranges of [a, union([...a, ...b]), without(a, b), intersection(a, b)]) {
      expect(ranges.every(({ from, to }) => to > from)).toBe(true);
      expect(union(ranges).length).toBeLessThanOrEqual(ranges.length);
    }
    expect(a.every((range, index) => index === 0 || range.from > a[index - 1].to)).toBe(true);
    expect(overlap(a[0], b[0])).toBe(framesIn([a[0]]).some((one, frame) => one && framesIn([b[0]])[frame]));
  },
);

test('ranges that touch are one; one that is empty is none; the order they are given in does not count', () => {
  expect(
    union([
      { from: 5, to: 9 },
      { from: 0, to: 5 },
      { from: 20, to: 20 },
      { from: 2, to: 3 },
    ]),
  ).toEqual([{ from: 0, to: 9 }]);
  expect(overlap({ from: 0, to: 5 }, { from: 5, to: 9 })).toBe(false);
  expect(equalRanges({ from: 0, to: 5 }, { from: 0, to: 5 })).toBe(true);
  expect(equalRanges({ from: 0, to: 5 }, { from: 0, to: 6 })).toBe(false);
  expect(equalRanges({ from: 0, to: 5 }, { from: 1, to: 5 })).toBe(false);
});
