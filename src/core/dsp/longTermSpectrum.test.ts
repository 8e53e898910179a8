import { chunksOf, noise, sine } from '../testing/signals';
import { LongTermSpectrum, thirdOctavesHz } from './longTermSpectrum';

const rateHz = 48_000;
const spectrumOf = (audio: Float32Array) => {
  const spectrum = new LongTermSpectrum(rateHz);
  spectrum.process(audio);
  return spectrum.finish();
};

test('the bands are those of IEC 61260-1: 1 kHz is one of them, ten of them are a decade', () => {
  expect(thirdOctavesHz.map((hertz) => Math.round(hertz))).toEqual([
    50, 63, 79, 100, 126, 158, 200, 251, 316, 398, 501, 631, 794, 1000, 1259, 1585, 1995, 2512, 3162, 3981,
    5012, 6310, 7943, 10000, 12589, 15849,
  ]);
});

test('a 1 kHz tone is in its band, with its RMS, and nowhere else', () => {
  const bands = spectrumOf(sine(rateHz, 3, 1000, -20));
  const own = thirdOctavesHz.findIndex((hertz) => Math.round(hertz) === 1000);
  expect(bands[own]).toBeCloseTo(-23.01, 1);
  bands.forEach((level, band) => {
    if (band !== own) expect(level).toBeLessThan(-60);
  });
});

test('white noise rises by a tenth of a decade a band', () => {
  const bands = spectrumOf(noise(rateHz * 30, -20, 4));
  // A band is 10^0.05 − 10^−0.05 of its middle wide, and half the rate holds all of the power.
  const expected = (hertz: number) =>
    -20 + 10 * Math.log10((hertz * (10 ** 0.05 - 10 ** -0.05)) / (rateHz / 2));
  bands.forEach((level, band) => {
    if (thirdOctavesHz[band] > 400)
      expect(Math.abs(level - expected(thirdOctavesHz[band]))).toBeLessThan(0.5);
  });
});

test('any chunks give the same, and silence is −∞', () => {
  const audio = noise(rateHz * 2, -20, 5);
  const chunked = new LongTermSpectrum(rateHz);
  for (const chunk of chunksOf(audio, 7000, 3)) chunked.process(chunk);
  expect(chunked.finish()).toEqual(spectrumOf(audio));
  expect(spectrumOf(new Float32Array(rateHz)).every((level) => level === -Infinity)).toBe(true);
  expect(new LongTermSpectrum(rateHz).finish()[0]).toBe(-Infinity);
});
