import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import FFT from 'fft.js';
import { kernels } from './kernels';
import type { BiquadCoefficients } from './kernels/kernels';
import { decodeWithFfmpeg, noise, scratchFolder, writeWav } from '../testing/signals';
import {
  butterworthHighPass,
  cookbook,
  responseDb,
  settlingFrames,
  type Band,
  type BandShape,
} from './cookbook';

/** What Parola's filter does to an impulse, as decibels at the bins of a long transform. */
function measured(sections: readonly BiquadCoefficients[], size: number): (bin: number) => number {
  const impulse = new Float32Array(size);
  impulse[0] = 1;
  kernels().sections(impulse, sections, new Float64Array(2 * sections.length));
  const fft = new FFT(size);
  const spectrum = new Float64Array(2 * size);
  fft.realTransform(spectrum, impulse);
  return (bin) => 10 * Math.log10(spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2);
}

/**
 * The analogue prototypes of the Audio EQ Cookbook (R. Bristow-Johnson), at the frequency the bilinear
 * transform brings to `hertz`; as powers.
 */
function analogue({ shape, hertz: corner, gainDb, q }: Band, hertz: number, rateHz: number): number {
  const s = Math.tan((Math.PI * hertz) / rateHz) / Math.tan((Math.PI * corner) / rateHz);
  const a = 10 ** (gainDb / 40);
  const abs2 = (real: number, imaginary: number) => real ** 2 + imaginary ** 2;
  const below = abs2(1 - s * s, s / q);
  switch (shape) {
    case 'bell':
      return abs2(1 - s * s, (s * a) / q) / abs2(1 - s * s, s / (a * q));
    case 'notch':
      return (1 - s * s) ** 2 / below;
    case 'lowPass':
      return 1 / below;
    case 'highPass':
      return s ** 4 / below;
    case 'lowShelf':
      return a * a * (abs2(a - s * s, (Math.sqrt(a) * s) / q) / abs2(1 - a * s * s, (Math.sqrt(a) * s) / q));
    case 'highShelf':
      return a * a * (abs2(1 - a * s * s, (Math.sqrt(a) * s) / q) / abs2(a - s * s, (Math.sqrt(a) * s) / q));
  }
}

const bands: Band[] = [
  { shape: 'bell', hertz: 250, gainDb: -6, q: 1.4 },
  { shape: 'bell', hertz: 9000, gainDb: 12, q: 0.5 },
  { shape: 'lowShelf', hertz: 150, gainDb: 5, q: Math.SQRT1_2 },
  { shape: 'lowShelf', hertz: 400, gainDb: -12, q: 0.6 },
  { shape: 'highShelf', hertz: 6000, gainDb: -8, q: Math.SQRT1_2 },
  { shape: 'highShelf', hertz: 3000, gainDb: 10, q: 1 },
  { shape: 'lowPass', hertz: 12_000, gainDb: 0, q: Math.SQRT1_2 },
  { shape: 'highPass', hertz: 80, gainDb: 0, q: Math.SQRT1_2 },
  { shape: 'notch', hertz: 1000, gainDb: 0, q: 10 },
];

describe.each([44_100, 48_000, 96_000])('at %d Hz', (rateHz) => {
  test.each(bands)('a $shape at $hertz Hz does what its analogue prototype does, to 0.1 dB', (band) => {
    const size = 2 ** 17;
    const sections = [cookbook(band, rateHz)];
    const levelAt = measured(sections, size);
    let worst = 0;
    for (let bin = Math.ceil((20 * size) / rateHz); (bin * rateHz) / size <= 20_000; bin += 7) {
      const hertz = (bin * rateHz) / size;
      const wanted = 10 * Math.log10(analogue(band, hertz, rateHz));
      // Where next to nothing passes, rounding to 32 bits stands instead.
      if (wanted < -90) continue;
      worst = Math.max(
        worst,
        Math.abs(levelAt(bin) - wanted),
        Math.abs(responseDb(sections, hertz, rateHz) - wanted),
      );
    }
    expect(worst).toBeLessThan(0.1);
  });

  test.each([12, 24, 48])('a Butterworth high-pass of %d dB an octave', (slopeDb) => {
    const order = slopeDb / 6;
    const hertz = 100;
    const sections = butterworthHighPass(hertz, order, rateHz);
    const size = 2 ** 17;
    const levelAt = measured(sections, size);
    let worst = 0;
    for (let bin = Math.ceil((20 * size) / rateHz); (bin * rateHz) / size <= 20_000; bin += 3) {
      // S. Butterworth (1930): the power is 1 / (1 + (corner / frequency)^2n), in the warped frequency.
      const warped = Math.tan((Math.PI * bin) / size) / Math.tan((Math.PI * hertz) / rateHz);
      const wanted = -10 * Math.log10(1 + warped ** (-2 * order));
      if (wanted > -85) worst = Math.max(worst, Math.abs(levelAt(bin) - wanted));
    }
    expect(worst).toBeLessThan(0.1);
    expect(responseDb(sections, hertz, rateHz)).toBeCloseTo(-3.01, 2);
    expect(responseDb(sections, hertz / 2, rateHz)).toBeCloseTo(-10 * Math.log10(1 + 4 ** order), 0);
  });
});

