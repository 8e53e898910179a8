import { kernels } from '../dsp/kernels';
import { cepstraCount, cepstraFft, cepstraHop, cepstraWindow } from '../dsp/kernels/speech';

/** The rate at which speech is analysed. */
export const analysisRateHz = 16_000;
/** One frame of cepstra, speech activity or level, in samples at `analysisRateHz`: 10 ms. */
export const hopSamples = cepstraHop;
const windowSamples = cepstraWindow;
const fftSize = cepstraFft;
const bandCount = 32;
const lowestHz = 80;
const highestHz = 7600;
/** Added to a band's energy, so that room noise counts as nothing: made for speech of about −20 dBFS RMS. */
const energyFloor = 3e-3;
export const coefficients = cepstraCount;
const levelWeight = 0.3;

/** So many are made at a time, of an even number: half an hour of audio is not copied as a whole. */
const pieceFrames = 4096;

const toMel = (hertz: number) => 1127 * Math.log1p(hertz / 700);
const toHertz = (mel: number) => 700 * Math.expm1(mel / 1127);

interface Band {
  first: number;
  weights: Float64Array;
}

/** Triangular filters of height 1, evenly spaced in mel. */
function melBands(): Band[] {
  const edges = Array.from({ length: bandCount + 2 }, (_, i) =>
    toHertz(toMel(lowestHz) + ((toMel(highestHz) - toMel(lowestHz)) * i) / (bandCount + 1)),
  );
  const binHz = analysisRateHz / fftSize;
  return Array.from({ length: bandCount }, (_, band) => {
    const [low, centre, high] = edges.slice(band, band + 3);
    const first = Math.ceil(low / binHz);
    const last = Math.floor(high / binHz);
    const weights = Float64Array.from({ length: Math.max(1, last - first + 1) }, (_, i) => {
      const hertz = (first + i) * binHz;
      return Math.max(0, Math.min((hertz - low) / (centre - low), (high - hertz) / (high - centre)));
    });
    return { first, weights };
  });
}

/** Orthonormal cosine transform, the first coefficient (the level) weighted down. */
function cosineTable(): Float64Array {
  const table = new Float64Array(coefficients * bandCount);
  for (let k = 0; k < coefficients; k++) {
    const scale = Math.sqrt((k === 0 ? 1 : 2) / bandCount) * (k === 0 ? levelWeight : 1);
    for (let band = 0; band < bandCount; band++)
      table[k * bandCount + band] = scale * Math.cos((Math.PI * k * (band + 0.5)) / bandCount);
  }
  return table;
}

/** Windowed audio of less than −57 dBFS RMS at the level that is compared. */
const silentEnergy = windowSamples * 0.375 * 2e-6;

/**
 * Mel-frequency cepstra of audio at `analysisRateHz`: `coefficients` numbers every 10 ms, frame i for the 25
 * ms around sample (i + ½) × `hopSamples`. `gain` brings the speech to about −20 dBFS RMS. After S. Davis and
 * P. Mermelstein, 1980; sizes as given in the constants.
 */
export function melCepstra(samples: Float32Array, gain = 1): Float32Array {
  const frames = Math.floor(samples.length / hopSamples);
  const result = new Float32Array(frames * coefficients);
  const cosines = cosineTable();
  const window = Float64Array.from(
    { length: windowSamples },
    (_, i) => gain * (0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / windowSamples)),
  );
  const nothing = new Float32Array(coefficients);
  for (let band = 0; band < bandCount; band++)
    for (let k = 0; k < coefficients; k++)
      nothing[k] += cosines[k * bandCount + band] * Math.log(energyFloor);
  // The first window begins before the first sample.
  const before = (windowSamples - hopSamples) / 2;
  const tables = { window, bands: melBands(), cosines, energyFloor, silence: silentEnergy, nothing };
  for (let from = 0; from < frames; from += pieceFrames) {
    const piece = Math.min(pieceFrames, frames - from);
    const padded = new Float32Array(piece * hopSamples + windowSamples - hopSamples);
    const first = from * hopSamples - before;
    padded.set(samples.subarray(Math.max(0, first), first + padded.length), Math.max(0, -first));
    kernels().cepstra(padded, tables, result.subarray(from * coefficients, (from + piece) * coefficients));
  }
  return result;
}
