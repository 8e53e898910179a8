import { median } from '../base/statistics';
import type { Measurement } from '../loudness/measure';
import { measurementWith } from '../testing/measurements';
import { findSpec } from './builtIn';
import { differencesOf, lookAtDifferences, lookOver, namePlaces, placesOf } from './looks';
import type { Measure } from './measures';
import { noLimits, type Limit, type Spec } from './spec';
import { judge } from './verdicts';

const kinds = (figures: Partial<Measurement>, wantsStereo = false) =>
  lookOver(measurementWith(figures), wantsStereo).map(({ kind }) => kind);

describe('beside limits', () => {
  test('nothing to look at is nothing', () => {
    expect(kinds({})).toEqual([]);
    expect(kinds({ dcOffsetDbfs: -60 })).toEqual([]);
    expect(kinds({ dcOffsetDbfs: -59.9 })).toEqual(['dc']);
  });

  test('clipped runs and holes say how many and how long, in their places', () => {
    const run = { from: 1, to: 1.1 };
    const [one] = lookOver(measurementWith({ clippedSamples: 7, clippedRuns: [run] }));
    expect(one).toMatchObject({ kind: 'clipped', places: [run] });
    expect(one.message).toMatch(/^7 samples are at full scale, in one run:/);
    const [two] = lookOver(measurementWith({ clippedSamples: 7, clippedRuns: [run, { from: 2, to: 3 }] }));
    expect(two.message).toMatch(/in 2 runs/);
    const [hole] = lookOver(measurementWith({ silences: [run, { from: 2, to: 2.25 }] }));
    expect(hole.message).toBe('0.35 s are digital silence: a hole in the room.');
    expect(hole.places).toHaveLength(2);
  });

  test('the two sides: one dead, one turned round, or the same where stereo is wanted', () => {
    const sides = (correlation: number, balanceDb: number, identical = false) => ({
      stereo: { correlation, balanceDb, identical },
    });
    expect(kinds(sides(0.9, 1))).toEqual([]);
    expect(kinds(sides(0.9, 40))).toEqual([]);
    expect(kinds(sides(0.9, 41))).toEqual(['dead-side']);
    expect(lookOver(measurementWith(sides(0, 41)))[0].message).toMatch(/^The right side/);
    expect(lookOver(measurementWith(sides(0, -Infinity)))[0].message).toMatch(/^The left side/);
    expect(kinds(sides(-0.5, 0))).toEqual([]);
    expect(kinds(sides(-0.6, 0))).toEqual(['inverted']);
    expect(kinds(sides(1, 0, true))).toEqual([]);
    expect(kinds(sides(1, 0, true), true)).toEqual(['same-sides']);
    expect(kinds(sides(0.9, 0), true)).toEqual([]);
  });
});

