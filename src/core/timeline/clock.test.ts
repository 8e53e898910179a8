import { seededRandom } from '../base/random';
import { seeds } from '../testing/seeds';
import { SheetClock } from './clock';
import type { Range } from './range';

const length = 100;
const all = Array.from({ length: length + 1 }, (_, frame) => frame);

/** The same as one truth value a frame: struck or not. */
class NaiveClock {
  private readonly struck: boolean[];
  constructor(ranges: readonly Range[]) {
    this.struck = all
      .slice(0, length)
      .map((frame) => ranges.some(({ from, to }) => frame >= from && frame < to));
  }
  get heard() {
    return all.slice(0, length).filter((frame) => !this.struck[frame]);
  }
  is(frame: number) {
    return this.struck[frame] === true;
  }
  sheetToHeard(frame: number) {
    return this.heard.filter((one) => one < frame).length;
  }
  heardToSheet(frame: number) {
    return this.heard[Math.max(0, frame)] ?? length;
  }
  /** Runs of frames in [from, to) for which something holds. */
  runs({ from, to }: Range, holds: (frame: number) => boolean): Range[] {
    const result: Range[] = [];
    for (let frame = from; frame < to; frame++) {
      const last = result[result.length - 1];
      if (!holds(frame)) continue;
      if (last?.to === frame) result[result.length - 1] = { from: last.from, to: frame + 1 };
      else result.push({ from: frame, to: frame + 1 });
    }
    return result;
  }
}

test.each(seeds(30))('every question has the answer of one truth value a frame, seed %d', (seed) => {
  const random = seededRandom(seed);
  const ranges = Array.from({ length: seed % 8 }, () => {
    const from = Math.floor(random() * 110) - 5;
    return { from, to: from + Math.floor(random() * 20) };
  });
  const clock = SheetClock.of(ranges, length);
  const naive = new NaiveClock(ranges);
  const { heard } = naive;
  expect(clock.heardFrames).toBe(heard.length);
  expect(clock.struck).toEqual(naive.runs({ from: 0, to: length }, (frame) => naive.is(frame)));
  for (const frame of [-3, ...all, length + 7]) {
    expect(clock.sheetToHeard(frame)).toBe(naive.sheetToHeard(frame));
    expect(clock.heardToSheet(frame)).toBe(naive.heardToSheet(frame));
    expect(clock.isStruck(frame)).toBe(naive.is(frame));
    const around = clock.struck.find(({ from, to }) => frame >= from && frame <= to);
    expect(clock.struckAround(frame)).toEqual(around ?? null);
  }
  for (let i = 0; i < 60; i++) {
    const from = Math.floor(random() * length);
    const range = { from, to: from + Math.floor(random() * (length - from + 1)) };
    expect(clock.struckIn(range)).toEqual(naive.runs(range, (frame) => naive.is(frame)));
    expect(clock.heardIn(range)).toEqual(naive.runs(range, (frame) => !naive.is(frame)));
    expect(clock.isAllStruck(range)).toBe(
      range.to > range.from
        ? all.slice(range.from, range.to).every((frame) => naive.is(frame))
        : naive.is(range.from),
    );
    const standing = new Set(heard.slice(range.from, range.to));
    expect(clock.sheetRangesOf(range)).toEqual(
      naive.runs({ from: 0, to: length }, (frame) => standing.has(frame)),
    );
  }
});

test('what is asked of heard time beyond either end is what is there', () => {
  const clock = SheetClock.of([{ from: 10, to: 20 }], length);
  const whole = [
    { from: 0, to: 10 },
    { from: 20, to: length },
  ];
  expect(clock.sheetRangesOf({ from: -5, to: 500 })).toEqual(whole);
  expect(clock.sheetRangesOf({ from: 90, to: 95 })).toEqual([]);
  expect(clock.sheetRangesOf({ from: 30, to: 30 })).toEqual([]);
  expect(SheetClock.of([], 0).sheetToHeard(5)).toBe(0);
  expect(SheetClock.of([{ from: 0, to: length }], length).heardToSheet(0)).toBe(length);
});
