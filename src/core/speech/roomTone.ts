import { PowerSpectrum } from '../dsp/spectrum';
import { hopLevels, meanLevel, percentile } from './levels';
import { pausesBetween } from './pauseSounds';
import type { Speech } from './voiceActivity';

/** A stretch fit to be room tone, in samples: [from, to). */
export interface RoomTone {
  from: number;
  to: number;
  /** RMS in dBFS. */
  levelDbfs: number;
}

const shortestSeconds = 1;
const longestSeconds = 6;
const hopSeconds = 0.02;
/** Kept away from words: they ring on, and a breath comes before them. */
const afterWordSeconds = 0.25;
const beforeWordSeconds = 0.15;
/** A steady room stays within this of its own median, hop by hop. */
const steadyDb = 7;
const humBands = [50, 60, 100, 120, 150, 180] as const;

/** Hum under this is no hum: single bins of noise differ by as much. */
const leastHumDb = 15;

/** The part of a stretch's power in narrow bands at mains frequency, in dB over what is beside them. */
function humDb(samples: Float32Array, from: number, to: number, rateHz: number): number {
  const size = 2 ** Math.floor(Math.log2(Math.min(to - from, rateHz)));
  const powers = new PowerSpectrum(size).of(samples, from);
  const at = (hertz: number) => powers[Math.round((hertz * size) / rateHz)] ?? 0;
  const excess = humBands.map((hertz) => at(hertz) / (at(hertz - 15) + at(hertz + 15) + 1e-15));
  return Math.max(leastHumDb, 10 * Math.log10(Math.max(...excess) + 1e-6));
}

/**
 * The quietest stretch of at least a second in which nobody speaks or breathes and the room does not change:
 * every 20 ms stay within 7 dB of the median, and hum is no stronger in one half than in the other. Null when
 * there is none; `speech` in samples.
 */
export function findRoomTone(
  samples: Float32Array,
  speech: readonly Speech[],
  rateHz: number,
): RoomTone | null {
  const hop = Math.round(hopSeconds * rateHz);
  const levels = hopLevels(samples, hop);
  let best: RoomTone | null = null;
  for (const pause of pausesBetween(speech, samples.length)) {
    const first = pause.from === 0 ? 0 : Math.ceil((pause.from + afterWordSeconds * rateHz) / hop);
    const last =
      pause.to === samples.length ? levels.length : Math.floor((pause.to - beforeWordSeconds * rateHz) / hop);
    for (const stretch of steadyStretches(levels, first, last)) {
      const from = stretch.from * hop;
      const to = stretch.to * hop;
      const levelDbfs = meanLevel(levels.subarray(stretch.from, stretch.to));
      if (levelDbfs <= -110 || (best && levelDbfs >= best.levelDbfs)) continue;
      const middle = from + ((to - from) >> 1);
      const [hum, laterHum] = [humDb(samples, from, middle, rateHz), humDb(samples, middle, to, rateHz)];
      if (Math.abs(hum - laterHum) > 6) continue;
      best = { from, to, levelDbfs };
    }
  }
  return best;
}

/** Runs of hops near their own median, cut to at most `longestSeconds`. */
function steadyStretches(levels: Float32Array, first: number, last: number): Speech[] {
  const shortest = Math.round(shortestSeconds / hopSeconds);
  const longest = Math.round(longestSeconds / hopSeconds);
  const stretches: Speech[] = [];
  if (last - first < shortest) return stretches;
  const usual = percentile(levels.subarray(first, last), 0.3);
  for (let from = first; from + shortest <= last;) {
    let to = from;
    while (to < last && to - from < longest && Math.abs(levels[to] - usual) < steadyDb) to++;
    if (to - from >= shortest) stretches.push({ from, to });
    from = Math.max(to, from) + 1;
  }
  return stretches;
}
