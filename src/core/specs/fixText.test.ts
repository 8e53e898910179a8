import { plainOutput, type Output } from '../timeline/output';
import { chosenSound, describeLevel, describeOutput, describeSound } from './fixText';

const limited: Output = { gainDb: 3.9, dcOffsets: [0], ceiling: { kind: 'sample', dbfs: -3.1 } };

test('a level fix is told against what the part has now', () => {
  expect(describeLevel(limited, plainOutput)).toBe('Raise 3.9 dB, limit at −3.1 dBFS');
  expect(describeLevel({ ...limited, gainDb: -1 }, plainOutput)).toMatch(/^Lower 1\.0 dB/);
  expect(describeLevel(limited, { ...limited, gainDb: 1 })).toBe('Raise 2.9 dB');
  expect(describeLevel(plainOutput, limited)).toBe('Lower 3.9 dB, limit no more');
  expect(describeLevel({ ...plainOutput, dcOffsets: [0, 0.01] }, plainOutput)).toBe('Take the DC offset out');
  expect(describeLevel(limited, { ...limited, gainDb: 3.904 })).toBe('As it is');
  const truePeak: Output = { ...plainOutput, ceiling: { kind: 'true', dbfs: -1.6 } };
  expect(describeLevel(truePeak, plainOutput)).toBe('Limit at −1.6 dBTP');
});

test('what a part is heard with is told in a line', () => {
  expect(describeOutput(limited)).toBe('+3.9 dB, limited at −3.1 dBFS');
  expect(describeOutput({ ...plainOutput, gainDb: -2, dcOffsets: [0.01] })).toBe('−2.0 dB, DC offset out');
  expect(describeOutput({ ...plainOutput, ceiling: { kind: 'true', dbfs: -1 } })).toBe(
    'limited at −1.0 dBTP',
  );
  expect(describeOutput(plainOutput)).toBe('');
});

test('ends and holes are told, and only those that are chosen are done', () => {
  const fix = { head: 24_000, tail: -48_000, holes: [{ from: 0, to: 10 }] };
  expect(describeSound('head', fix, 48_000)).toBe('Extend by 0.50 s of room tone');
  expect(describeSound('tail', fix, 48_000)).toBe('Strike 1.00 s of it');
  expect(describeSound('silence', fix, 48_000)).toBe('Fill with room tone');
  expect(describeSound('silence', { ...fix, holes: [...fix.holes, ...fix.holes] }, 48_000)).toMatch(
    /2 holes/,
  );
  expect(chosenSound(fix, new Set(['head', 'tail', 'silence']))).toEqual(fix);
  expect(chosenSound(fix, new Set(['head']))).toEqual({ head: 24_000, tail: 0, holes: [] });
  expect(chosenSound(fix, new Set(['tail', 'level']))).toEqual({ head: 0, tail: -48_000, holes: [] });
  expect(chosenSound(fix, new Set(['silence']))).toEqual({ head: 0, tail: 0, holes: fix.holes });
});
