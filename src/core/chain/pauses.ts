import { cookbook, type Band } from '../dsp/cookbook';
import { ticksOf, type Grid, type Track } from './cells';
import type { PausesStep } from './chain';
import { filtered } from './filterTrack';
import type { GainRule } from './gainTrack';
import { rmsLevelsOf, windowMaxima, withSlopes } from './ticks';

/** Levels are means over so much on either side. */
const levelSeconds = 0.005;
/** It opens over this long, all of it before what opens it. */
const openSeconds = 0.01;
/**
 * Between its two thresholds it stays as it was, but no longer than this: what it does depends on so much
 * of the past and no more. Then it is open, so that nothing faint is lost.
 */
const memorySeconds = 0.5;

/** Where speech lives: vowels, fricatives, and the hum of a “b” or an “m” (as voiceActivity.ts has them). */
export const speechBandsHz = [
  { low: 200, high: 4000 },
  { low: 2000, high: 8000 },
  { low: 80, high: 800 },
] as const;
/** A band that stands this much over the room opens it; it closes when all are under the second. */
const speechOnDb = 8;
const speechOffDb = 4.5;

const corner = (shape: Band['shape'], hertz: number) => ({ shape, hertz, gainDb: 0, q: Math.SQRT1_2 });

/** The bands of speech, a track each. */
export const speechBands = (input: Track, grid: Grid): Track[] =>
  speechBandsHz.map(({ low, high }) => {
    const high2 = cookbook(corner('lowPass', high), grid.rateHz);
    const low2 = cookbook(corner('highPass', low), grid.rateHz);
    // Where the band ends near half the rate there is nothing above it to take away.
    return filtered(input, high > 0.45 * grid.rateHz ? [low2, low2] : [low2, low2, high2, high2], grid);
  });

/**
 * A downward expander with two thresholds and look-ahead. Under the lower threshold the output goes down
 * by `ratio` dB for each of the input and never by more than the range; it is open again before what opens
 * it.
 */
export function pausesRule(input: Track, step: PausesStep, grid: Grid): GainRule {
  const ticks = (seconds: number) => ticksOf(seconds, grid);
  const reach = ticks(levelSeconds);
  const memory = ticks(memorySeconds);
  const [ahead, open] = [ticks(step.aheadMs / 1000), ticks(openSeconds)];
  const [hold, close] = [ticks(step.holdMs / 1000), ticks(step.closeMs / 1000)];
  const byRoom = step.by === 'speech' ? step.roomDb : null;
  const noticed = rmsLevelsOf(byRoom ? speechBands(input, grid) : [input], reach, reach, grid);
  const before = memory + hold + close;
  const after = ahead + open;
  return {
    noticed,
    before,
    after,
    gainsDb: (levels) => {
      const over = byRoom ? standingOut(levels, byRoom) : relativeTo(levels[0], step.thresholdDb);
      const closes = byRoom ? speechOffDb : -step.hysteresisDb;
      const opens = byRoom ? speechOnDb : 0;
      const isOpen = stateOf(over, opens, closes, memory);
      const held = windowMaxima(isOpen, hold, ahead);
      const gains = held.map((state, i) => {
        if (state > 0) return 0;
        // By the speech there is no level to go by: all the way down.
        const under = byRoom ? step.rangeDb : -over[memory + hold + i] * (step.ratio - 1);
        return -Math.min(step.rangeDb, Math.max(0, under));
      });
      withSlopes(gains, step.rangeDb / open, step.rangeDb / close);
      return gains.subarray(close, gains.length - open);
    },
  };
}

const relativeTo = (levels: Float32Array, db: number) => levels.map((level) => level - db);

/** How far the band that stands out most is over the room. */
const standingOut = (levels: readonly Float32Array[], roomDb: readonly number[]) =>
  levels[0].map((_, i) => Math.max(...levels.map((row, band) => row[i] - roomDb[band])));

/**
 * 1 where it is open, 0 where it is closed, for all but the first `memory` ticks: as the last of so many
 * that was over the upper threshold or under the lower one; open where there was none.
 */
function stateOf(over: Float32Array, opens: number, closes: number, memory: number): Float32Array {
  const states = new Float32Array(over.length - memory);
  let last = -Infinity;
  let state = 1;
  for (let i = 0; i < over.length; i++) {
    if (over[i] >= opens || over[i] < closes) {
      last = i;
      state = over[i] >= opens ? 1 : 0;
    }
    if (i >= memory) states[i - memory] = i - last > memory ? 1 : state;
  }
  return states;
}
