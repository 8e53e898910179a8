import { powerToDb, dbToPower } from '../base/units';

/** Loudness of a channel-weighted mean square, ITU-R BS.1770-5: −0.691 + 10 log10; −∞ for silence. */
export const loudnessOf = (meanSquare: number) => -0.691 + powerToDb(meanSquare);
const meanSquareOf = (lufs: number) => dbToPower(lufs + 0.691);

/** Means over every window of `length` hops that starts on a multiple of `step` hops. */
export function slidingMeans(hopMeans: Float64Array, length: number, step: number): Float64Array {
  const count = Math.max(0, Math.floor((hopMeans.length - length) / step) + 1);
  const means = new Float64Array(count);
  // Windows that overlap by whole steps share the sums of the steps.
  if (length % step !== 0 || step === 1 || step === length) {
    for (let i = 0; i < count; i++) {
      let sum = 0;
      for (let k = i * step; k < i * step + length; k++) sum += hopMeans[k];
      means[i] = sum / length;
    }
    return means;
  }
  const stepped = slidingMeans(hopMeans, step, step);
  const perWindow = length / step;
  for (let i = 0; i < count; i++) {
    let sum = 0;
    for (let k = i; k < i + perWindow; k++) sum += stepped[k];
    means[i] = sum / perWindow;
  }
  return means;
}

/**
 * The highest mean of any window of `length` hops: found with a running sum, then summed anew so that it is
 * exact.
 */
export function highestMean(hopMeans: Float64Array, length: number): number {
  let sum = 0;
  let highest = 0;
  let at = -1;
  for (let i = 0; i < hopMeans.length; i++) {
    sum += hopMeans[i];
    if (i >= length) sum -= hopMeans[i - length];
    if (i >= length - 1 && sum > highest) {
      highest = sum;
      at = i;
    }
  }
  let exact = 0;
  for (let i = at; at >= 0 && i > at - length; i--) exact += hopMeans[i];
  return exact / length;
}

function meanAbove(values: Float64Array, gate: number): number {
  let sum = 0;
  let count = 0;
  for (const value of values) {
    if (value > gate) {
      sum += value;
      count++;
    }
  }
  return count === 0 ? 0 : sum / count;
}

const absoluteGate = meanSquareOf(-70);

/**
 * Integrated loudness in LUFS of 400 ms block means (75 % overlap); −∞ when nothing passes the absolute gate.
 */
export function integratedLoudness(blockMeans: Float64Array): number {
  const ungated = meanAbove(blockMeans, absoluteGate);
  if (ungated === 0) return -Infinity;
  return loudnessOf(meanAbove(blockMeans, Math.max(absoluteGate, ungated * dbToPower(-10))));
}

/** Loudness range in LU of short-term (3 s) means, EBU Tech 3342; 0 when nothing passes the gate. */
export function loudnessRange(shortTermMeans: Float64Array): number {
  const ungated = meanAbove(shortTermMeans, absoluteGate);
  if (ungated === 0) return 0;
  const gate = Math.max(absoluteGate, ungated * dbToPower(-20));
  const passed = shortTermMeans.filter((value) => value > gate).sort();
  const at = (fraction: number) => passed[Math.round((passed.length - 1) * fraction)];
  return powerToDb(at(0.95)) - powerToDb(at(0.1));
}
