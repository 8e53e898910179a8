import { execFileSync } from 'node:child_process';
import { seededRandom } from '../../base/random';
import { kWeighting } from '../../loudness/kWeighting';
import { Meter } from '../../loudness/measure';
import { oversamplingBy } from '../../loudness/truePeak';
import { melCepstra } from '../../speech/cepstra';
import { findTemplate } from '../../speech/warping';
import { noise, sine } from '../../testing/signals';
import { seeds } from '../../testing/seeds';
import { highPass, lowPass } from '../biquad';
import { Resampler } from '../resampler';
import { bytesOfBase64 } from './base64';
import { kernels, useKernels } from '.';
import type { Kernels, Oversampling } from './kernels';
import { flacFaults } from './flac';
import { pairNumbers } from './spectra';
import { reference } from './reference';

const simd = kernels();
afterEach(() => useKernels(null));

/** The first place where two lists are not the same to the last bit; −1 when they are. */
function firstOther(a: ArrayLike<number>, b: ArrayLike<number>): number {
  if (a.length !== b.length) return Math.min(a.length, b.length);
  for (let i = 0; i < a.length; i++) if (!Object.is(a[i], b[i])) return i;
  return -1;
}

/** Audio of many kinds for one seed: loud and faint, with pauses, steps, full-scale edges and denormals. */
function audioOf(frames: number, seed: number): Float32Array<ArrayBuffer> {
  const random = seededRandom(seed + 1);
  const audio = new Float32Array(frames);
  for (let at = 0; at < frames;) {
    const length = 1 + Math.floor(random() * 3000);
    const kind = Math.floor(random() * 6);
    const level = 10 ** (-5 * random());
    for (let i = at; i < Math.min(frames, at + length); i++) {
      const value = [
        () => 0,
        () => level * (2 * random() - 1),
        () => level * Math.sin(i * level),
        () => (random() < 0.5 ? -1 : 1),
        () => 1e-40 * random(),
        () => level,
      ][kind]();
      audio[i] = value;
    }
    at += length;
  }
  return audio;
}

const lengthOf = (seed: number, most: number) => Math.floor(seededRandom(seed + 100)() * most);

/** What both give of the same. */
function both<T>(work: (these: Kernels) => T): [T, T] {
  return [work(reference), work(simd)];
}

test('this machine has the compiled kernels', () => {
  expect(simd.kind).toBe('simd');
});

test('what is compiled is what its sources give', () => {
  execFileSync(process.execPath, ['scripts/build-kernels.mjs', '--check'], { stdio: 'pipe' });
}, 60_000);

test('without WebAssembly, or without SIMD in it, the reference runs', () => {
  const host = globalThis as { WebAssembly?: typeof WebAssembly };
  const whole = host.WebAssembly;
  try {
    host.WebAssembly = undefined;
    useKernels(null);
    expect(kernels()).toBe(reference);
    host.WebAssembly = {
      ...whole,
      Memory: whole?.Memory,
      Module: () => {
        throw new TypeError('invalid value type');
      },
    } as unknown as typeof WebAssembly;
    useKernels(null);
    expect(kernels()).toBe(reference);
  } finally {
    host.WebAssembly = whole;
  }
});

test('base64 is decoded as RFC 4648 has it', () => {
  for (const text of ['', 'f', 'fo', 'foo', 'foob', 'fooba', 'foobar', '\xff\xfe\x00'])
    expect(
      Buffer.from(bytesOfBase64(Buffer.from(text, 'latin1').toString('base64'))).toString('latin1'),
    ).toBe(text);
});

