import { powerToDb, amplitudeToDb } from '../base/units';
import { PowerSpectrum } from '../dsp/spectrum';
import { Meter } from '../loudness/measure';
import { findSpeech } from '../speech/voiceActivity';

/** What a sound check measures. Levels are dBFS; −∞ where there is nothing. */
export interface SoundCheck {
  /** RMS of the silent stretch. */
  roomDbfs: number;
  hum: Hum | null;
  /** RMS of the speech alone, pauses left out. */
  speechDbfs: number;
  /** Integrated loudness of the normal reading, LUFS. */
  loudnessLufs: number;
  /** Highest sample peaks of the normal and of the loudest reading. */
  usualPeakDbfs: number;
  loudestPeakDbfs: number;
  clippedSamples: number;
  /** Mean of the samples of all three, as a fraction of full scale. */
  dcOffset: number;
  /** Speech level over room level, dB. */
  speechToNoiseDb: number;
  /**
   * Long-term average spectrum of the speech: level of each third-octave band against the speech level, dB.
   */
  tone: number[];
}

export interface Hum {
  /** 50 or 60. */
  mainsHz: number;
  /** Level of the mains tone and its harmonics together, dBFS. */
  levelDbfs: number;
  /** Which multiples of the mains stand out. */
  harmonics: number[];
}

/** Mid-frequencies of the third-octave bands of `SoundCheck.tone`, hertz (IEC 61260-1, base-ten series). */
export const toneBandsHz = Array.from({ length: 21 }, (_, i) => Math.round(1000 * 10 ** ((i - 10) / 10)));

/**
 * Measures a sound check from its three stretches of mono audio at one rate. Throws RangeError when the
 * silent stretch is shorter than a second.
 */
export function measureSoundCheck(
  silent: Float32Array,
  normal: Float32Array,
  loudest: Float32Array,
  rateHz: number,
): SoundCheck {
  if (silent.length < rateHz) throw new RangeError('The silent stretch is shorter than a second');
  const all = [silent, normal, loudest];
  const frames = all.reduce((sum, samples) => sum + samples.length, 0);
  const mean = all.reduce((sum, samples) => sum + total(samples), 0) / frames;
  const room = roomPower(silent, rateHz);
  const speech = speechOf(normal, rateHz);
  const speechPower = meanSquare(speech);
  const meter = new Meter(rateHz, 1);
  meter.process([normal]);
  const measured = meter.finish();
  const loud = peakOf(loudest);
  return {
    roomDbfs: powerToDb(room),
    hum: findHum(silent, rateHz),
    speechDbfs: powerToDb(speechPower),
    loudnessLufs: measured.integratedLufs,
    usualPeakDbfs: measured.samplePeakDbfs,
    loudestPeakDbfs: amplitudeToDb(Math.max(loud.peak, peakOf(normal).peak)),
    clippedSamples: measured.clippedSamples + loud.clipped,
    dcOffset: mean,
    speechToNoiseDb: powerToDb(speechPower) - powerToDb(room),
    tone: toneOf(speech, rateHz),
  };
}

const total = (samples: Float32Array) => samples.reduce((sum, value) => sum + value, 0);

function meanSquare(samples: Float32Array): number {
  let sum = 0;
  for (const value of samples) sum += value * value;
  return samples.length === 0 ? 0 : sum / samples.length;
}

/** RMS of a silent stretch of mono audio, dBFS; −∞ for digital silence. At least half a second is wanted. */
export const roomLevelDbfs = (silent: Float32Array, rateHz: number): number =>
  powerToDb(roomPower(silent, rateHz));

/** The median of half-second windows: a chair that creaks once is not the room. DC is taken off. */
function roomPower(samples: Float32Array, rateHz: number): number {
  const window = Math.round(rateHz / 2);
  const powers: number[] = [];
  for (let from = 0; from + window <= samples.length; from += window) {
    const part = samples.subarray(from, from + window);
    powers.push(Math.max(0, meanSquare(part) - (total(part) / window) ** 2));
  }
  powers.sort((a, b) => a - b);
  return powers[Math.floor(powers.length / 2)];
}

function peakOf(samples: Float32Array): { peak: number; clipped: number } {
  const meter = { peak: 0, clipped: 0 };
  for (const value of samples) {
    const magnitude = Math.abs(value);
    if (magnitude > meter.peak) meter.peak = magnitude;
    if (magnitude >= 32767 / 32768) meter.clipped++;
  }
  return meter;
}

