import type { VoicedSpeech } from '../speech/severalVoices';
import { findSpeech } from '../speech/voiceActivity';
import { noise } from '../testing/signals';
import { SheetClock } from './clock';
import {
  clearSpeech,
  defaultDucking,
  duckedPoints,
  movedPoint,
  passagesOf,
  withoutPoint,
  withPoint,
  type Ducking,
} from './ducking';
import { LevelCurve, levelAt } from './levelPoints';

const rateHz = 48_000;
const at = (seconds: number) => Math.round(seconds * rateHz);
const stretch = (from: number, to: number) => ({ from: at(from), to: at(to) });
const ducking: Ducking = { amountDb: 12, downSeconds: 0.5, waitSeconds: 1, upSeconds: 1.5 };
const clock = SheetClock.of([], at(60));
const pointsFor = (...speech: ReturnType<typeof stretch>[]) =>
  duckedPoints([], passagesOf(speech, ducking, rateHz), ducking, clock, rateHz);
const told = (points: ReturnType<typeof pointsFor>) => points.map((point) => [point.at / rateHz, point.db]);

test('a bed is down when speech begins, waits, and comes up again', () => {
  expect(told(pointsFor(stretch(10, 14)))).toEqual([
    [9.5, 0],
    [10, -12],
    [15, -12],
    [16.5, 0],
  ]);
});

test('phrases with a pause in which it could not come up and go down again are one', () => {
  expect(pointsFor(stretch(10, 12), stretch(14.9, 16))).toHaveLength(4);
  expect(pointsFor(stretch(10, 12), stretch(15.1, 16))).toHaveLength(8);
});

test('at the ends of a part it is down from the start, or to the end', () => {
  expect(told(pointsFor(stretch(0.2, 58.5)))).toEqual([
    [0.2, -12],
    [59.5, -12],
  ]);
});

test('breaths and chairs do not bring it down', () => {
  const speech = (from: number, levelDbfs: number): VoicedSpeech => ({
    ...stretch(from, from + 1),
    levelDbfs,
  });
  expect(clearSpeech([speech(1, -24), speech(3, -46), speech(5, -22), speech(9, -30)])).toHaveLength(3);
  expect(clearSpeech([])).toEqual([]);
});

// Bursts of noise between 1 kHz and the top of the voice stand for phrases: their ends are known.
test('on made speech the times are right within 20 ms, as it is heard', () => {
  const room = noise(at(30), -75, 1);
  const phrases = [stretch(5, 8), stretch(14.2, 17.7), stretch(25, 26.4)];
  const burst = noise(at(30), -24, 2);
  for (const { from, to } of phrases) for (let i = from; i < to; i++) room[i] += burst[i];
  const speech = findSpeech(room, rateHz);
  const points = duckedPoints([], passagesOf(speech, defaultDucking, rateHz), defaultDucking, clock, rateHz);
  const ones = new Float32Array(at(30)).fill(1);
  new LevelCurve({ points, levelDb: 0 }).apply(ones, 0);
  const db = (seconds: number) => 20 * Math.log10(ones[at(seconds)]);
  const { downSeconds, waitSeconds, upSeconds, amountDb } = defaultDucking;
  for (const { from, to } of phrases) {
    const begins = from / rateHz;
    const ends = to / rateHz;
    expect(db(begins - downSeconds - 0.02)).toBeCloseTo(0, 1);
    expect(db(begins + 0.02)).toBeCloseTo(-amountDb, 1);
    expect(db(ends + waitSeconds - 0.02)).toBeCloseTo(-amountDb, 1);
    if (ends + waitSeconds + upSeconds < 30)
      expect(db(ends + waitSeconds + upSeconds + 0.02)).toBeCloseTo(0, 1);
    // Half of the way in half of the time: 20 ms are half a decibel of the way down.
    expect(Math.abs(db(begins - downSeconds / 2) + amountDb / 2)).toBeLessThan(0.5);
  }
});

test('in sheet time the points stand around what is struck', () => {
  const struck = SheetClock.of([stretch(11, 21)], at(60));
  const points = duckedPoints([], [stretch(10, 14)], ducking, struck, rateHz);
  expect(told(points)).toEqual([
    [9.5, 0],
    [10, -12],
    [25, -12],
    [26.5, 0],
  ]);
});

describe('what was set by hand', () => {
  const written = pointsFor(stretch(10, 14), stretch(30, 34));

  test('stays when it is written anew, with all of its passage; the others are written', () => {
    const byHand = movedPoint(written, 1, { at: at(10.2), db: -9 });
    expect(byHand.slice(0, 4).every(({ passage }) => passage === undefined)).toBe(true);
    expect(byHand.slice(4).every(({ passage }) => passage !== undefined)).toBe(true);
    const anew = duckedPoints(
      byHand,
      [stretch(10.1, 14), stretch(31, 35)],
      { ...ducking, amountDb: 6 },
      clock,
      rateHz,
    );
    expect(told(anew)).toEqual([
      [9.5, 0],
      [10.2, -9],
      [15, -12],
      [16.5, 0],
      [30.5, 0],
      [31, -6],
      [36, -6],
      [37.5, 0],
    ]);
  });

  test('a point that is added or taken away inside a passage makes it the hand’s', () => {
    const added = withPoint(written, at(12), -20);
    expect(levelAt(added, at(12))).toBe(-20);
    expect(added.slice(0, 5).every(({ passage }) => passage === undefined)).toBe(true);
    expect(added[5].passage).toBeDefined();
    const between = withPoint(written, at(20), 3);
    expect(between.filter(({ passage }) => passage !== undefined)).toHaveLength(8);
    expect(withPoint(between, at(20), 4).find((point) => point.at === at(20))?.db).toBe(4);
    const without = withoutPoint(written, 0);
    expect(without).toHaveLength(7);
    expect(without.slice(0, 3).every(({ passage }) => passage === undefined)).toBe(true);
  });

  test('a point does not pass its neighbours', () => {
    expect(movedPoint(written, 1, { at: 0, db: 1 })[1]).toEqual({ at: at(9.5) + 1, db: 1 });
    expect(movedPoint(written, 1, { at: at(59), db: 1 })[1].at).toBe(at(15) - 1);
  });
});
