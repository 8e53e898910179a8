import { PowerSpectrum } from './spectrum';
import { powerToDb } from '../base/units';

/**
 * Rows of a spectrogram: bands evenly spaced on a scale that is linear up to 1 kHz and logarithmic above
 * (mel), 40 Hz to `highestHz`.
 */
export const spectrogramRows = 128;
export const lowestDb = -110;
export const highestDb = -20;
const lowestHz = 40;
const highestHz = 16_000;

const toMel = (hertz: number) => 1127 * Math.log1p(hertz / 700);
const toHertz = (mel: number) => 700 * Math.expm1(mel / 1127);

/** The frequency at the lower edge of a row; row 0 is the lowest. */
export function rowHertz(row: number, rateHz: number): number {
  const high = toMel(Math.min(highestHz, rateHz / 2));
  const low = toMel(lowestHz);
  return toHertz(low + ((high - low) * row) / spectrogramRows);
}

/**
 * Window for a picture in which a column stands for so many frames: short enough to show clicks, long enough
 * to tell hum from a voice.
 */
export function spectrogramSize(framesPerColumn: number): number {
  return framesPerColumn <= 96 ? 512 : framesPerColumn <= 512 ? 1024 : 2048;
}

/**
 * Columns of a spectrogram, `columns` of them every `framesPerColumn` frames: one byte a row, 0 for
 * `lowestDb` and below, 255 for `highestDb` and above (dBFS of the loudest bin). Column i is centred on `from
 * + (i + ½) × framesPerColumn`; frames outside the audio count as silence. Layout: column after column.
 */
export function spectrogram(
  samples: Float32Array,
  rateHz: number,
  from: number,
  columns: number,
  framesPerColumn: number,
): Uint8Array<ArrayBuffer> {
  const size = spectrogramSize(framesPerColumn);
  const spectrum = new PowerSpectrum(size);
  const edges = Array.from({ length: spectrogramRows + 1 }, (_, row) =>
    Math.round((rowHertz(row, rateHz) * size) / rateHz),
  );
  const picture = new Uint8Array(columns * spectrogramRows);
  for (let column = 0; column < columns; column++) {
    const centre = from + Math.round((column + 0.5) * framesPerColumn);
    const powers = spectrum.of(samples, centre - size / 2);
    for (let row = 0; row < spectrogramRows; row++) {
      const first = Math.min(powers.length - 1, edges[row]);
      const last = Math.min(powers.length, Math.max(first + 1, edges[row + 1]));
      let loudest = 0;
      for (let bin = first; bin < last; bin++) if (powers[bin] > loudest) loudest = powers[bin];
      const share = (powerToDb(Math.max(loudest, 1e-15)) - lowestDb) / (highestDb - lowestDb);
      picture[column * spectrogramRows + row] = Math.max(0, Math.min(255, Math.round(share * 255)));
    }
  }
  return picture;
}