/** Only what is spoken, one stretch after another. */
function speechOf(samples: Float32Array, rateHz: number): Float32Array {
  const stretches = findSpeech(samples, rateHz);
  const speech = new Float32Array(stretches.reduce((sum, { from, to }) => sum + to - from, 0));
  let at = 0;
  for (const { from, to } of stretches) {
    speech.set(samples.subarray(from, to), at);
    at += to - from;
  }
  return speech;
}

const longWindowSeconds = 0.34;
/** A tone stands out of the room's noise from this on. */
const humStandsOutDb = 12;
const harmonicsLookedAt = 8;

/**
 * Mains hum: at least two of the multiples of 50 or 60 Hz that stand 12 dB over the noise beside them (each
 * bin compared with the median of ±20 Hz). Null where there is none, and under −100 dBFS.
 */
export function findHum(samples: Float32Array, rateHz: number): Hum | null {
  const size = 2 ** Math.ceil(Math.log2(rateHz * longWindowSeconds));
  const powers = averageSpectrum(samples, size);
  const perBin = rateHz / size;
  const [best] = [50, 60]
    .map((mainsHz) => {
      const found = [];
      for (let k = 1; k <= harmonicsLookedAt; k++) {
        const level = toneLevel(powers, (mainsHz * k) / perBin, 20 / perBin);
        if (level > 0) found.push({ k, level });
      }
      const power = found.reduce((sum, { level }) => sum + level, 0);
      return { mainsHz, power, harmonics: found.map(({ k }) => k) };
    })
    .sort((a, b) => b.harmonics.length - a.harmonics.length || b.power - a.power);
  // Both have 300 and 600 Hz in common: one alone says nothing.
  if (best.harmonics.length < 2 || best.power < 1e-10) return null;
  return { mainsHz: best.mainsHz, levelDbfs: powerToDb(best.power), harmonics: best.harmonics };
}

function averageSpectrum(samples: Float32Array, size: number): Float64Array {
  const spectrum = new PowerSpectrum(size);
  const average = new Float64Array(size / 2 + 1);
  let count = 0;
  for (let from = 0; from + size <= samples.length || count === 0; from += size / 2) {
    const powers = spectrum.of(samples, from);
    for (let i = 0; i < powers.length; i++) average[i] += powers[i];
    count++;
  }
  return average.map((power) => power / count);
}

/** Power of a tone around a bin where it stands out, 0 where it does not. */
function toneLevel(powers: Float64Array, bin: number, reach: number): number {
  const centre = Math.round(bin);
  // Three bins hold a tone through a Hann window.
  let peak = 0;
  for (let i = centre - 2; i <= centre + 2; i++) peak = Math.max(peak, powers[i] ?? 0);
  const beside: number[] = [];
  for (let i = Math.max(0, centre - Math.round(reach)); i <= centre + Math.round(reach); i++) {
    if (Math.abs(i - centre) > 4) beside.push(powers[i] ?? 0);
  }
  beside.sort((a, b) => a - b);
  const noise = beside[Math.floor(beside.length / 2)] ?? 0;
  if (peak < noise * 10 ** (humStandsOutDb / 10)) return 0;
  let power = 0;
  for (let i = centre - 3; i <= centre + 3; i++) power += powers[i] ?? 0;
  return power;
}

/**
 * Third-octave levels against the whole, dB; bands beyond half the rate are −∞. Empty speech gives −∞
 * throughout.
 */
function toneOf(speech: Float32Array, rateHz: number): number[] {
  const size = 2 ** Math.ceil(Math.log2(rateHz * 0.08));
  const powers = averageSpectrum(speech, size);
  const sum = powers.reduce((all, power) => all + power, 0);
  return toneBandsHz.map((hertz) => {
    const low = (hertz * 10 ** -0.05 * size) / rateHz;
    const high = (hertz * 10 ** 0.05 * size) / rateHz;
    let band = 0;
    for (let bin = 1; bin < powers.length; bin++) {
      // A bin counts with the share of it that lies in the band.
      const share = Math.min(high, bin + 0.5) - Math.max(low, bin - 0.5);
      if (share > 0) band += powers[bin] * Math.min(1, share);
    }
    return sum === 0 ? -Infinity : powerToDb(band / sum);
  });
}
