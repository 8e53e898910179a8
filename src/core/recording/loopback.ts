import { seededRandom } from '../base/random';

/**
 * The clicks of a loopback check: short bursts of noise at unequal distances, so that none can be taken for
 * another.
 */
const clickSeconds = 0.004;
const clickPlaces = [0.1, 0.45, 0.85, 1.3, 1.8];
const leastCorrelation = 0.3;
/** The output is quieter than full scale: this goes through headphones that may be on somebody's ears. */
const clickLevel = 0.35;

export const loopbackSeconds = 2.2;
/** A round trip longer than this is no round trip. */
export const longestRoundTripSeconds = 0.9;

/** What the check plays, mono. */
export function loopbackSignal(rateHz: number): Float32Array<ArrayBuffer> {
  const signal = new Float32Array(Math.round(loopbackSeconds * rateHz));
  const click = clickShape(rateHz);
  for (const place of clickPlaces) signal.set(click, Math.round(place * rateHz));
  return signal;
}

function clickShape(rateHz: number): Float32Array<ArrayBuffer> {
  const random = seededRandom(11);
  const frames = Math.round(clickSeconds * rateHz);
  return Float32Array.from(
    { length: frames },
    (_, i) => clickLevel * (random() * 2 - 1) * Math.sin((Math.PI * (i + 0.5)) / frames),
  );
}

export interface Loopback {
  /** From playing to hearing, in frames. */
  roundTripFrames: number;
  /** Similarity of what was heard to what was played, 0 to 1. */
  similarity: number;
}

/**
 * Finds the clicks in what was captured from the frame at which playing began, and returns the round trip;
 * null when they are not there, or do not agree with one another.
 */
export function findLoopback(captured: Float32Array, rateHz: number): Loopback | null {
  const click = clickShape(rateHz);
  const longest = Math.round(longestRoundTripSeconds * rateHz);
  const lags = Math.min(
    longest,
    captured.length - Math.round(clickPlaces[clickPlaces.length - 1] * rateHz) - click.length,
  );
  if (lags <= 0) return null;
  // Energy of the click and of what lies under it, so that a loud room is not taken for an answer.
  const energy = click.reduce((sum, value) => sum + value * value, 0);
  let best = { lag: -1, similarity: 0 };
  const starts = clickPlaces.map((place) => Math.round(place * rateHz));
  for (let lag = 0; lag < lags; lag++) {
    let similarity = 0;
    for (const start of starts) similarity += correlation(captured, start + lag, click, energy);
    similarity /= starts.length;
    // A cable can turn the polarity round.
    if (Math.abs(similarity) > best.similarity) best = { lag, similarity: Math.abs(similarity) };
  }
  if (best.similarity < leastCorrelation) return null;
  return { roundTripFrames: best.lag, similarity: best.similarity };
}

function correlation(captured: Float32Array, at: number, click: Float32Array, clickEnergy: number): number {
  let product = 0;
  let energy = 0;
  for (let i = 0; i < click.length; i++) {
    const value = captured[at + i];
    product += value * click[i];
    energy += value * value;
  }
  return energy < 1e-12 ? 0 : product / Math.sqrt(energy * clickEnergy);
}
