import { add, noise } from '../testing/signals';
import { RelationMeter } from './channelRelation';

const a = noise(48_000, -20, 1);
const b = noise(48_000, -20, 2);
const relation = (left: Float32Array, right: Float32Array, chunk = left.length) => {
  const meter = new RelationMeter();
  for (let at = 0; at < left.length; at += chunk)
    meter.process(left.subarray(at, at + chunk), right.subarray(at, at + chunk));
  return meter.finish();
};
const scaled = (samples: Float32Array, gain: number) => samples.map((sample) => gain * sample);

test('the same on both sides, one side inverted, two that have nothing to do with each other', () => {
  expect(relation(a, a)).toEqual({ correlation: 1, balanceDb: 0, identical: true });
  expect(relation(a, scaled(a, -1))).toEqual({ correlation: -1, balanceDb: 0, identical: false });
  expect(relation(a, b).correlation).toBeCloseTo(0, 1);
  // Half of the power is common.
  expect(relation(add(a, b), add(a, scaled(b, -1))).correlation).toBeCloseTo(0, 1);
  expect(relation(a, add(a, b)).correlation).toBeCloseTo(Math.SQRT1_2, 1);
});

test('how much louder the left side is; with one silent without end, with both not at all', () => {
  expect(relation(a, scaled(a, 0.5)).balanceDb).toBeCloseTo(6.02, 2);
  const silence = new Float32Array(a.length);
  expect(relation(a, silence)).toEqual({ correlation: 0, balanceDb: Infinity, identical: false });
  expect(relation(silence, a)).toEqual({ correlation: 0, balanceDb: -Infinity, identical: false });
  expect(relation(silence, silence)).toEqual({ correlation: 0, balanceDb: 0, identical: true });
});

test('in any chunks, and gone on with from a mark, it is the same', () => {
  expect(relation(a, b, 777).correlation).toBeCloseTo(relation(a, b).correlation, 12);
  const first = new RelationMeter();
  first.process(a.subarray(0, 24_000), b.subarray(0, 24_000));
  const second = new RelationMeter();
  second.resume(first.mark());
  second.process(a.subarray(24_000), b.subarray(24_000));
  expect(second.finish()).toEqual(relation(a, b, 24_000));
  // One sample is enough to be no mono.
  const almost = a.slice();
  almost[100] += 1e-3;
  expect(relation(a, almost).identical).toBe(false);
});
