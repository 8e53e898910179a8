import { amplitudeToDb, powerToDb } from '../base/units';
import { slidingMeans } from './gating';
import { digitalSilence } from './room';

/** A stretch of the measured audio, in seconds from its start. */
export interface TimeRange {
  from: number;
  to: number;
}

/** A loud place: where, and the sample peak there in dBFS. */
export interface LoudPlace {
  at: number;
  dbfs: number;
}

const mostPlaces = 100;
/** Loud places nearer than this are one. */
const apartSeconds = 0.5;
const shortestSilenceSeconds = 0.05;

/** The loudest places, loudest first, from the sample peak of each hop. */
export function loudestPlaces(hopPeaks: ArrayLike<number>, hopSeconds: number): LoudPlace[] {
  const group = Math.max(1, Math.round(apartSeconds / hopSeconds));
  const places: LoudPlace[] = [];
  for (let from = 0; from < hopPeaks.length; from += group) {
    let best = from;
    for (let hop = from; hop < Math.min(hopPeaks.length, from + group); hop++)
      if (hopPeaks[hop] > hopPeaks[best]) best = hop;
    if (hopPeaks[best] > 0) places.push({ at: best * hopSeconds, dbfs: amplitudeToDb(hopPeaks[best]) });
  }
  return places.sort((a, b) => b.dbfs - a.dbfs || a.at - b.at).slice(0, mostPlaces);
}

/** Runs of at least 50 ms of digital silence, in order of time. */
export function silentStretches(hopMeans: Float64Array, hopSeconds: number): TimeRange[] {
  const stretches: TimeRange[] = [];
  for (let from = 0; from < hopMeans.length; from++) {
    if (hopMeans[from] > digitalSilence) continue;
    let to = from;
    while (to < hopMeans.length && hopMeans[to] <= digitalSilence) to++;
    if ((to - from) * hopSeconds >= shortestSilenceSeconds - 1e-9)
      stretches.push({ from: from * hopSeconds, to: to * hopSeconds });
    from = to;
  }
  return stretches;
}

export const histogramFloorDb = -90;

/**
 * How long the audio is at each level: entry i is the share, 0 to 1, of 50 ms windows whose RMS lies in
 * [floor + i, floor + i + 1) dBFS; what is under the floor is left out, what is over 0 counts as the last.
 */
export function levelHistogram(hopMeans: Float64Array): number[] {
  const windows = slidingMeans(hopMeans, 5, 5);
  const bins = new Array<number>(-histogramFloorDb).fill(0);
  for (const mean of windows) {
    const bin = Math.floor(powerToDb(mean) - histogramFloorDb);
    if (bin >= 0) bins[Math.min(bin, bins.length - 1)] += 1 / windows.length;
  }
  return bins;
}
