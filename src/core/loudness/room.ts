import { powerToDb } from '../base/units';
import { slidingMeans } from './gating';

/** Below this mean square (−120 dBFS) a window is digital silence: no microphone in a room is that quiet. */
export const digitalSilence = 1e-12;

export interface Room {
  /** RMS of the pauses in dBFS; −∞ when every pause is digital silence. */
  noiseFloorDbfs: number;
  /**
   * Room tone before the first and after the last speech, in hops. Both 0 when speech cannot be told from
   * room.
   */
  headHops: number;
  tailHops: number;
  digitalSilenceHops: number;
  /** RMS of the hops in which somebody speaks, dBFS; −∞ when speech cannot be told from room. */
  speechDbfs: number;
  /** The longest stretch without speech between the first word and the last: hops [from, to). */
  longestPause: { from: number; to: number };
  /**
   * The middle one of the pauses of at least 0.3 s between the first word and the last, in hops: how the
   * reading is spaced. 0 when there is none.
   */
  usualPauseHops: number;
}

/** Shorter gaps are inside words. */
const shortestPauseHops = 30;

/**
 * Noise floor, head and tail from mean squares of 10 ms hops.
 *
 * Reference: the 5th percentile of 100 ms windows, digital silence left out. A pause is a run of at least 200
 * ms whose 50 ms means stay within 6 dB of the reference, its outer 50 ms not counted; the noise floor is the
 * RMS over all pauses. Speech begins where two 10 ms hops in a row exceed the noise floor by 10 dB (never
 * less than −60 dBFS). Windows and percentile are *common practice*; no standard defines them.
 */
export function measureRoom(hopMeans: Float64Array): Room {
  let silent = 0;
  for (const mean of hopMeans) if (mean <= digitalSilence) silent++;
  const floor = noiseFloor(hopMeans);
  const threshold = Math.max(floor * 10, 1e-6);
  const isSpeech = (hop: number) => hopMeans[hop] > threshold && (hopMeans[hop + 1] ?? 0) > threshold;
  let head = 0;
  while (head < hopMeans.length && !isSpeech(head)) head++;
  const found = head < hopMeans.length;
  let last = hopMeans.length - 2;
  while (last >= 0 && !isSpeech(last)) last--;
  const end = Math.max(head, last + 2);
  return {
    ...spoken(hopMeans, isSpeech, found ? head : hopMeans.length, end),
    noiseFloorDbfs: powerToDb(floor),
    headHops: found ? head : 0,
    tailHops: found ? Math.max(0, hopMeans.length - (last + 2)) : 0,
    digitalSilenceHops: silent,
  };
}

/** Level of the speech between the first and the last word, and the longest pause there. */
function spoken(
  hopMeans: Float64Array,
  isSpeech: (hop: number) => boolean,
  from: number,
  to: number,
): Pick<Room, 'speechDbfs' | 'longestPause' | 'usualPauseHops'> {
  const pauses: number[] = [];
  let sum = 0;
  let hops = 0;
  let longest = { from, to: from };
  let pauseFrom = -1;
  for (let hop = from; hop < to; hop++) {
    if (isSpeech(hop) || (hop > from && isSpeech(hop - 1))) {
      sum += hopMeans[hop];
      hops++;
      if (pauseFrom >= 0 && hop - pauseFrom >= shortestPauseHops) pauses.push(hop - pauseFrom);
      pauseFrom = -1;
    } else {
      if (pauseFrom < 0) pauseFrom = hop;
      if (hop + 1 - pauseFrom > longest.to - longest.from) longest = { from: pauseFrom, to: hop + 1 };
    }
  }
  pauses.sort((a, b) => a - b);
  return {
    speechDbfs: powerToDb(hops === 0 ? 0 : sum / hops),
    longestPause: longest,
    usualPauseHops: pauses[Math.floor(pauses.length / 2)] ?? 0,
  };
}

/**
 * Mean square of the pauses. A recording without contrast (room tone alone, a steady tone) is one long pause.
 */
function noiseFloor(hopMeans: Float64Array): number {
  const windows = slidingMeans(hopMeans, 10, 1)
    .filter((mean) => mean > digitalSilence)
    .sort();
  if (windows.length === 0) return 0;
  const limit = windows[Math.floor((windows.length - 1) * 0.05)] * 10 ** 0.6;
  const smooth = slidingMeans(hopMeans, 5, 1);
  let sum = 0;
  let hops = 0;
  for (let from = 0; from < smooth.length;) {
    let to = from;
    while (to < smooth.length && smooth[to] <= limit && hopMeans[to] > digitalSilence) to++;
    // Hops from … to + 3 are covered by quiet windows; the outer five may still hold the end of a word.
    if (to - from + 4 >= 20) {
      for (let hop = from + 5; hop < to - 1; hop++) {
        sum += hopMeans[hop];
        hops++;
      }
    }
    from = to + 1;
  }
  return hops === 0 ? windows[Math.floor((windows.length - 1) * 0.05)] : sum / hops;
}
