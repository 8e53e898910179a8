import { highPass } from '../dsp/biquad';
import { amplitudeToDb } from '../base/units';
import { FilteredBand } from './filteredBand';
import { hopLevels, levelsOf, meanLevel, percentile } from './levels';
import type { Speech } from './voiceActivity';

/** Something that is heard where nobody speaks, in samples: [from, to). */
export interface PauseSound {
  from: number;
  to: number;
  /** RMS in dBFS; of a click the peak. */
  levelDbfs: number;
  /** How far it stands over the room around it. */
  overRoomDb: number;
}

/** The stretches between speech, and those before the first and after the last word. */
export function pausesBetween(speech: readonly Speech[], frames: number): Speech[] {
  const pauses: Speech[] = [];
  let at = 0;
  for (const { from, to } of speech) {
    if (from > at) pauses.push({ from: at, to: from });
    at = to;
  }
  if (frames > at) pauses.push({ from: at, to: frames });
  return pauses;
}

const clickHighPassHz = 1500;
/** A click rises out of what is around it by this much within a few milliseconds, and is over as soon. */
const clickOverDb = 14;
const lowestClickDbfs = -62;
const longestClickSeconds = 0.03;
const clickHopSeconds = 0.002;
/** The ends of words are not looked at: they click by themselves. */
const beyondWordSeconds = 0.03;

/**
 * Clicks and mouth noise in pauses: bursts of at most 30 ms above 1.5 kHz that stand `clickOverDb` over the
 * 100 ms around them. Claps beside the microphone are much louder and belong to `claps.ts`; what is over −22
 * dBFS is left to them.
 */
export function findClicks(samples: Float32Array, speech: readonly Speech[], rateHz: number): PauseSound[] {
  const steep = highPass(clickHighPassHz, rateHz);
  const hop = Math.round(clickHopSeconds * rateHz);
  const levels = levelsOf(new FilteredBand(samples, [steep, steep], hop).powers);
  const around = Math.round(0.05 / clickHopSeconds);
  const longest = Math.round(longestClickSeconds / clickHopSeconds);
  const beyond = Math.round(beyondWordSeconds / clickHopSeconds);
  const clicks: PauseSound[] = [];
  for (const pause of pausesBetween(speech, samples.length)) {
    const first = Math.ceil(pause.from / hop) + beyond;
    const last = Math.floor(pause.to / hop) - beyond;
    for (let i = first; i < last; i++) {
      // Most of a pause is no louder than just before and after: only what is has its room looked up.
      const beside = Math.min(levels[Math.max(0, i - 12)], levels[Math.min(levels.length - 1, i + 20)]);
      if (levels[i] - beside < clickOverDb / 2) continue;
      const room = percentile(levels.subarray(Math.max(0, i - around), i + around), 0.5);
      if (levels[i] - room < clickOverDb) continue;
      let end = i;
      while (end < last && levels[end] - room >= clickOverDb / 2) end++;
      const from = Math.max(0, (i - 1) * hop);
      const to = Math.min(samples.length, (end + 1) * hop);
      if (end - i <= longest) {
        let peak = 0;
        for (let k = from; k < to; k++) peak = Math.max(peak, Math.abs(samples[k]));
        const levelDbfs = amplitudeToDb(Math.max(peak, 1e-6));
        if (levelDbfs > lowestClickDbfs && levelDbfs < -22)
          clicks.push({ from, to, levelDbfs, overRoomDb: levels[i] - room });
      }
      i = end;
    }
  }
  return clicks;
}

const breathBand = { lowHz: 500 };
const breathHopSeconds = 0.01;
const shortestBreathSeconds = 0.12;
const longestBreathSeconds = 1.2;
const breathOverDb = 6;

/**
 * Breaths: swells of 0.12 to 1.2 s above 500 Hz in a pause, at least 6 dB over the room, without a click's
 * edge: no 10 ms step rises by more than 15 dB.
 */
export function findBreaths(samples: Float32Array, speech: readonly Speech[], rateHz: number): PauseSound[] {
  const hop = Math.round(breathHopSeconds * rateHz);
  const band = new FilteredBand(samples, [highPass(breathBand.lowHz, rateHz)], hop);
  const levels = levelsOf(band.powers);
  const full = hopLevels(samples, hop);
  const room = percentile(levels, 0.1) + 1.5;
  const breaths: PauseSound[] = [];
  for (const pause of pausesBetween(speech, samples.length)) {
    const last = Math.floor(pause.to / hop);
    for (let i = Math.ceil(pause.from / hop); i < last; i++) {
      if (levels[i] - room < breathOverDb) continue;
      let end = i;
      let quiet = 0;
      let steepest = 0;
      while (end < last && quiet < 4) {
        if (end > i) steepest = Math.max(steepest, levels[end] - levels[end - 1]);
        quiet = levels[end] - room < breathOverDb / 2 ? quiet + 1 : 0;
        end++;
      }
      const seconds = (end - quiet - i) * breathHopSeconds;
      if (seconds >= shortestBreathSeconds && seconds <= longestBreathSeconds && steepest < 15) {
        const stretch = full.subarray(i, end - quiet);
        const level = meanLevel(stretch);
        breaths.push({
          from: Math.max(pause.from, (i - 2) * hop),
          to: Math.min(pause.to, (end - quiet + 2) * hop),
          levelDbfs: level,
          overRoomDb: meanLevel(levels.subarray(i, end - quiet)) - room,
        });
      }
      i = end;
    }
  }
  return breaths;
}
