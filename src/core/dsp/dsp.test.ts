import { execFileSync } from 'node:child_process';
import FFT from 'fft.js';
import { seededRandom } from '../base/random';
import { amplitudeToDb } from '../base/units';
import {
  add,
  chunksOf,
  concat,
  firstDifference,
  noise,
  scratchFolder,
  sine,
  writeWav,
} from '../testing/signals';
import { Quantizer } from './dither';
import { Resampler } from './resampler';

const folder = scratchFolder();

const convert = (audio: Float32Array, fromHz: number, toHz: number) => {
  const resampler = new Resampler(fromHz, toHz);
  return concat(resampler.process(audio), resampler.flush());
};

/** RMS in the middle of a signal, away from its edges, in dB. */
const middleDb = (audio: Float32Array) => {
  const part = audio.subarray(audio.length / 4, (audio.length * 3) / 4);
  let sum = 0;
  for (const value of part) sum += value * value;
  return 10 * Math.log10(sum / part.length);
};

describe('sample-rate conversion', () => {
  test.each([20, 1000, 5000, 10_000, 15_000, 18_000, 19_000, 20_000])(
    '48 to 44.1 kHz passes %d Hz within 0.1 dB',
    (hertz) => {
      const input = sine(48_000, 1, hertz, -6);
      expect(Math.abs(middleDb(convert(input, 48_000, 44_100)) - middleDb(input))).toBeLessThan(0.1);
    },
  );

  test.each([22_100, 22_500, 23_000, 23_900])(
    '48 to 44.1 kHz: nothing of %d Hz comes back as an alias, 100 dB down',
    (hertz) => {
      const input = sine(48_000, 1, hertz, 0);
      expect(middleDb(convert(input, 48_000, 44_100)) - middleDb(input)).toBeLessThan(-100);
    },
  );

  test.each([
    [44_100, 48_000],
    [48_000, 44_100],
    [16_000, 48_000],
    [96_000, 44_100],
    [22_050, 96_000],
  ])('%d to %d Hz: a tone stays the tone, sample for sample', (fromHz, toHz) => {
    const output = convert(sine(fromHz, 0.5, 997, -3), fromHz, toHz);
    const ideal = sine(toHz, 0.5, 997, -3);
    expect(output).toHaveLength(Math.round((fromHz * 0.5 * toHz) / fromHz));
    let worst = 0;
    for (let i = 2000; i < output.length - 2000; i++) worst = Math.max(worst, Math.abs(output[i] - ideal[i]));
    expect(amplitudeToDb(worst)).toBeLessThan(-100);
  });

  test('chunks of any size give the identical output, and reset starts over', () => {
    const input = noise(20_000, -20, 4);
    const whole = convert(input, 48_000, 44_100);
    const resampler = new Resampler(48_000, 44_100);
    for (const seed of [1, 2]) {
      const parts = [...chunksOf(input, 700, seed)].map((chunk) => resampler.process(chunk));
      expect(firstDifference(concat(...parts, resampler.flush()), whole)).toBe(-1);
      resampler.reset();
    }
    expect(whole).toHaveLength(18_375);
  });

  test.each([0, 1, 5, 100])('%d frames come out as so many as they should', (frames) => {
    expect(convert(noise(frames, -20, 1), 44_100, 48_000)).toHaveLength(Math.round((frames * 160) / 147));
  });

  const pairs = [
    [48_000, 44_100],
    [44_100, 48_000],
    [96_000, 48_000],
    [48_000, 96_000],
    [96_000, 44_100],
  ] as const;

  test.each(pairs)('%d to %d Hz: outputs made one by one and many at a time are the same', (fromHz, toHz) => {
    const input = noise(fromHz / 4, -12, 3);
    const whole = convert(input, fromHz, toHz);
    for (const most of [3, 500, 5000]) {
      const resampler = new Resampler(fromHz, toHz);
      const parts = [...chunksOf(input, most, most)].map((chunk) => resampler.process(chunk));
      expect(firstDifference(concat(...parts, resampler.flush()), whole)).toBe(-1);
    }
  });

  // sox `rate -v -L`, linear phase and 95 % bandwidth: another design, so they are compared where both pass
  // everything.
  test.each(pairs)('%d to %d Hz: tones up to 16 kHz are those of sox, 90 dB down', (fromHz, toHz) => {
    const tones = [110, 997, 4_000, 9_300, 16_000].map((hertz) => sine(fromHz, 1, hertz, -20));
    const input = tones.reduce(add);
    const file = writeWav(`${folder}/tones-${fromHz}.wav`, fromHz, [input], 'float32');
    const theirs = execFileSync(
      'sox',
      [file, '-t', 'raw', '-e', 'floating-point', '-b', '32', '-', 'rate', '-v', '-L', String(toHz)],
      { maxBuffer: 1 << 28 },
    );
    const expected = new Float32Array(
      theirs.buffer.slice(theirs.byteOffset, theirs.byteOffset + theirs.length),
    );
    const ours = convert(input, fromHz, toHz);
    expect(Math.abs(ours.length - expected.length)).toBeLessThanOrEqual(1);
    const difference = ours.map((sample, i) => sample - (expected[i] ?? 0));
    expect(middleDb(difference)).toBeLessThan(-90);
  });

  /** The first are those of old computers, video and drifting clocks; then pairs of the whole range. */
  const oddPairs = [
    [22_254, 48_000],
    [44_056, 48_000],
    [44_101, 48_000],
    [48_000, 44_101],
    [48_048, 44_100],
    [11_127, 44_100],
    [383_999, 48_000],
    [48_000, 383_999],
    [4001, 44_100],
    [384_000, 4000],
    [383_993, 4001],
  ] as const;

  /** What is left of a tone after the tone itself, at its true place in time, has been taken away. */
  const errorDb = (fromHz: number, toHz: number, hertz: number, seconds: number) => {
    const ours = convert(sine(fromHz, seconds, hertz, 0), fromHz, toHz);
    const ideal = sine(toHz, seconds, hertz, 0);
    return middleDb(ours.map((sample, i) => sample - (ideal[i] ?? 0)));
  };

  test.each(oddPairs)(
    '%d to %d Hz: a tone comes out as it is at the new rate, 105 dB down',
    (fromHz, toHz) => {
      const pass = 0.45 * Math.min(fromHz, toHz);
      for (const hertz of [pass * 0.05, pass * 0.5, pass * 0.98].map(Math.round))
        expect(errorDb(fromHz, toHz, hertz, 0.2)).toBeLessThan(-105);
    },
  );

  test.each(oddPairs.filter(([fromHz, toHz]) => fromHz > toHz))(
    '%d to %d Hz: nothing comes back as an alias, 110 dB down',
    (fromHz, toHz) => {
      const input = sine(fromHz, 0.2, Math.min(toHz * 0.63, fromHz * 0.49), 0);
      expect(middleDb(convert(input, fromHz, toHz)) - middleDb(input)).toBeLessThan(-110);
    },
  );

  test('any two whole rates from 4 to 384 kHz convert, to the right length, in chunks of any size', () => {
    const next = seededRandom(17);
    const rate = () => Math.round(4000 * 96 ** next());
    for (let trial = 0; trial < 12; trial++) {
      const [fromHz, toHz] = [rate(), rate()];
      const input = noise(Math.round(fromHz / 20), -20, trial + 1);
      const whole = convert(input, fromHz, toHz);
      expect(whole).toHaveLength(Math.round((input.length * toHz) / fromHz));
      const resampler = new Resampler(fromHz, toHz);
      const parts = [...chunksOf(input, 700, trial)].map((chunk) => resampler.process(chunk));
      expect(firstDifference(concat(...parts, resampler.flush()), whole)).toBe(-1);
    }
  });

  test('lengths beyond a day are exact', () => {
    const frames = 100 * 3600 * 383_993;
    const exact = (BigInt(frames) * 44_101n * 2n + 383_993n) / (2n * 383_993n);
    expect(new Resampler(383_993, 44_101).outputFrames(frames)).toBe(Number(exact));
  });

  test('rates that make no sense are refused', () => {
    expect(() => new Resampler(48_000, 0)).toThrow(RangeError);
    expect(() => new Resampler(44_100.5, 48_000)).toThrow(RangeError);
  });
});

