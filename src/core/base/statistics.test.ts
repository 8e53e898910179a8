import { median, movingMean, runningSums } from './statistics';

test('the median is the middle value, or the mean of the two in the middle', () => {
  expect(median([5, 1, 3])).toBe(3);
  expect(median([4, 1, 3, 2])).toBe(2.5);
  expect(median([])).toBeNaN();
});

test('sums of any stretch, and means around each value, are those that are added up one by one', () => {
  const values = Float32Array.of(1, 4, -2, 8, 0);
  expect([...runningSums(values)]).toEqual([0, 1, 5, 3, 11, 11]);
  expect([...movingMean(values, 1)]).toEqual([2.5, 1, Math.fround(10 / 3), 2, 4]);
  expect([...movingMean(values, 9)]).toEqual(Array(5).fill(Math.fround(2.2)));
});
