import { RateBound } from './rateBound';

describe('how many are taken', () => {
  it('lets a burst pass, then so many a second', () => {
    const bound = new RateBound(10);
    const taken = (from: number, count: number) =>
      Array.from({ length: count }, (_, i) => bound.take(from + i)).filter(Boolean).length;
    expect(taken(0, 100)).toBe(20);
    expect(taken(1000, 100)).toBeLessThanOrEqual(11);
    expect(taken(60_000, 100)).toBeLessThanOrEqual(21);
  });
});
