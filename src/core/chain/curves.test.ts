import { noise } from '../testing/signals';
import { gridOf } from './cells';
import type { ChainStep } from './chain';
import { curveOf } from './curves';
import { usualOrder, usualStep } from './settings';
import { learnRoom } from './softerRoom';

const rateHz = 48_000;
const pointsOf = (step: ChainStep) => curveOf(step, rateHz)?.points ?? [];
/** The point nearest to a frequency or a level. */
const near = (step: ChainStep, wanted: number) =>
  pointsOf(step).reduce((best, point) =>
    Math.abs(point.at - wanted) < Math.abs(best.at - wanted) ? point : best,
  );

test('every step has its curve but the equaliser, whose picture is its own, and a room nobody has learned', () => {
  const without = usualOrder.filter((kind) => curveOf(usualStep(kind, 'a'), rateHz) === null);
  expect(without).toEqual(['room', 'equaliser']);
});

test('curves lie within what they are drawn in', () => {
  const profile = learnRoom(noise(rateHz, -60, 1), gridOf(rateHz));
  for (const kind of usualOrder) {
    const step = kind === 'room' ? { ...usualStep(kind, 'a'), profile } : usualStep(kind, 'a');
    const curve = curveOf(step, rateHz);
    for (const { at, db } of curve?.points ?? []) {
      expect(at).toBeGreaterThanOrEqual((curve?.from ?? 0) - 1e-6);
      expect(at).toBeLessThanOrEqual((curve?.to ?? 0) + 1e-6);
      expect(db).toBeGreaterThanOrEqual((curve?.lowestDb ?? 0) - 1e-6);
      expect(db).toBeLessThanOrEqual((curve?.highestDb ?? 0) + 1e-6);
    }
  }
});

test('a Butterworth high-pass is 3 dB down at its corner', () => {
  expect(near({ ...usualStep('rumble', 'a'), hertz: 100 }, 100).db).toBeCloseTo(-3.01, 0);
});

test('a band goes down by the most that may be taken off it', () => {
  expect(near({ ...usualStep('plosives', 'a'), hertz: 120, mostDb: 15 }, 20).db).toBeCloseTo(-15, 0);
  expect(near({ ...usualStep('sibilance', 'a'), hertz: 5000, mostDb: 6 }, 18_000).db).toBeCloseTo(-6, 0);
});

test('the room is left by the amount under what it was', () => {
  // White noise of −60 dBFS over 512 bins of 46.9 Hz: each holds a 512th of it.
  const profile = learnRoom(noise(4 * rateHz, -60, 1), gridOf(rateHz));
  const { db, beforeDb = 0 } = near({ ...usualStep('room', 'a'), profile, amountDb: 8 }, 3000);
  expect(beforeDb).toBeCloseTo(-60 - 10 * Math.log10(512), 0);
  expect(beforeDb - db).toBeCloseTo(8, 6);
});

test('levels go by what is set: ceiling, phrases, pauses, threshold', () => {
  const ceiling = { ...usualStep('ceiling', 'a'), gainDb: 6, ceilingDb: -3 };
  expect(near(ceiling, -20).db).toBeCloseTo(-14, 5);
  expect(near(ceiling, -2).db).toBe(-3);
  const phrases = { ...usualStep('phrases', 'a'), towardsDb: -23, mostDb: 4 };
  expect(near(phrases, -25).db).toBeCloseTo(-23, 5);
  expect(near(phrases, -35).db).toBeCloseTo(-31, 5);
  expect(near(phrases, -50).db).toBeCloseTo(-50, 5);
  const pauses = { ...usualStep('pauses', 'a'), thresholdDb: -40, hysteresisDb: 3, ratio: 2, rangeDb: 10 };
  expect(near(pauses, -42).db).toBeCloseTo(-42, 5);
  expect(near(pauses, -45).db).toBeCloseTo(-50, 5);
  expect(near(pauses, -72).db).toBeCloseTo(-82, 5);
  expect(near({ ...usualStep('even', 'a'), thresholdDb: -24, ratio: 4, kneeDb: 0 }, -4).db).toBeCloseTo(
    -19,
    5,
  );
});
