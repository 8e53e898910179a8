import { noise, concat } from '../testing/signals';
import { ChannelMeter } from './channelMeter';
import { kWeighting } from './kWeighting';
import { channelWeights, Meter } from './measure';

const rateHz = 48_000;
const hop = 480;

/** The two filters of K-weighting one after the other, sample by sample, as ITU-R BS.1770-5 draws them. */
function weightedPowers(samples: Float32Array): number[] {
  const { shelf, highPass } = kWeighting(rateHz);
  const x = [0, 0];
  const v = [0, 0];
  const y = [0, 0];
  const powers: number[] = [];
  samples.forEach((sample, i) => {
    const shelved = shelf.b0 * sample + shelf.b1 * x[0] + shelf.b2 * x[1] - shelf.a1 * v[0] - shelf.a2 * v[1];
    const high = shelved - 2 * v[0] + v[1] - highPass.a1 * y[0] - highPass.a2 * y[1];
    [x[1], x[0], v[1], v[0], y[1], y[0]] = [x[0], sample, v[0], shelved, y[0], high];
    powers[Math.floor(i / hop)] = (powers[Math.floor(i / hop)] ?? 0) + high * high;
  });
  return powers;
}

test('sums, peaks and squares of every hop; what does not fill the last one counts for the whole alone', () => {
  const samples = noise(10 * hop + 100, -20, 1);
  samples[10 * hop + 50] = -0.9;
  const meter = new ChannelMeter(rateHz, hop);
  for (let at = 0; at < samples.length; at += 333) meter.process(samples.subarray(at, at + 333));
  const hops = Array.from({ length: 10 }, (_, i) => samples.subarray(i * hop, (i + 1) * hop));
  const sum = (values: Float32Array, of: (value: number) => number) =>
    values.reduce((total, value) => total + of(value), 0);
  hops.forEach((values, i) => {
    expect(meter.totals.toArray()[i]).toBeCloseTo(
      sum(values, (value) => value),
      9,
    );
    expect(meter.plain.toArray()[i]).toBeCloseTo(
      sum(values, (value) => value * value),
      9,
    );
    expect(meter.hopPeaks.toArray()[i]).toBe(Math.max(...values.map(Math.abs)));
  });
  expect([meter.plain, meter.weighted, meter.totals, meter.hopPeaks].map(({ length }) => length)).toEqual([
    10, 10, 10, 10,
  ]);
  expect(meter.squares).toBeCloseTo(
    sum(samples, (value) => value * value),
    9,
  );
  expect(meter.peak).toBe(Math.fround(0.9));
  weightedPowers(samples)
    .slice(0, 10)
    .forEach((power, i) => expect(meter.weighted.toArray()[i]).toBeCloseTo(power, 9));
});

test('after sound, silence is silent: the filters end at nothing', () => {
  const meter = new ChannelMeter(rateHz, hop);
  meter.process(noise(hop, -10, 2));
  meter.process(new Float32Array(400 * hop));
  expect(meter.mark().filter).toEqual([0, 0, 0, 0]);
  expect(meter.weighted.toArray()[400]).toBe(0);
  // Not before: what still rings counts.
  const ringing = new ChannelMeter(rateHz, hop);
  ringing.process(noise(hop, -10, 2));
  ringing.process(new Float32Array(hop));
  expect(ringing.mark().filter.every((value) => value !== 0)).toBe(true);
});

test('runs of clipped samples, also across hops and chunks; the first hundred of them', () => {
  const samples = new Float32Array(4 * hop);
  samples.fill(1, 100, 103);
  samples.fill(-1, hop - 2, hop + 5);
  samples[900] = 0.99;
  const meter = new ChannelMeter(rateHz, hop);
  for (let at = 0; at < samples.length; at += 101) meter.process(samples.subarray(at, at + 101));
  expect(meter.clippedRuns).toEqual([
    { from: 100, frames: 3 },
    { from: hop - 2, frames: 7 },
  ]);
  expect(meter.clipsSplitAt(hop)).toBe(false);
  expect(meter.clipsSplitAt(hop - 2)).toBe(true);
  // A run that ends just here may go on.
  expect(meter.clipsSplitAt(103)).toBe(false);
  expect(meter.clipsSplitAt(104)).toBe(true);
  const many = new ChannelMeter(rateHz, hop);
  many.process(Float32Array.from({ length: 300 }, (_, i) => (i % 2 === 0 ? 1 : 0)));
  expect(many.clippedRuns).toHaveLength(100);
  expect(many.clippedSamples).toBe(150);
  expect(many.clipsSplitAt(4000)).toBe(false);
});