describe('sums of hops', () => {
  test.each([8000, 11_025, 22_050, 44_100, 48_000, 88_200, 96_000, 192_000, 384_000])(
    'at %d Hz, in any chunks: K-weighted sums within 1e-10, peaks to the last bit',
    (rateHz) => {
      const hopFrames = Math.round(rateHz / 100);
      const weighting = kWeighting(rateHz);
      for (const seed of seeds(3)) {
        const hops = 40 + lengthOf(seed, 100);
        const audio = audioOf(hops * hopFrames, seed);
        const [expected, got] = both((these) => {
          const sums = new Float64Array(4 * hops);
          const state = new Float64Array(4);
          const step = these.kind === 'simd' ? 1 + lengthOf(seed, 17) : hops;
          for (let hop = 0; hop < hops; hop += step) {
            const to = Math.min(hops, hop + step);
            const chunk = audio.subarray(hop * hopFrames, to * hopFrames);
            these.weightedHops(chunk, hopFrames, weighting, state, sums.subarray(4 * hop, 4 * to));
          }
          return { sums, state };
        });
        for (let i = 0; i < expected.sums.length; i += 4) {
          const [total, plain, weighted, peak] = got.sums.subarray(i, i + 4);
          expect(Math.abs(total - expected.sums[i])).toBeLessThanOrEqual(1e-12 * hopFrames);
          expect(Math.abs(plain - expected.sums[i + 1])).toBeLessThanOrEqual(1e-12 * expected.sums[i + 1]);
          // What rings on after something loud is as exact as that was: 120 dB under it.
          let before = 0;
          for (let k = Math.max(0, i - 80); k <= i; k += 4) before = Math.max(before, expected.sums[k + 1]);
          const allowed = 1e-10 * expected.sums[i + 2] + 1e-12 * before;
          expect(Math.abs(weighted - expected.sums[i + 2])).toBeLessThanOrEqual(allowed);
          expect(peak).toBe(expected.sums[i + 3]);
        }
        got.state.forEach((value, i) => expect(Math.abs(value - expected.state[i])).toBeLessThan(1e-10));
      }
    },
  );

  test('loudness of a voice with pauses, at an offset from zero: within 1e-9 LU', () => {
    const frames = 20 * 44_100;
    const room = noise(frames, -60, 1);
    const voice = noise(frames, -18, 2);
    const audio = room.map((value, i) => value + 0.01 + (i % 132_300 < 88_200 ? voice[i] : 0));
    const [expected, got] = both((these) => {
      useKernels(these);
      const meter = new Meter(44_100, 1);
      meter.process([audio]);
      const { integratedLufs, momentaryMaxLufs, loudnessRangeLu, shortTerm } = meter.finish();
      return [integratedLufs, momentaryMaxLufs, loudnessRangeLu, ...shortTerm.lufs];
    });
    expect(got).toHaveLength(expected.length);
    got.forEach((value, i) => expect(Math.abs(value - expected[i])).toBeLessThan(1e-9));
    expect(expected[0]).toBeLessThan(-10);
  });

  test('chunks of any number of hops give the same to the last bit', () => {
    const hopFrames = 441;
    const weighting = kWeighting(44_100);
    const audio = audioOf(300 * hopFrames, 9);
    const inChunks = (step: number) => {
      const sums = new Float64Array(1200);
      const state = new Float64Array(4);
      for (let hop = 0; hop < 300; hop += step)
        simd.weightedHops(
          audio.subarray(hop * hopFrames, Math.min(300, hop + step) * hopFrames),
          hopFrames,
          weighting,
          state,
          sums.subarray(4 * hop, 4 * Math.min(300, hop + step)),
        );
      return [...sums, ...state];
    };
    expect(firstOther(inChunks(1), inChunks(300))).toBe(-1);
    expect(firstOther(inChunks(7), inChunks(300))).toBe(-1);
  });

  test('tails end in rest, and what is no number stays none', () => {
    for (const these of [reference, simd]) {
      const state = Float64Array.of(1e-21, 0, -1e-22, 0);
      const sums = new Float64Array(4);
      these.weightedHops(new Float32Array(480), 480, kWeighting(48_000), state, sums);
      expect([...state]).toEqual([0, 0, 0, 0]);
      const broken = new Float32Array(480);
      broken[100] = NaN;
      these.weightedHops(broken, 480, kWeighting(48_000), state, sums);
      expect([...sums]).toEqual([NaN, NaN, NaN, 0]);
    }
  });

  test.each([1, 3, 32, 80, 160, 441, 800])('squares of hops of %d, and peaks, are the same', (hopFrames) => {
    for (const seed of seeds(4)) {
      const hops = lengthOf(seed, 300);
      const audio = audioOf(hops * hopFrames + 5, seed);
      audio[Math.min(audio.length - 1, 3)] = seed === 1 ? NaN : 0.5;
      const [squares, ours] = both((these) => {
        const output = new Float64Array(hops);
        these.hopSquares(audio, hopFrames, output);
        return output;
      });
      expect(firstOther(squares, ours)).toBe(-1);
      const [peaks, others] = both((these) => {
        const output = new Float32Array(3 * Math.floor(audio.length / 256));
        these.peaks(audio, output);
        return output;
      });
      expect(firstOther(peaks, others)).toBe(-1);
    }
  });
});

