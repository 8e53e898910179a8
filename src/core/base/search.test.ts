import { firstIndex } from './search';

test('the first of sorted numbers that is large enough, as a search one after another finds it', () => {
  for (const numbers of [[], [5], [1, 1, 2, 2, 2, 7], [0, 3, 3, 9, 12, 40, 41]]) {
    for (let wanted = -1; wanted < 45; wanted++) {
      const slow = numbers.findIndex((value) => value >= wanted);
      expect(firstIndex(numbers.length, (i) => numbers[i] >= wanted)).toBe(slow < 0 ? numbers.length : slow);
    }
  }
});

test('20,000 entries are asked for at most fifteen times', () => {
  const holds = jest.fn((index: number) => index >= 12_345);
  expect(firstIndex(20_000, holds)).toBe(12_345);
  expect(holds.mock.calls.length).toBeLessThanOrEqual(15);
});
