import type { Measurement } from '../loudness/measure';
import { measurementWith } from '../testing/measurements';
import { findSpec } from './builtIn';
import { describeRms } from './describe';
import type { Measure } from './measures';
import { noLimits, type Limit, type Spec } from './spec';
import { describeLimit, formatMeasure, judge, valueFor, type Judged } from './verdicts';

function specOf(measure: Measure, limit: Limit | null, changes: Partial<Spec> = {}): Spec {
  const base = findSpec('Dry voice');
  if (!base) throw new Error('no spec');
  return { ...base, limits: { ...noLimits, [measure]: limit }, ...changes };
}
const verdict = (measure: Measure, value: number, limit: Limit, more: Partial<Measurement> = {}) =>
  judge(specOf(measure, limit), { ...measurementWith(more), [measure]: value } as Judged)[0];

test.each<[Measure, number, Limit, number, string]>([
  [
    'rmsDbfs',
    -25.2,
    { min: -23, max: -18 },
    2.2,
    'RMS −25.2 dBFS is 2.2 dB under the lowest allowed (−23.0 to −18.0 dBFS)',
  ],
  [
    'rmsDbfs',
    -16.5,
    { min: -23, max: -18 },
    1.5,
    'RMS −16.5 dBFS is 1.5 dB over the highest allowed (−23.0 to −18.0 dBFS)',
  ],
  [
    'integratedLufs',
    -26,
    { min: -23.5, max: null },
    2.5,
    'Loudness −26.0 LUFS is 2.5 LU under the lowest allowed (at least −23.5 LUFS)',
  ],
  [
    'loudnessRangeLu',
    22,
    { min: null, max: 20 },
    2,
    'Range 22.0 LU is 2.0 LU over the highest allowed (at most 20.0 LU)',
  ],
  ['headSeconds', 0.2, { min: 0.5, max: 1 }, 0.3, 'Head is 0.20 s of room tone; 0.5 to 1 s wanted'],
  ['tailSeconds', 6, { min: 1, max: null }, 0, 'Tail 6.00 s is within limits'],
  ['tailSeconds', 6, { min: null, max: 5 }, 1, 'Tail is 6.00 s of room tone; at most 5.00 s wanted'],
  [
    'longestPauseSeconds',
    4,
    { min: null, max: 2.5 },
    1.5,
    'Longest pause 4.00 s is 1.50 s over the highest allowed (at most 2.50 s)',
  ],
  [
    'durationSeconds',
    7300,
    { min: null, max: 7200 },
    100,
    'Length 2:01:40 is 01:40 over the highest allowed (at most 2:00:00)',
  ],
  [
    'durationSeconds',
    50,
    { min: 60, max: 90 },
    10,
    'Length 00:50 is 00:10 under the lowest allowed (01:00 to 01:30)',
  ],
  [
    'fileMegabytes',
    12.25,
    { min: null, max: 10 },
    2.25,
    'File size 12.3 MB is 2.3 MB over the highest allowed (at most 10.0 MB)',
  ],
  [
    'integratedLufs',
    -Infinity,
    { min: -23, max: null },
    Infinity,
    'Loudness: there is only silence; at least −23.0 LUFS wanted',
  ],
])('%s of %d in %j: %d outside, “%s”', (measure, value, limit, distance, message) => {
  const judged = verdict(measure, value, limit);
  expect(judged.message).toBe(message);
  expect(judged.distance).toBeCloseTo(distance, 9);
  expect(judged.passes).toBe(distance === 0);
});

test('a limit is met at its edge, and within the resolution it is given in', () => {
  const passes = (value: number) => verdict('rmsDbfs', value, { min: -23, max: -18 }).passes;
  expect([-23.002, -23.0009, -23, -18, -17.9991, -17.998].map(passes)).toEqual([
    ...[false, true, true, true, true, false],
  ]);
  expect(verdict('rmsDbfs', -23.0009, { min: -23, max: null }).distance).toBe(0);
});

test('what has no limit, or is not known, is not judged', () => {
  const measurement = measurementWith({ rmsDbfs: -20 });
  expect(judge(specOf('rmsDbfs', null), measurement)).toEqual([]);
  expect(judge(specOf('rmsDbfs', { min: null, max: null }), measurement)).toEqual([]);
  expect(judge(specOf('fileMegabytes', { min: null, max: 1 }), measurement)).toEqual([]);
});

test('pauses of digital silence pass a limit for the room, and are told of all the same', () => {
  const limit = { min: null, max: -60 };
  const hole = verdict('noiseFloorDbfs', -Infinity, limit, { digitalSilenceSeconds: 2 });
  expect(hole).toMatchObject({ passes: true, distance: 0 });
  expect(hole.message).toMatch(/^The pauses are digital silence/);
  const none = verdict('noiseFloorDbfs', -Infinity, limit, { digitalSilenceSeconds: 0 });
  expect(none.message).toBe('Room −∞ is within limits');
  expect(verdict('noiseFloorDbfs', -70, limit, { digitalSilenceSeconds: 2 }).message).toMatch(/^Room −70\.0/);
});

test('RMS figures are in the convention of the spec, others are not touched (AES17: 3.01 dB)', () => {
  const measurement = measurementWith({ rmsDbfs: -23.01, noiseFloorDbfs: -63.01, samplePeakDbfs: -3 });
  const value = (rmsConvention: Spec['rmsConvention'], measure: Measure) =>
    valueFor({ rmsConvention }, measure, measurement);
  expect(value('full-scale', 'rmsDbfs')).toBe(-23.01);
  expect(value('sine', 'rmsDbfs')).toBeCloseTo(-20, 2);
  expect(value('sine', 'noiseFloorDbfs')).toBeCloseTo(-60, 2);
  expect(value('sine', 'samplePeakDbfs')).toBe(-3);
  expect(value('sine', 'levelSpreadDb')).toBeUndefined();
  expect(describeRms(specOf('rmsDbfs', null, { rmsConvention: 'sine' }))).toMatch(/AES17/);
  expect(describeRms(specOf('noiseFloorDbfs', { min: null, max: -60 }))).toMatch(
    /a full-scale sine is −3\.01/,
  );
  expect(describeRms(specOf('rmsDbfs', null))).toBe('RMS against full scale 1.0');
});

test('values and limits are written with their units', () => {
  expect(formatMeasure('fileMegabytes', 1.25)).toBe('1.3 MB');
  expect(formatMeasure('durationSeconds', 61)).toBe('01:01');
  expect(formatMeasure('headSeconds', 0.5)).toBe('0.50 s');
  expect(describeLimit('fileMegabytes', { min: 1, max: 2 })).toBe('1 to 2 MB');
  expect(describeLimit('truePeakDbtp', { min: null, max: -1 })).toBe('at most −1.0 dBTP');
  expect(describeLimit('headSeconds', { min: 0.5, max: null })).toBe('at least 0.50 s');
});