describe('true peak', () => {
  test.each([1, 2, 4])(
    'with %d values a sample: the same to the last bit, whatever was the highest',
    (factor) => {
      const oversampling = oversamplingBy(factor);
      for (const seed of seeds(12)) {
        const audio = audioOf(48 + lengthOf(seed, 200_000), seed);
        for (const highest of [0, 1e-6, 0.3, 1.1, 5]) {
          const [expected, got] = both((these) => these.truePeak(audio, highest, oversampling));
          expect(got).toBe(expected);
        }
      }
    },
  );

  /** Every starting point, none left out. */
  function everyValue(audio: Float32Array, { factor, table }: Oversampling): number {
    let highest = 0;
    for (let from = 0; from < (Math.floor(audio.length / 16) - 2) * 16; from++) {
      highest = Math.max(highest, Math.abs(audio[from + 15]));
      for (let phase = 1; phase < factor; phase++) {
        let sum = 0;
        for (let tap = 0; tap < 32; tap++) sum += table[phase * 32 + tap] * audio[from + tap];
        highest = Math.max(highest, Math.abs(sum));
      }
    }
    return highest;
  }

  test('what is left out would have changed nothing: noise, tones, edges, impulses', () => {
    const oversampling = oversamplingBy(4);
    for (const seed of seeds(12)) {
      const audio = audioOf(20_000, seed);
      const expected = everyValue(audio, oversampling);
      // In pieces, so that the highest so far rises from nothing.
      const [theirs, ours] = both((these) => {
        let highest = 0;
        for (let at = 0; at + 48 <= audio.length; at += 64)
          highest = these.truePeak(audio.subarray(at, at + 96), highest, oversampling);
        return highest;
      });
      expect(theirs).toBe(expected);
      expect(ours).toBe(expected);
    }
  });

  test('silence and what stays under the highest are left out; a second difference bounds what lies between', () => {
    const { table, ...rest } = oversamplingBy(4);
    let looked = 0;
    const watched = new Proxy(table, {
      get: (weights, name) => {
        if (typeof name === 'string' && /^\d+$/.test(name)) looked++;
        return Reflect.get(weights, name) as unknown;
      },
    });
    const oversampling = { ...rest, table: watched };
    expect(reference.truePeak(new Float32Array(4096), 0, oversampling)).toBe(0);
    const low = sine(48_000, 0.1, 200, -6);
    expect(reference.truePeak(low, 0.502, oversampling)).toBe(0.502);
    expect(looked).toBe(0);
    reference.truePeak(sine(48_000, 0.1, 11_000, -6), 0.4, oversampling);
    expect(looked).toBeGreaterThan(0);
    expect(rest.bend).toBeCloseTo(0.4524, 4);
  });

  test('what is no number is left out by both', () => {
    const audio = noise(4096, -20, 1);
    audio[2000] = NaN;
    const [expected, got] = both((these) => these.truePeak(audio, 0, oversamplingBy(4)));
    expect(got).toBe(expected);
    expect(got).toBeGreaterThan(0.1);
  });
});

describe('sample rates', () => {
  test.each([
    [44_100, 48_000, 'file'],
    [48_000, 44_100, 'file'],
    [48_000, 16_000, 'analysis'],
    [44_100, 16_000, 'analysis'],
    [96_000, 48_000, 'file'],
    [16_000, 48_000, 'file'],
    [44_101, 48_000, 'file'],
    [8000, 44_100, 'file'],
    [192_000, 44_100, 'file'],
  ] as const)('%d to %d Hz (%s): the same to the last bit in any chunks', (fromHz, toHz, quality) => {
    const audio = audioOf(9000 + (fromHz % 1000), fromHz);
    const random = seededRandom(toHz);
    const [expected, got] = both((these) => {
      useKernels(these);
      const converter = new Resampler(fromHz, toHz, quality);
      const output: number[] = [];
      for (let at = 0; at < audio.length;) {
        const length = these.kind === 'simd' ? 1 + Math.floor(random() * 4000) : audio.length;
        output.push(...converter.process(audio.subarray(at, at + length)));
        at += length;
      }
      return Float32Array.from([...output, ...converter.flush()]);
    });
    expect(firstOther(expected, got)).toBe(-1);
  });

  test('longer than one piece of memory', () => {
    const audio = audioOf(200_000, 3);
    const [expected, got] = both((these) => {
      useKernels(these);
      return new Resampler(44_100, 48_000).process(audio);
    });
    expect(firstOther(expected, got)).toBe(-1);
  });
});

