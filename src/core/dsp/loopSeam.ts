import { secondsToFrames } from '../base/units';
import { CrossCorrelation } from './crossCorrelation';

/** Where sound can go round: from `to` back to `from`, in samples. */
export interface LoopSeam {
  readonly from: number;
  readonly to: number;
  /**
   * How alike the two sides of the seam are, −1 to 1: twice their product by the sum of their powers, so that
   * a difference of level counts as well.
   */
  readonly likeness: number;
}

/** Fine enough for the beat and the harmony; the seam itself is found at the full rate. */
const coarseRateHz = 6000;
/** Long enough for a rhythm; a sixth of what is shorter. */
const coarseWindowSeconds = 1.5;
const shortestSeconds = 2;
const fineWindowSeconds = 0.08;
/** Ends are tried in steps of this, over the last part of the sound. */
const endStepSeconds = 0.25;
const mostEnds = 32;
const mostSearchSeconds = 20;
/** A long round is worth this much likeness against a short one, whose period would be heard. */
const lengthWorth = 0.15;

/**
 * Finds the seam at which sound goes round with the least to be heard: the place near its end that is most
 * like one near its beginning, longer rounds before shorter ones. `margin` samples before both are left for
 * the crossfade. Null for less than two seconds, or where the margins leave nothing.
 */
export function findLoopSeam(samples: Float32Array, rateHz: number, margin: number): LoopSeam | null {
  const factor = Math.max(1, Math.round(rateHz / coarseRateHz));
  const coarse = averaged(samples, factor);
  const coarseHz = rateHz / factor;
  if (samples.length < shortestSeconds * rateHz) return null;
  const window = Math.min(secondsToFrames(coarseWindowSeconds, coarseHz), Math.floor(coarse.length / 6));
  const lead = Math.max(window, Math.ceil(margin / factor));
  const free = coarse.length - 2 * lead - window;
  if (free <= 0) return null;
  const search = Math.min(Math.floor(0.4 * free), secondsToFrames(mostSearchSeconds, coarseHz)) + 1;
  const step = Math.max(1, secondsToFrames(endStepSeconds, coarseHz));
  const ends = Math.max(1, Math.min(mostEnds, Math.floor((0.25 * free) / step)));
  const head = coarse.subarray(lead - window, lead + search);
  const correlate = correlator(head, window);
  let best: LoopSeam | null = null;
  let bestWorth = -Infinity;
  for (let k = 0; k < ends; k++) {
    const to = coarse.length - k * step;
    const likeness = correlate(coarse.subarray(to - window, to));
    likeness.forEach((value, offset) => {
      const from = lead + offset;
      const worth = value + (lengthWorth * (to - from)) / coarse.length;
      if (worth <= bestWorth) return;
      bestWorth = worth;
      best = { from: from * factor, to: to * factor, likeness: value };
    });
  }
  return best && refined(samples, best, factor, secondsToFrames(fineWindowSeconds, rateHz), margin);
}

/** Means of `factor` samples. */
function averaged(samples: Float32Array, factor: number): Float32Array {
  const result = new Float32Array(Math.floor(samples.length / factor));
  for (let i = 0; i < result.length; i++) {
    let sum = 0;
    for (let j = 0; j < factor; j++) sum += samples[i * factor + j];
    result[i] = sum / factor;
  }
  return result;
}

/** The likeness of a window and every place of `head`, by way of their spectra. */
function correlator(head: Float32Array, window: number): (template: Float32Array) => Float32Array {
  const places = head.length - window + 1;
  const correlation = CrossCorrelation.holding(head.length + window);
  const headSpectrum = correlation.spectrumOf(head);
  const energies = new Float64Array(head.length + 1);
  for (let i = 0; i < head.length; i++) energies[i + 1] = energies[i] + head[i] ** 2;
  return (template) => {
    const lagged = correlation.lags(headSpectrum, correlation.spectrumOf(template));
    const energy = template.reduce((sum, value) => sum + value ** 2, 0);
    return Float32Array.from({ length: places }, (_, at) => {
      const both = (energy + energies[at + window] - energies[at]) / 2;
      return both > 1e-9 ? lagged[at] / both : 0;
    });
  };
}

/** The best place within two coarse steps of one that was found, at the full rate. */
function refined(
  samples: Float32Array,
  { from, to }: LoopSeam,
  factor: number,
  window: number,
  margin: number,
): LoopSeam {
  const end = Math.min(to, samples.length);
  let best: LoopSeam = { from, to: end, likeness: -1 };
  for (let start = from - 2 * factor; start <= from + 2 * factor; start++) {
    if (start < Math.max(window, margin) || start >= end) continue;
    let sum = 0;
    let left = 0;
    let right = 0;
    for (let i = 1; i <= window; i++) {
      const a = samples[start - i];
      const b = samples[end - i];
      sum += a * b;
      left += a * a;
      right += b * b;
    }
    const both = (left + right) / 2;
    const likeness = both > 1e-9 ? sum / both : 0;
    if (likeness > best.likeness) best = { from: start, to: end, likeness };
  }
  return best;
}
