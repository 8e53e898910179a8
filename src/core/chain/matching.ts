import { clamp } from '../base/units';
import { cookbook, responseDb, type Band } from '../dsp/cookbook';
import { thirdOctavesHz } from '../dsp/longTermSpectrum';

/** No band of a match does more, dB. */
export const mostMatchDb = 6;
/** Where a voice is compared, in hertz: under it is rumble, over it is air. */
const compared = { from: 90, to: 13_000 } as const;
/** Bands so far under the loudest one are room, not voice, dB. */
const faintestDb = 55;
/** Third octaves on either side over which a difference is smoothed. */
const reach = 2;
/** Third octaves both have to have. */
const leastCommon = 9;

/** The bands of a match before their gains: an octave apart. */
const shapes: readonly Omit<Band, 'gainDb'>[] = [
  { shape: 'lowShelf', hertz: 130, q: 0.7 },
  { shape: 'bell', hertz: 240, q: 1 },
  { shape: 'bell', hertz: 440, q: 1 },
  { shape: 'bell', hertz: 880, q: 1 },
  { shape: 'bell', hertz: 1750, q: 1 },
  { shape: 'bell', hertz: 3500, q: 1 },
  { shape: 'bell', hertz: 7000, q: 1 },
  { shape: 'highShelf', hertz: 11_000, q: 0.7 },
];
/** Rounds over all bands; each is set to what is left for it. */
const rounds = 40;

/**
 * How much more a reference has in each third-octave band than a voice, level apart: smooth over two
 * octaves and within ±6 dB; null for bands in which one of them has no voice. Spectra as
 * `LongTermSpectrum` gives them, dB; null where the two have too little in common.
 */
export function spectrumDifference(
  own: readonly number[],
  reference: readonly number[],
): (number | null)[] | null {
  const loudest = [own, reference].map((bands) => Math.max(...bands));
  const differences = thirdOctavesHz.map((hertz, band) => {
    const [mine, theirs] = [own[band], reference[band]];
    const heard = mine > loudest[0] - faintestDb && theirs > loudest[1] - faintestDb;
    return heard && hertz >= compared.from && hertz <= compared.to ? theirs - mine : null;
  });
  const known = differences.filter((difference) => difference !== null);
  if (known.length < leastCommon) return null;
  const smooth = differences.map((known, band) =>
    known === null ? null : weightedAround(differences, band),
  );
  const mean = known.reduce((sum, difference) => sum + difference, 0) / known.length;
  return smooth.map((difference) =>
    difference === null ? null : clamp(difference - mean, -mostMatchDb, mostMatchDb),
  );
}

/** Mean of what is known around a band, nearer bands counting for more; null where nothing is. */
function weightedAround(values: readonly (number | null)[], band: number): number | null {
  let sum = 0;
  let weights = 0;
  for (let i = Math.max(0, band - reach); i <= Math.min(values.length - 1, band + reach); i++) {
    const value = values[i];
    if (value === null) continue;
    const weight = reach + 1 - Math.abs(i - band);
    sum += weight * value;
    weights += weight;
  }
  return weights === 0 ? null : sum / weights;
}

/**
 * Eight bands that bring a voice near a difference, which is one number for each third octave: gains in
 * half decibels, those that do nothing left out.
 */
export function bandsFor(difference: readonly (number | null)[], rateHz: number): Band[] {
  const bands = thirdOctavesHz.flatMap((hertz, band) => {
    const wanted = difference[band];
    return wanted === null || hertz > 0.45 * rateHz ? [] : [{ hertz, wanted }];
  });
  // In decibels the bands add up, and each grows with its gain: nearly enough.
  const each = shapes.map((shape) => {
    const section = cookbook({ ...shape, gainDb: mostMatchDb / 2 }, rateHz);
    return bands.map(({ hertz }) => responseDb([section], hertz, rateHz) / (mostMatchDb / 2));
  });
  const gains = new Float64Array(shapes.length);
  const left = bands.map(({ wanted }) => wanted);
  for (let round = 0; round < rounds; round++) {
    each.forEach((response, index) => {
      let along = 0;
      let power = 0;
      response.forEach((value, i) => {
        along += value * left[i];
        power += value * value;
      });
      const next = clamp(gains[index] + along / power, -mostMatchDb, mostMatchDb);
      response.forEach((value, i) => (left[i] -= value * (next - gains[index])));
      gains[index] = next;
    });
  }
  return shapes.flatMap((shape, index): Band[] => {
    const gainDb = Math.round(2 * gains[index]) / 2;
    return gainDb === 0 ? [] : [{ ...shape, gainDb }];
  });
}