describe('24 bits', () => {
  test.each([1, 2, 3])('of %d channels are packed and unpacked to the last bit', (channels) => {
    for (const seed of seeds(6)) {
      const frames = lengthOf(seed, 140_000);
      const audio = Array.from({ length: channels }, (_, channel) => audioOf(frames, 7 * seed + channel));
      if (frames > 9)
        [NaN, Infinity, -Infinity, 2, -2, -0, 0.5 / 2 ** 23, -0.5 / 2 ** 23, 1.5 / 2 ** 23].forEach(
          (value, i) => (audio[0][i] = value),
        );
      const [bytes, ours] = both((these) => {
        const output = new Uint8Array(frames * channels * 3);
        these.pack24(audio, output);
        return output;
      });
      expect(firstOther(bytes, ours)).toBe(-1);
      const [samples, others] = both((these) => {
        const output = audio.map(() => new Float32Array(frames));
        these.unpack24(bytes, output);
        return output;
      });
      samples.forEach((channel, i) => expect(firstOther(channel, others[i])).toBe(-1));
    }
  });

  test('all 16,777,216 of them come back as they were', () => {
    const step = 1 << 16;
    const [audio, again] = [[new Float32Array(step)], new Uint8Array(3 * step)];
    for (let from = 0; from < 1 << 24; from += step) {
      const bytes = new Uint8Array(3 * step);
      for (let i = 0; i < step; i++) bytes.set([i & 255, i >> 8, from >> 16], 3 * i);
      simd.unpack24(bytes, audio);
      simd.pack24(audio, again);
      expect(Buffer.compare(bytes, again)).toBe(0);
    }
  });
});

test('sections in a row are the same to the last bit, and go on where they were', () => {
  const rows = [
    [highPass(900, 48_000)],
    [highPass(200, 16_000), lowPass(4000, 16_000)],
    [highPass(80, 16_000), highPass(80, 16_000), lowPass(800, 16_000)],
    [highPass(200, 16_000), highPass(200, 16_000), lowPass(4000, 16_000), lowPass(4000, 16_000)],
  ];
  for (const [seed, row] of rows.entries()) {
    const audio = audioOf(1 + lengthOf(seed, 150_000), seed);
    const [expected, got] = both((these) => {
      const samples = audio.slice();
      const states = new Float64Array(2 * row.length);
      const half = Math.floor(samples.length / 3);
      these.sections(samples.subarray(0, half), row, states);
      these.sections(samples.subarray(half), row, states);
      return [...samples, ...states];
    });
    expect(firstOther(expected, got)).toBe(-1);
  }
});