describe('quantizing', () => {
  /**
   * Level in dB of the harmonics 2 to 9 of a tone that fills whole periods of the transform, relative to the
   * tone.
   */
  function distortionDb(integers: Int32Array, bin: number): number {
    const size = integers.length;
    const fft = new FFT(size);
    const spectrum = new Float64Array(2 * size);
    fft.realTransform(spectrum, Array.from(integers));
    const power = (k: number) => spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2;
    let harmonics = 0;
    for (let n = 3; n < 10; n += 2) harmonics = Math.max(harmonics, power(bin * n));
    return 10 * Math.log10(harmonics / power(bin));
  }

  test('a tone of 1.5 LSB is distorted without dither, and is not with it', () => {
    const size = 65_536;
    const bin = 1001;
    const audio = Float32Array.from(
      { length: size },
      (_, i) => (1.5 / 32_768) * Math.sin((2 * Math.PI * bin * i) / size),
    );
    const out = (dither: 'tpdf' | 'none') => {
      const integers = new Int32Array(size);
      new Quantizer(16, dither).process(audio, integers);
      return distortionDb(integers, bin);
    };
    expect(out('none')).toBeGreaterThan(-25);
    expect(out('tpdf')).toBeLessThan(-32);
  });

  test('dither of silence is noise of half an LSB², as triangular noise plus rounding should be (variance ¼, Lipshitz et al. 1992)', () => {
    const integers = new Int32Array(100_000);
    new Quantizer(16, 'tpdf').process(new Float32Array(100_000), integers);
    let squares = 0;
    for (const value of integers) squares += value * value;
    // 1/6 for the triangle and 1/12 for rounding make 1/4.
    expect(squares / integers.length).toBeCloseTo(0.25, 1);
  });

  test('full scale is clamped, not wrapped; the same seed gives the same result in any chunks', () => {
    const integers = new Int32Array(4);
    new Quantizer(16, 'none').process(Float32Array.of(1, -1, 1.5, -2), integers);
    expect([...integers]).toEqual([32_767, -32_768, 32_767, -32_768]);
    const audio = noise(5000, -20, 6);
    const whole = new Int32Array(5000);
    new Quantizer(24, 'tpdf', 9).process(audio, whole);
    const quantizer = new Quantizer(24, 'tpdf', 9);
    const parts: number[] = [];
    for (const chunk of chunksOf(audio, 300, 2)) {
      const part = new Int32Array(chunk.length);
      quantizer.process(chunk, part);
      parts.push(...part);
    }
    expect(parts).toEqual([...whole]);
  });
});
