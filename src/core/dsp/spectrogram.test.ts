import { sine } from '../testing/signals';
import { highestDb, lowestDb, rowHertz, spectrogram, spectrogramRows } from './spectrogram';

const rateHz = 48_000;
const column = (picture: Uint8Array, index: number) =>
  picture.slice(index * spectrogramRows, (index + 1) * spectrogramRows);

test.each([50, 440, 3000, 12_000])('a tone of %d Hz lights the row it belongs to', (hertz) => {
  const picture = spectrogram(sine(rateHz, 1, hertz, -30), rateHz, 0, 40, 1000);
  const rows = column(picture, 20);
  const brightest = rows.indexOf(Math.max(...rows));
  // Low rows are narrower than a bin: the row of the bin counts.
  const binHz = rateHz / 2048;
  expect(rowHertz(brightest, rateHz)).toBeLessThanOrEqual(hertz + binHz);
  expect(rowHertz(brightest + 1, rateHz)).toBeGreaterThanOrEqual(hertz - binHz);
});

test('brightness is the level in dBFS', () => {
  // A sine of −30 dBFS peak is −33 dBFS RMS; a Hann window spreads it over three bins, the middle one holding
  // 4/6 of it.
  const picture = spectrogram(sine(rateHz, 1, 1500, -30), rateHz, 0, 40, 1000);
  const loudest = Math.max(...column(picture, 20));
  const expected = -33.01 + 10 * Math.log10(4 / 6);
  expect(Math.abs(lowestDb + (loudest / 255) * (highestDb - lowestDb) - expected)).toBeLessThan(0.8);
});

test('a click is in its own column, silence is dark, and outside the audio nothing is seen', () => {
  const samples = new Float32Array(48_000);
  samples[24_000] = 1;
  const picture = spectrogram(samples, rateHz, -4800, 600, 96);
  const bright = Array.from({ length: 600 }, (_, i) => Math.max(...column(picture, i)) > 0);
  const first = bright.indexOf(true);
  const last = bright.lastIndexOf(true);
  expect(Math.abs((first + last + 1) / 2 - (24_000 + 4800) / 96)).toBeLessThan(1);
  expect(last - first).toBeLessThan(8);
});