describe.each([16, 64, 512, 1024, 2048])('spectra of frames of %d', (size) => {
  const window = Float64Array.from({ length: size }, (_, i) => Math.sin((Math.PI * (i + 0.5)) / size));
  const pairs = 70;

  test('are the same to the last bit, and so are the frames made of them', () => {
    for (const seed of seeds(3)) {
      const audio = audioOf((2 * pairs + 1) * (size / 2), seed);
      const random = seededRandom(seed);
      const gains = Float64Array.from({ length: (pairs * pairNumbers(size)) / 2 }, random);
      const [expected, got] = both((these) => {
        const spectra = new Float64Array(pairs * pairNumbers(size));
        these.spectra(audio, window, spectra);
        const made = audio.map((sample) => sample / 3);
        these.addFrames(spectra, gains, window, made);
        return { spectra, made };
      });
      expect(firstOther(expected.spectra, got.spectra)).toBe(-1);
      expect(firstOther(expected.made, got.made)).toBe(-1);
    }
  });

  test('put together again with nothing changed they are what they were, but for the first and last half', () => {
    const audio = noise((2 * pairs + 1) * (size / 2), -20, size);
    const spectra = new Float64Array(pairs * pairNumbers(size));
    simd.spectra(audio, window, spectra);
    const made = new Float32Array(audio.length);
    simd.addFrames(spectra, new Float64Array(spectra.length / 2).fill(1), window, made);
    let most = 0;
    for (let i = size / 2; i < audio.length - size / 2; i++)
      most = Math.max(most, Math.abs(made[i] - audio[i]));
    expect(most).toBeLessThan(1e-7);
  });

  test('a sine whose period fits stands in its bin alone, in the frame it is in', () => {
    const flat = new Float64Array(size).fill(1);
    const bin = size / 8;
    // Only the second frame of the pair has all of it.
    const audio = new Float32Array((3 * size) / 2);
    for (let i = size / 2; i < audio.length; i++) audio[i] = 0.5 * Math.sin((2 * Math.PI * bin * i) / size);
    const spectra = new Float64Array(pairNumbers(size));
    simd.spectra(audio, flat, spectra);
    for (let k = 0; k <= size / 2; k++) {
      const magnitude = Math.hypot(spectra[4 * k + 1], spectra[4 * k + 3]);
      expect(Math.abs(magnitude - (k === bin ? size / 4 : 0))).toBeLessThan(1e-5 * size);
    }
  });
});

test('cepstra and the search for a template are the same to the last bit', () => {
  for (const seed of seeds(4)) {
    const audio = audioOf(16_000 + lengthOf(seed, 30_000), seed);
    const voice = sine(16_000, audio.length / 16_000, 150 + 40 * seed, -20);
    audio.forEach((value, i) => (audio[i] = 0.1 * value + (voice[i] ?? 0) * Math.abs(Math.sin(i / 3000))));
    const [expected, got] = both((these) => {
      useKernels(these);
      return melCepstra(audio, 1.3);
    });
    expect(firstOther(expected, got)).toBe(-1);
    const frames = expected.length / 13;
    const [theirs, ours] = both((these) => {
      useKernels(these);
      return [1, 2, 5, 40].flatMap((length) =>
        [1, 2, 3, frames - length - 7].map((width) =>
          findTemplate(expected, 3, length, length + 3, Math.min(frames, length + 3 + width), {
            highestCost: 50,
            apart: 5,
            most: 9,
          }),
        ),
      );
    });
    expect(ours).toEqual(theirs);
    expect(ours.flat().length).toBeGreaterThan(10);
  }
});