/** What sox makes of the same cookbook formulae; its width in Q with the ending “q”. */
const inSox: readonly { name: string; args: string[]; band: Band }[] = [
  { name: 'equalizer', args: ['equalizer', '900', '1.5q', '7'], band: bandOf('bell', 900, 7, 1.5) },
  { name: 'bass', args: ['bass', '-6', '200', '0.8q'], band: bandOf('lowShelf', 200, -6, 0.8) },
  { name: 'treble', args: ['treble', '5', '5000', '0.9q'], band: bandOf('highShelf', 5000, 5, 0.9) },
  { name: 'bandreject', args: ['bandreject', '100', '20q'], band: bandOf('notch', 100, 0, 20) },
  { name: 'highpass', args: ['highpass', '-2', '80', '0.707q'], band: bandOf('highPass', 80, 0, 0.707) },
  { name: 'lowpass', args: ['lowpass', '-2', '9000', '1.2q'], band: bandOf('lowPass', 9000, 0, 1.2) },
];

function bandOf(shape: BandShape, hertz: number, gainDb: number, q: number): Band {
  return { shape, hertz, gainDb, q };
}

test.each(inSox)('differs from sox $name by less than −100 dB', ({ args, band }) => {
  const folder = scratchFolder();
  const audio = noise(48_000, -20, 8);
  const input = writeWav(path.join(folder, 'in.wav'), 48_000, [audio]);
  const output = path.join(folder, 'out.wav');
  execFileSync('sox', [input, '-e', 'floating-point', '-b', '32', output, ...args]);
  const theirs = decodeWithFfmpeg(output);
  const ours = audio.slice();
  kernels().sections(ours, [cookbook(band, 48_000)], new Float64Array(2));
  expect(theirs).toHaveLength(ours.length);
  const worst = ours.reduce((most, sample, i) => Math.max(most, Math.abs(sample - theirs[i])), 0);
  expect(20 * Math.log10(worst)).toBeLessThan(-100);
  expect(readFileSync(output).length).toBeGreaterThan(48_000);
});

test.each([
  { sections: butterworthHighPass(20, 8, 48_000), least: 20_000, most: 40_000 },
  { sections: butterworthHighPass(80, 4, 48_000), least: 2000, most: 6000 },
  { sections: [cookbook(bandOf('notch', 50, 0, 10), 48_000)], least: 30_000, most: 50_000 },
  { sections: [], least: 0, most: 0 },
])(
  'filters begun at rest are settled when they say so ($least to $most frames)',
  ({ sections, least, most }) => {
    const frames = settlingFrames(sections);
    expect(frames).toBeGreaterThanOrEqual(least);
    expect(frames).toBeLessThanOrEqual(most);
    if (sections.length === 0) return;
    // A voice that has stood at full scale, the worst there is, against one that began so many frames ago.
    const always = Float32Array.from({ length: 200_000 }, (_, i) => (Math.floor(i / 480) % 2 ? 1 : -1));
    const from = 150_000;
    const late = always.slice(from - frames);
    kernels().sections(always, sections, new Float64Array(2 * sections.length));
    kernels().sections(late, sections, new Float64Array(2 * sections.length));
    const seam = always
      .subarray(from)
      .reduce((worst, x, i) => Math.max(worst, Math.abs(x - late[frames + i])), 0);
    expect(20 * Math.log10(seam)).toBeLessThan(-120);
  },
);
