import { dbToAmplitude } from '../base/units';
import { seededRandom } from '../base/random';
import { chunksOf, concat, firstDifference, noise } from '../testing/signals';
import { seeds } from '../testing/seeds';
import { SheetClock } from './clock';
import { changedPoints, heardPoints, levelAt, LevelCurve, type LevelPoint } from './levelPoints';
import type { Segment } from './range';

const rateHz = 48_000;
const points: LevelPoint[] = [
  { at: 1000, db: 0 },
  { at: 2000, db: -12 },
  { at: 5000, db: -12 },
  { at: 7000, db: 2 },
];

test('a level goes straight in decibels from point to point and stays before and after them', () => {
  expect(levelAt([], 5)).toBe(0);
  expect([0, 1000, 1500, 2000, 4000, 6000, 7000, 99_999].map((frame) => levelAt(points, frame))).toEqual([
    0, 0, -6, -12, -12, -5, 2, 2,
  ]);
});

test('gains are those of the decibels, and the same in any chunks', () => {
  const ones = new Float32Array(9000).fill(1);
  const curve = new LevelCurve({ points, levelDb: -3 });
  curve.apply(ones, 500);
  // Corners are cut by half of the grid of 16 frames at most.
  const nearCorner = (frame: number) => points.some(({ at }) => Math.abs(at - frame) < 16);
  for (let i = 0; i < ones.length; i++) {
    const error = Math.abs(20 * Math.log10(ones[i]) - (levelAt(points, 500 + i) - 3));
    expect(error).toBeLessThan(nearCorner(500 + i) ? 0.05 : 0.001);
  }
  const audio = noise(9000, -20, 3);
  const whole = audio.slice();
  curve.apply(whole, 123);
  let at = 123;
  const pieces = [...chunksOf(audio, 700, 4)].map((chunk) => {
    curve.apply(chunk, at);
    at += chunk.length;
    return chunk;
  });
  expect(firstDifference(concat(...pieces), whole)).toBe(-1);
});

test('a plain level is one gain, and a silent one says so', () => {
  const ones = new Float32Array(4).fill(1);
  new LevelCurve({ points: [], levelDb: -6 }).apply(ones, 0);
  expect(ones[3]).toBeCloseTo(dbToAmplitude(-6), 6);
  expect(new LevelCurve({ points: [], levelDb: -Infinity }).isSilent).toBe(true);
});

describe('when time changes, levels stay over what they stand over', () => {
  const levels = (changed: readonly LevelPoint[], frames: number[]) =>
    frames.map((frame) => levelAt(changed, frame));

  test('removed in the middle of a slope: both sides keep theirs', () => {
    const changed = changedPoints(points, [
      { kind: 'kept', from: 0, to: 1500 },
      { kind: 'kept', from: 6000, to: 9000 },
    ]);
    expect(levels(changed, [1000, 1250, 1499, 1500, 2000, 2500, 3000])).toEqual([
      0,
      -3,
      levelAt(points, 1499),
      levelAt(points, 6000),
      levelAt(points, 6500),
      2,
      2,
    ]);
  });

  test('opened: the new time has the level around it, what follows moves', () => {
    const changed = changedPoints(points, [
      { kind: 'kept', from: 0, to: 3000 },
      { kind: 'opened', frames: 500 },
      { kind: 'kept', from: 3000, to: 9000 },
    ]);
    expect(changed.map(({ at }) => at)).toEqual([1000, 2000, 5500, 7500]);
    const inSlope = changedPoints(points, [
      { kind: 'kept', from: 0, to: 1500 },
      { kind: 'opened', frames: 500 },
      { kind: 'kept', from: 1500, to: 9000 },
    ]);
    expect(levels(inSlope, [1500, 1750, 2000, 2250])).toEqual([-6, -6, -6, -9]);
  });

  test('nothing is left over where nothing was changed', () => {
    expect(changedPoints(points, [{ kind: 'kept', from: 0, to: 9000 }])).toEqual(points);
    expect(changedPoints([], [{ kind: 'kept', from: 10, to: 20 }])).toEqual([]);
    const flat = [{ at: 100, db: -4 }];
    expect(changedPoints(flat, [{ kind: 'kept', from: 500, to: 900 }])).toEqual([
      { at: expect.any(Number) as number, db: -4 },
    ]);
  });

  test.each(seeds(40))('random segments, seed %i: every kept frame has the level it had', (seed) => {
    const random = seededRandom(seed);
    const some = Array.from({ length: 8 }, () => ({
      at: Math.floor(random() * 5000),
      db: Math.round(random() * -30),
    })).sort((a, b) => a.at - b.at);
    const given = some.filter(({ at }, index) => at !== some[index - 1]?.at);
    const cuts = Array.from({ length: 6 }, () => Math.floor(random() * 5000)).sort((a, b) => a - b);
    const segments: Segment[] = [0, 2, 4].flatMap((i): Segment[] => [
      { kind: 'kept', from: cuts[i], to: cuts[i + 1] },
      { kind: 'opened', frames: Math.floor(random() * 50) },
    ]);
    // Moved over each other, as sliding a passage does.
    if (seed % 3 === 0) segments.reverse();
    const changed = changedPoints(given, segments);
    let at = 0;
    for (const segment of segments) {
      if (segment.kind === 'opened') {
        at += segment.frames;
        continue;
      }
      // The last frame of a segment lies before a joint, at which the level may move on.
      for (let frame = segment.from; frame < segment.to - 1; frame++)
        expect(levelAt(changed, at + frame - segment.from)).toBeCloseTo(levelAt(given, frame), 6);
      at += segment.to - segment.from;
    }
    expect(changed.every((point, index) => index === 0 || point.at >= changed[index - 1].at)).toBe(true);
  });

  test('what is written for a passage stays known as that', () => {
    const written = points.map((point) => ({ ...point, passage: '7' }));
    const changed = changedPoints(written, [
      { kind: 'kept', from: 0, to: 1500 },
      { kind: 'kept', from: 6000, to: 9000 },
    ]);
    expect(changed.every(({ passage }) => passage === '7')).toBe(true);
  });
});

test('in heard time struck passages are left out, and levels take 5 ms to move at a joint', () => {
  const clock = SheetClock.of([{ from: 1500, to: 6000 }], 9000);
  const heard = heardPoints(points, clock, rateHz);
  expect(heard).toEqual([
    { at: 1000, db: 0 },
    { at: 1500, db: -6 },
    { at: 1740, db: -5 },
    { at: 2500, db: 2 },
  ]);
  const none = SheetClock.of([], 9000);
  expect(heardPoints(points, none, rateHz)).toEqual(points);
});
