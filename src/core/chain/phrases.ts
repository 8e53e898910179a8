import { clamp, dbToPower, powerToDb } from '../base/units';
import type { Grid, Track } from './cells';
import type { PhrasesStep } from './chain';
import type { GainRule } from './gainTrack';
import { powersOf } from './ticks';

/** Ticks of a hop: a phrase does not change faster. */
const hopTicks = 64;
/** What is so far under the level wanted is no phrase of this voice: a neighbour that is heard, a breath. */
export const speechUnderDb = 16;
/** With less speech than this part of what is heard at once, the gain goes back to none. */
const leastSpeech = 0.1;

/**
 * A slow leveller: the RMS of the speech around a moment (a Hann window, pauses left out) is brought
 * towards one level, by no more than `mostDb`. It looks as far ahead as back and has no memory.
 */
export function phrasesRule(input: Track, step: PhrasesStep, grid: Grid): GainRule {
  const half = Math.ceil((step.seconds / 2) * (grid.rateHz / (grid.tickFrames * hopTicks)));
  const window = Float64Array.from(
    { length: 2 * half + 1 },
    (_, i) => 0.5 + 0.5 * Math.cos((Math.PI * (i - half)) / (half + 1)),
  );
  const full = window.reduce((sum, weight) => sum + weight, 0);
  const gate = dbToPower(step.towardsDb - speechUnderDb);
  const around = (hops: Float64Array, at: number) => {
    let speech = 0;
    let power = 0;
    for (let i = -half; i <= half; i++) {
      const weight = window[i + half];
      if (hops[at + i] <= gate) continue;
      speech += weight;
      power += weight * hops[at + i];
    }
    if (speech === 0) return 0;
    const gain = clamp(step.towardsDb - powerToDb(power / speech), -step.mostDb, step.mostDb);
    return gain * Math.min(1, speech / (leastSpeech * full));
  };
  return {
    noticed: powersOf([input], grid),
    // The first tick stands right before a cell: the window begins on a hop.
    before: (half + 1) * hopTicks - 1,
    after: (half + 1) * hopTicks,
    gainsDb: ([powers]) => {
      const hops = Float64Array.from({ length: powers.length / hopTicks }, (_, hop) => {
        let sum = 0;
        for (let i = hop * hopTicks; i < (hop + 1) * hopTicks; i++) sum += powers[i];
        return sum / hopTicks;
      });
      const centres = Float32Array.from({ length: hops.length - 2 * half }, (_, i) => around(hops, i + half));
      return betweenHops(centres, powers.length - 2 * (half + 1) * hopTicks + 1);
    },
  };
}

/**
 * Gains of ticks from those of hops, which stand in their middles, straight between them; the first hop's
 * last tick first.
 */
function betweenHops(centres: Float32Array, ticks: number): Float32Array {
  const gains = new Float32Array(ticks);
  for (let tick = 0; tick < ticks; tick++) {
    const place = (hopTicks - 1 + tick - (hopTicks - 1) / 2) / hopTicks;
    const hop = Math.floor(place);
    gains[tick] = centres[hop] + (place - hop) * (centres[hop + 1] - centres[hop]);
  }
  return gains;
}