test('channels count by their places (ITU-R BS.1770-5): surrounds 1.41, the low-frequency one not', () => {
  expect(channelWeights(1)).toEqual([1]);
  expect(channelWeights(2)).toEqual([1, 1]);
  expect(channelWeights(5)).toEqual([1, 1, 1, 1.41, 1.41]);
  expect(channelWeights(6)).toEqual([1, 1, 1, 0, 1.41, 1.41]);
});

describe('going on from a mark', () => {
  const loud = noise(2 * rateHz, -12, 4);
  const clipped = noise(2 * rateHz, -20, 5);
  clipped.fill(1, 5000, 5010);
  const quiet = noise(2 * rateHz, -40, 6);
  const audio = concat(quiet, loud, clipped, quiet);
  const measure = (meter: Meter, samples: Float32Array) => {
    meter.process(Array.from({ length: meter.channels }, () => samples));
    return meter;
  };

  test.each([1, 2])('of %d channels is the same as measuring all of it', (channels) => {
    const whole = measure(new Meter(rateHz, channels), audio).finish();
    for (const hops of [1, 150, 433, 799]) {
      const first = measure(new Meter(rateHz, channels), audio.subarray(0, hops * hop));
      const second = new Meter(rateHz, channels);
      second.resume(first.mark());
      expect(measure(second, audio.subarray(hops * hop)).finish()).toEqual(whole);
    }
  });

  /** The same end after another beginning, with silence between, in which the filters come to nothing. */
  const silence = new Float32Array(8 * rateHz);
  const end = concat(silence, loud, clipped);
  const begin = (start: Float32Array) => {
    const meter = measure(new Meter(rateHz, 1), concat(start, silence));
    return { meter, mark: meter.mark() };
  };

  test('what comes after is taken over from an earlier measurement, as if it had been measured', () => {
    const earlier = begin(noise(2 * rateHz, -30, 7));
    measure(earlier.meter, end);
    const later = earlier.meter.mark();
    earlier.meter.finish();
    const start = noise(2 * rateHz, -25, 8);
    start.fill(-1, 300, 320);
    const now = begin(start);
    expect(now.meter.takeOver(earlier.meter, earlier.mark)).toBe(true);
    // Its marks too: measuring can go on from them.
    const [rebased] = now.meter.rebase([later], earlier.mark, now.mark);
    const whole = measure(new Meter(rateHz, 1), concat(start, silence, end));
    expect(rebased.frames).toBe(later.frames);
    const on = new Meter(rateHz, 1);
    on.resume(rebased);
    expect(measure(on, loud).finish()).toEqual(
      measure(new Meter(rateHz, 1), concat(start, silence, end, loud)).finish(),
    );
    expect(now.meter.finish()).toEqual(whole.finish());
  });

  test('but not where it would not be exact: another place, a filter that rings, a peak or a clip that cannot be told', () => {
    const refused = (now: Meter, start: Float32Array, then = end) => {
      const earlier = begin(start);
      measure(earlier.meter, then);
      earlier.meter.finish();
      return now.takeOver(earlier.meter, earlier.mark);
    };
    const start = noise(2 * rateHz, -30, 7);
    expect(refused(begin(concat(start, new Float32Array(hop))).meter, start)).toBe(false);
    const ringing = measure(new Meter(rateHz, 1), noise(10 * rateHz, -30, 9));
    expect(refused(ringing, start)).toBe(false);
    // The earlier peak was before the mark, where it is another now.
    expect(
      refused(
        begin(start).meter,
        loud.map((value) => value * 0.5),
        concat(silence, quiet),
      ),
    ).toBe(false);
    expect(
      refused(
        begin(loud.map((value) => value * 0.6)).meter,
        loud.map((value) => value * 0.5),
        quiet,
      ),
    ).toBe(true);
    // Two channels have a relation that cannot be taken apart.
    const stereo = measure(new Meter(rateHz, 2), concat(start, silence));
    expect(refused(stereo, start)).toBe(false);
  });
});