describe('where a fault is', () => {
  const spec = (measure: Measure, limit: Limit): Spec => {
    const base = findSpec('Dry voice');
    if (!base) throw new Error('no spec');
    return { ...base, limits: { ...noLimits, [measure]: limit } };
  };
  const figures: Partial<Measurement> = {
    loudest: [
      { at: 9, dbfs: -1 },
      { at: 4, dbfs: -1.4 },
      { at: 6, dbfs: -2 },
      { at: 2, dbfs: -8 },
    ],
    durationSeconds: 60,
    headSeconds: 3,
    tailSeconds: 5,
    longestPauseSeconds: 4,
    longestPause: { from: 20, to: 24 },
    samplePeakDbfs: -1,
    truePeakDbtp: -0.5,
    momentaryMaxLufs: -10,
    shortTermMaxLufs: -12,
    shortTerm: { stepSeconds: 0.1, lufs: [-30, -20, -15, -12, -12, -40] },
    rmsDbfs: -20,
  };
  const places = (
    measure: Measure,
    min: number | null,
    max: number | null,
    more: Partial<Measurement> = {},
  ) => {
    const measurement = measurementWith({ ...figures, ...more });
    return placesOf(judge(spec(measure, { min, max }), measurement)[0], measurement);
  };
  const points = (...at: number[]) => at.map((second) => ({ from: second, to: second }));

  test('peaks over a limit are every loud place over it, in order of time; a peak too low has none', () => {
    expect(places('samplePeakDbfs', null, -3)).toEqual(points(4, 6, 9));
    expect(places('samplePeakDbfs', null, -1.4)).toEqual(points(9));
    expect(places('samplePeakDbfs', -0.5, null)).toEqual([]);
    expect(places('samplePeakDbfs', -0.7, -0.5)).toEqual([]);
  });

  test('a true peak that is over only between samples is at the loudest places', () => {
    expect(places('truePeakDbtp', null, -0.8)).toEqual(points(4, 9));
    expect(places('truePeakDbtp', null, -1.9)).toEqual(points(4, 9));
    expect(places('truePeakDbtp', null, -3)).toEqual(points(4, 6, 9));
    expect(places('truePeakDbtp', 0, null)).toEqual([]);
    expect(places('truePeakDbtp', null, -3, { loudest: [] })).toEqual([]);
  });

  test('ends, pauses and the loudest three seconds have theirs', () => {
    expect(places('headSeconds', null, 1)).toEqual([{ from: 0, to: 3 }]);
    expect(places('tailSeconds', null, 2)).toEqual([{ from: 55, to: 60 }]);
    expect(places('longestPauseSeconds', null, 2)).toEqual([{ from: 20, to: 24 }]);
    expect(places('momentaryMaxLufs', null, -15)).toEqual(points(4, 9));
    const [stretch] = places('shortTermMaxLufs', null, -15);
    expect(stretch.from).toBeCloseTo(0.3, 9);
    expect(stretch.to).toBeCloseTo(3.3, 9);
    const none = { shortTerm: { stepSeconds: 0.1, lufs: [] } };
    expect(places('shortTermMaxLufs', null, -15, none)).toEqual([]);
  });

  test('a fault of the whole, and what passes, has no place', () => {
    expect(places('rmsDbfs', -18, null)).toEqual([]);
    expect(places('headSeconds', null, 9)).toEqual([]);
  });
});

test('parts are held against the median of all that are known', () => {
  expect(median([3, 1, 2])).toBe(2);
  expect(median([4, 1, 2, 3])).toBe(2.5);
  expect(median([])).toBeNaN();
  const part = (speechDbfs: number, noiseFloorDbfs = -60) => measurementWith({ speechDbfs, noiseFloorDbfs });
  const all = [part(-20), part(-22, -66), part(-10), part(-Infinity, -Infinity)];
  expect(differencesOf(all[2], all)).toEqual({ speechDb: 10, roomDb: 0 });
  expect(differencesOf(all[1], all)).toEqual({ speechDb: -2, roomDb: -6 });
  expect(differencesOf(all[3], all)).toEqual({ speechDb: 0, roomDb: 0 });
  expect(differencesOf(all[0], [all[0]])).toEqual({ speechDb: 0, roomDb: 0 });
  const told = (speechDb: number, roomDb: number) => lookAtDifferences({ speechDb, roomDb });
  expect(told(3, -6)).toEqual([]);
  expect(told(3.1, 6.1).map(({ kind }) => kind)).toEqual(['uneven', 'uneven-room']);
  expect(told(-3.1, 0)[0].message).toMatch(/^Speech is 3\.1 dB softer/);
  expect(told(0, 6.1)[0].message).toMatch(/^The room is 6\.1 dB louder/);
});

test('places are named, three of them and how many more', () => {
  const at = (...seconds: number[]) => seconds.map((from) => ({ from, to: from }));
  expect(namePlaces(at(12.3))).toBe('00:12.300');
  expect(namePlaces(at(1, 2, 3))).toBe('00:01.000, 00:02.000, 00:03.000');
  expect(namePlaces(at(1, 2, 3, 4, 5))).toBe('00:01.000, 00:02.000, 00:03.000 and 2 more');
});