describe('residuals of FLAC', () => {
  const bitsOf = (value: number, width: number) =>
    width === 0 ? '' : (value >>> 0).toString(2).padStart(32, '0').slice(-width);

  /** Numbers as RFC 9639, 9.2.7 has them, with a parameter and an escape for each partition by chance. */
  function coded(numbers: readonly number[], order: number, partitionOrder: number, seed: number): string {
    const random = seededRandom(seed);
    const wide = random() < 0.5 ? 1 : 0;
    const perPartition = numbers.length / 2 ** partitionOrder;
    let bits = bitsOf(wide, 2) + bitsOf(partitionOrder, 4);
    for (let from = 0; from < numbers.length; from += perPartition) {
      const part = numbers.slice(Math.max(from, order), from + perPartition);
      const width = 32 - Math.min(...part.map((n) => Math.clz32(n < 0 ? ~n : n)), 32) + 1;
      if (random() < 0.2) {
        bits += bitsOf(-1, 4 + wide) + bitsOf(part.every((n) => n === 0) ? 0 : width, 5);
        if (part.some((n) => n !== 0)) bits += part.map((n) => bitsOf(n, width)).join('');
        continue;
      }
      // From one that makes long runs of zeros to one that has room to spare.
      const parameter = Math.min(wide ? 30 : 14, Math.max(0, width - Math.floor(9 * random())));
      bits += bitsOf(parameter, 4 + wide);
      for (const n of part) {
        const folded = n < 0 ? -2 * n - 1 : 2 * n;
        bits += '0'.repeat(Math.floor(folded / 2 ** parameter)) + '1' + bitsOf(folded, parameter);
      }
    }
    return bits;
  }

  const bytesOf = (bits: string) =>
    Uint8Array.from(bits.match(/.{1,8}/g) ?? [], (byte) => parseInt(byte.padEnd(8, '0'), 2));

  test('of any size, in any partitions, behind any bit: the numbers that were coded', () => {
    for (const seed of seeds(60)) {
      const random = seededRandom(seed + 5);
      const partitionOrder = Math.floor(7 * random());
      const order = Math.floor(3 * random());
      const size = 2 ** (1 + Math.floor(18 * random()));
      const numbers = Array.from({ length: 2 ** partitionOrder * (2 + Math.floor(60 * random())) }, () =>
        Math.floor((random() - 0.5) * size),
      );
      const before = Math.floor(40 * random());
      const bits = coded(numbers, order, partitionOrder, seed);
      for (const these of [reference, simd]) {
        const samples = Int32Array.from(numbers, (n, i) => (i < order ? n : 0));
        // Weights of nothing predict nothing.
        const weights = Array.from({ length: order }, () => 0);
        const end = these.flacResidual(bytesOf('1'.repeat(before) + bits), before, samples, weights, 0);
        expect(firstOther(samples, numbers)).toBe(-1);
        expect(end).toBe(before + bits.length);
      }
    }
  });

  test.each([0, 1, 2, 4, 8, 12, 32])(
    'with %d weights: the same to the last bit, whole and cut off',
    (order) => {
      for (const seed of seeds(12)) {
        const random = seededRandom(seed + order);
        const partitionOrder = Math.floor(3 * random());
        const length = 2 ** partitionOrder * (order + 1 + Math.floor(40 * random()));
        const numbers = Array.from({ length }, () => Math.round((random() - 0.5) * 2 ** 20 * random()));
        const bytes = bytesOf(coded(numbers, order, partitionOrder, seed));
        const weights = Array.from({ length: order }, () => Math.floor((random() - 0.5) * 2 ** 15));
        const shift = Math.floor(15 * random());
        for (const kept of [bytes.length, bytes.length - 1, Math.floor(bytes.length * random())]) {
          const [expected, got] = both((these) => {
            const samples = new Int32Array(length);
            for (let i = 0; i < order; i++) samples[i] = (i - 3) * 2 ** 20;
            const end = these.flacResidual(bytes.subarray(0, kept), 0, samples, weights, shift);
            return end < 0 ? [end] : [end, ...samples];
          });
          expect(firstOther(expected, got)).toBe(-1);
          if (kept === bytes.length) expect(got).toHaveLength(length + 1);
          else expect(got).toEqual([flacFaults.end]);
        }
      }
    },
  );

  test('bytes of chance, endless zeros, and what cannot be: the same fault or the same samples', () => {
    const faults = new Set<number>();
    for (const seed of seeds(400)) {
      const random = seededRandom(seed + 77);
      const bytes = Uint8Array.from({ length: 1 + Math.floor(3000 * random()) }, () =>
        random() < 0.3 ? 0 : 256 * random(),
      );
      if (seed % 3 === 0) bytes[0] &= 0x3f;
      const [expected, got] = both((these) => {
        const samples = new Int32Array(64);
        const end = these.flacResidual(bytes, 0, samples, [3, -3, 1], 0);
        return end < 0 ? [end] : [end, ...samples];
      });
      expect(firstOther(expected, got)).toBe(-1);
      faults.add(Math.min(0, got[0]));
    }
    expect([...faults].sort()).toEqual([flacFaults.end, flacFaults.coding, flacFaults.partitions, 0]);
  });

  test('longer than a subframe ever is: found as well', () => {
    const bits = '00' + '0000' + '0000' + '0'.repeat(20_000) + '1' + '1';
    for (const these of [reference, simd]) {
      const samples = new Int32Array(2);
      expect(these.flacResidual(bytesOf(bits), 0, samples, [], 0)).toBe(bits.length);
      expect([...samples]).toEqual([10_000, 0]);
    }
  });
});

test('what one kernel leaves in memory another one does not read', () => {
  const converter = new Resampler(44_100, 48_000);
  const audio = audioOf(10_000, 1);
  const alone = new Resampler(44_100, 48_000).process(audio);
  const first = converter.process(audio.subarray(0, 5000));
  simd.truePeak(noise(70_000, -6, 2), 0, oversamplingBy(4));
  new Resampler(48_000, 44_100).process(audio);
  const mixed = [...first, ...converter.process(audio.subarray(5000))];
  expect(firstOther(mixed, alone)).toBe(-1);
});
