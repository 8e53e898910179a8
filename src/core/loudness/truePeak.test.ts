import { seededRandom } from '../base/random';
import { polyphaseLowPass } from '../dsp/window';
import { chunksOf, concat, noise, sine } from '../testing/signals';
import { seeds } from '../testing/seeds';
import { TruePeakMeter } from './truePeak';

const taps = 32;

/** Every value at and between the samples, one by one, with silence before and after. */
function naive(samples: Float32Array, rateHz: number): number {
  const factor = rateHz >= 176_400 ? 1 : rateHz >= 88_200 ? 2 : 4;
  const table = polyphaseLowPass(factor, taps, 0.5, 70);
  const padded = new Float32Array(samples.length + 2 * taps);
  padded.set(samples, taps);
  let highest = 0;
  for (let from = 0; from + taps <= padded.length; from++) {
    highest = Math.max(highest, Math.abs(padded[from + taps / 2 - 1]));
    for (let phase = 1; phase < factor; phase++) {
      let sum = 0;
      for (let tap = 0; tap < taps; tap++) sum += table[phase * taps + tap] * padded[from + tap];
      highest = Math.max(highest, Math.abs(sum));
    }
  }
  return highest;
}

function peakOf(rateHz: number, chunks: Iterable<Float32Array>): number {
  const meter = new TruePeakMeter(rateHz);
  for (const chunk of chunks) meter.process(chunk);
  meter.finish();
  return meter.peak;
}

/** Quiet and loud stretches: where leaving out what cannot lead goes wrong, it does so between them. */
function bursts(seed: number): Float32Array {
  const random = seededRandom(seed);
  return concat(
    ...Array.from({ length: 12 }, (_, i) =>
      noise(1 + Math.floor(random() * 3000), -60 + 55 * random(), 100 * seed + i),
    ),
  );
}

test.each([44_100, 48_000, 96_000, 192_000])('at %d Hz it is the largest of all values between', (rateHz) => {
  for (const seed of seeds(6)) {
    const samples = bursts(seed + rateHz);
    expect(peakOf(rateHz, [samples])).toBe(naive(samples, rateHz));
    expect(peakOf(rateHz, chunksOf(samples, 5000, seed))).toBe(naive(samples, rateHz));
  }
});

test('a peak anywhere is found: at the first sample, the last, and around the ends of what is held at once', () => {
  for (const at of [0, 1, 15, 16, 31, 32, 4063, 4064, 4065, 4094, 4095, 4096, 4127, 4999]) {
    const samples = noise(5000, -50, at + 1);
    samples[at] = -0.7;
    expect(peakOf(48_000, [samples])).toBe(naive(samples, 48_000));
  }
});

test('a quarter of the sample rate, 45° off, peaks 3.01 dB over its samples (ITU-R BS.1770-5 annex 2)', () => {
  const tone = Float32Array.from(
    { length: 4800 },
    (_, i) => Math.SQRT1_2 * Math.sin((i / 2 + 0.25) * Math.PI),
  );
  expect(Math.max(...tone)).toBeCloseTo(0.5, 6);
  const middle = peakOf(48_000, [tone.map((value, i) => value * Math.min(1, i / 480, (4799 - i) / 480))]);
  expect(20 * Math.log10(middle / Math.SQRT1_2)).toBeCloseTo(0, 1);
});

test('gone on with from a mark it is the same; a peak from elsewhere counts', () => {
  const samples = concat(bursts(3), sine(48_000, 0.1, 997, -3));
  for (const at of [0, 480, 4096, 9600]) {
    const first = new TruePeakMeter(48_000);
    first.process(samples.subarray(0, at));
    const second = new TruePeakMeter(48_000);
    second.resume(first.mark());
    second.process(samples.subarray(at));
    second.finish();
    expect(second.peak).toBe(naive(samples, 48_000));
  }
  const meter = new TruePeakMeter(48_000);
  meter.raise(0.5);
  meter.raise(0.3);
  meter.process(new Float32Array(100).fill(0.1));
  meter.finish();
  expect(meter.peak).toBe(0.5);
  expect(peakOf(48_000, [])).toBe(0);
});

test('the faintest sound there is counts in digital silence', () => {
  expect(peakOf(48_000, [new Float32Array(48_000)])).toBe(0);
  const faint = new Float32Array(48_000);
  faint[20_000] = 1.4e-45;
  expect(peakOf(48_000, [faint])).toBeGreaterThan(0);
});
