import { chunksOf, concat, firstDifference, noise, sine } from '../testing/signals';
import { Biquad, highPass, lowPass } from './biquad';
import { PowerSpectrum } from './spectrum';

const rateHz = 48_000;

function gainDb(section: Biquad, hertz: number): number {
  const tone = sine(rateHz, 0.5, hertz, -6);
  const level = (samples: Float32Array) => {
    let sum = 0;
    for (let i = rateHz / 4; i < samples.length; i++) sum += samples[i] ** 2;
    return 10 * Math.log10(sum);
  };
  const before = level(tone);
  section.process(tone);
  return level(tone) - before;
}

/**
 * A second-order Butterworth filter is −3.01 dB at its corner and falls 12 dB an octave (textbook values).
 */
describe('Butterworth sections', () => {
  test.each([100, 1000, 5000])('low-pass at %d Hz', (hertz) => {
    expect(gainDb(new Biquad(lowPass(hertz, rateHz)), hertz)).toBeCloseTo(-3.01, 1);
    expect(gainDb(new Biquad(lowPass(hertz, rateHz)), hertz / 8)).toBeCloseTo(0, 1);
    expect(gainDb(new Biquad(lowPass(hertz, rateHz)), hertz * 4)).toBeLessThan(-23.5);
  });

  test.each([100, 1000, 5000])('high-pass at %d Hz', (hertz) => {
    expect(gainDb(new Biquad(highPass(hertz, rateHz)), hertz)).toBeCloseTo(-3.01, 1);
    expect(gainDb(new Biquad(highPass(hertz, rateHz)), hertz / 4)).toBeLessThan(-23.5);
  });

  test('any chunking gives the same; reset and clone do what they say', () => {
    const audio = noise(10_000, -20, 1);
    const whole = audio.slice();
    const section = new Biquad(highPass(200, rateHz));
    section.process(whole);
    section.reset();
    const chunks = [...chunksOf(audio, 700, 2)];
    for (const chunk of chunks) section.process(chunk);
    expect(firstDifference(concat(...chunks), whole)).toBe(-1);
    const [a, b] = [audio.slice(), audio.slice()];
    const copy = section.clone();
    section.process(a);
    copy.process(b);
    expect(firstDifference(a, b)).toBe(-1);
  });
});

describe('power spectrum', () => {
  const sum = (powers: Float64Array) => powers.reduce((all, power) => all + power, 0);

  /** Parseval: the powers of all bins are the mean square. */
  test('the bins of noise add up to its mean square, and a tone is found in its bin', () => {
    const spectrum = new PowerSpectrum(4096);
    const white = noise(4096, -20, 5);
    expect(10 * Math.log10(sum(spectrum.of(white, 0)))).toBeCloseTo(-20, 0);
    const bin = 200;
    const powers = spectrum.of(sine(rateHz, 0.1, (bin * rateHz) / 4096, -6), 0);
    expect(powers.indexOf(Math.max(...powers))).toBe(bin);
    // Beyond the ends of the audio there is silence.
    expect(sum(spectrum.of(new Float32Array(10), -100))).toBe(0);
  });
});
