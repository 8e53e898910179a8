import { analysisRateHz, coefficients, hopSamples } from './cepstra';
import { matchFrom } from './warping';
import type { Speech } from './voiceActivity';

const shortestSeconds = 0.15;
const longestSeconds = 0.7;
const alonePauseSeconds = 0.15;
/** Mean change of the cepstra from one 10 ms to the next: a held vowel barely moves. */
const mostMovement = 1.6;

/**
 * Fillers as far as sound alone tells them: a short stretch by itself that holds one vowel (“uh”, “erm”).
 * Words of one held vowel look the same; so this is a hint, off unless asked for. `cepstra` as from
 * `melCepstra`, speech in samples.
 */
export function findFillers(cepstra: Float32Array, speech: readonly Speech[]): Speech[] {
  return speech.filter(({ from, to }, index) => {
    const seconds = (to - from) / analysisRateHz;
    const before = index === 0 ? 1 : (from - speech[index - 1].to) / analysisRateHz;
    const after = index === speech.length - 1 ? 1 : (speech[index + 1].from - to) / analysisRateHz;
    if (seconds < shortestSeconds || seconds > longestSeconds) return false;
    if (before < alonePauseSeconds || after < alonePauseSeconds) return false;
    return (
      movement(cepstra, Math.ceil(from / hopSamples) + 3, Math.floor(to / hopSamples) - 3) < mostMovement
    );
  });
}

function movement(cepstra: Float32Array, first: number, last: number): number {
  if (last - first < 4) return Infinity;
  let sum = 0;
  for (let frame = first + 1; frame < last; frame++) {
    let squares = 0;
    for (let k = 1; k < coefficients; k++)
      squares += (cepstra[frame * coefficients + k] - cepstra[(frame - 1) * coefficients + k]) ** 2;
    sum += Math.sqrt(squares);
  }
  return sum / (last - first - 1);
}

const stutterSeconds = { apart: 0.6, alike: 0.1 } as const;
const stutterCost = 5;

/**
 * Stutters: two onsets close together whose first 0.1 s sound the same, the first one cut short. Returns from
 * the first onset to the second.
 */
export function findStutters(cepstra: Float32Array, speech: readonly Speech[]): Speech[] {
  const alike = Math.round((stutterSeconds.alike * analysisRateHz) / hopSamples);
  return speech.flatMap(({ from, to }, index) => {
    const next = speech[index + 1];
    if (!next || next.from - from > stutterSeconds.apart * analysisRateHz) return [];
    if (next.to - next.from < to - from) return [];
    const match = matchFrom(
      cepstra,
      Math.round(from / hopSamples),
      Math.round(next.from / hopSamples),
      alike,
      stutterCost,
    );
    return match.length >= alike && match.cost < stutterCost ? [{ from, to: next.from }] : [];
  });
}
