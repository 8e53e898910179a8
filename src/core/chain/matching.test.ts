import { cookbook, responseDb, type Band } from '../dsp/cookbook';
import { LongTermSpectrum, thirdOctavesHz } from '../dsp/longTermSpectrum';
import { through } from '../testing/chains';
import { voiceAt48 } from '../testing/prompts';
import { equaliserSections } from './chained';
import { bandsFor, mostMatchDb, spectrumDifference } from './matching';
import { usualStep } from './settings';

const rateHz = 48_000;
const spectrumOf = (audio: Float32Array) => {
  const spectrum = new LongTermSpectrum(rateHz);
  spectrum.process(audio);
  return spectrum.finish();
};

test('a voice that another microphone has coloured is brought back to within 1 dB in every octave of speech', async () => {
  const { audio } = voiceAt48('it', 8, 2);
  const colour: Band[] = [
    { shape: 'lowShelf', hertz: 180, gainDb: 4, q: 0.7 },
    { shape: 'bell', hertz: 1200, gainDb: -3, q: 0.8 },
    { shape: 'highShelf', hertz: 5000, gainDb: -4, q: 0.7 },
  ];
  const coloured = await through(audio, [{ ...usualStep('equaliser', 'a'), bands: colour }], rateHz);
  const difference = spectrumDifference(spectrumOf(coloured), spectrumOf(audio));
  const bands = bandsFor(difference ?? [], rateHz);
  expect(bands.length).toBeGreaterThan(2);
  const both = equaliserSections({ bands: [...colour, ...bands] }, rateHz);
  const octaves = [125, 250, 500, 1000, 2000, 4000];
  const levels = octaves.map((hertz) => responseDb(both, hertz, rateHz));
  const middle = levels.reduce((sum, level) => sum + level, 0) / levels.length;
  for (const level of levels) expect(Math.abs(level - middle)).toBeLessThan(1);
});

test('the same voice needs nothing, louder or softer', () => {
  const { audio } = voiceAt48('en', 4, 2);
  const own = spectrumOf(audio);
  const louder = own.map((level) => level + 9);
  expect(bandsFor(spectrumDifference(own, louder) ?? [1], rateHz)).toEqual([]);
});

test('no band does more than 6 dB, however far apart the two are', () => {
  const flat = thirdOctavesHz.map(() => -40);
  const steep = thirdOctavesHz.map((_, band) => -60 + 2 * band);
  const difference = spectrumDifference(flat, steep);
  expect(Math.max(...(difference ?? []).map((level) => Math.abs(level ?? 0)))).toBeLessThanOrEqual(
    mostMatchDb,
  );
  const bands = bandsFor(difference ?? [], rateHz);
  for (const { gainDb } of bands) expect(Math.abs(gainDb)).toBeLessThanOrEqual(mostMatchDb);
  const sections = bands.map((band) => cookbook(band, rateHz));
  // Up where the reference has more, down where it has less.
  expect(responseDb(sections, 8000, rateHz)).toBeGreaterThan(3);
  expect(responseDb(sections, 120, rateHz)).toBeLessThan(-3);
});

test('silence, or next to nothing in common, is no reference', () => {
  const silent = thirdOctavesHz.map(() => -Infinity);
  const voice = thirdOctavesHz.map(() => -40);
  expect(spectrumDifference(voice, silent)).toBeNull();
  const bass = thirdOctavesHz.map((hertz) => (hertz < 300 ? -30 : -120));
  expect(spectrumDifference(voice, bass)).toBeNull();
});
