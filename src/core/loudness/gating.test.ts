import { seededRandom } from '../base/random';
import { highestMean, integratedLoudness, loudnessOf, loudnessRange, slidingMeans } from './gating';

const random = seededRandom(1);
const values = Float64Array.from({ length: 100 }, () => random());
const mean = (from: number, length: number) =>
  values.slice(from, from + length).reduce((sum, value) => sum + value, 0) / length;

test.each([
  [10, 1],
  [40, 10],
  [40, 15],
  [10, 10],
  [100, 10],
])('means of windows of %d by steps of %d are those of each window by itself', (length, step) => {
  const means = slidingMeans(values, length, step);
  expect(means).toHaveLength(Math.floor((100 - length) / step) + 1);
  means.forEach((value, index) => expect(value).toBeCloseTo(mean(index * step, length), 12));
});

test('no window longer than what there is', () => {
  expect(slidingMeans(values, 101, 1)).toHaveLength(0);
  expect(highestMean(values.slice(0, 5), 6)).toBe(0);
});

test('the highest of all windows, also the first and the last one', () => {
  const all = Array.from({ length: 91 }, (_, from) => mean(from, 10));
  expect(highestMean(values, 10)).toBeCloseTo(Math.max(...all), 12);
  for (const at of [0, 90]) {
    const peaky = new Float64Array(100);
    peaky.fill(1, at, at + 10);
    expect(highestMean(peaky, 10)).toBe(1);
  }
  expect(highestMean(new Float64Array(20), 10)).toBe(0);
});

/** Mean squares of blocks at these loudnesses. ITU-R BS.1770-5: −0.691 + 10 log10. */
const blocks = (...lufs: number[]) => Float64Array.from(lufs, (value) => 10 ** ((value + 0.691) / 10));

test('blocks under −70 LUFS and those 10 LU under the rest do not count (ITU-R BS.1770-5)', () => {
  expect(loudnessOf(10 ** 0.0691)).toBeCloseTo(0, 12);
  expect(integratedLoudness(blocks(-20, -20, -69, -71))).toBeCloseTo(-20, 6);
  expect(integratedLoudness(blocks(-71, -80))).toBe(-Infinity);
  expect(integratedLoudness(blocks(-69))).toBeCloseTo(-69, 6);
  // Mean of −20 and −31 is −22.7: the gate stands at −32.7, and both count.
  expect(integratedLoudness(blocks(-20, -31))).toBeCloseTo(10 * Math.log10((0.01 + 10 ** -3.1) / 2), 6);
  expect(integratedLoudness(blocks(-20, -36))).toBeCloseTo(-20, 6);
});

test('the range is from the 10th to the 95th percentile of what is over the gates (EBU Tech 3342)', () => {
  const steps = blocks(...Array.from({ length: 101 }, (_, i) => -30 + i / 10));
  expect(loudnessRange(steps)).toBeCloseTo(8.5, 6);
  expect(loudnessRange(blocks(-20, -20, -20, -45))).toBe(0);
  expect(loudnessRange(blocks(-75))).toBe(0);
});
