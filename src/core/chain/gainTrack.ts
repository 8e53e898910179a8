import { dbToAmplitude } from '../base/units';
import { audioTrack, Cells, type Grid, type Track } from './cells';

/** How a gain comes from what is noticed of audio. */
export interface GainRule {
  /** What it looks at, in ticks. */
  readonly noticed: Track;
  /** Ticks it has to see before and after those it gives gains for. */
  readonly before: number;
  readonly after: number;
  /** Gains in dB of all ticks of a stretch but the first `before` and the last `after`. */
  gainsDb(noticed: readonly Float32Array[]): Float32Array;
}

/** What a step that turns up or down gives, and by how much it does, tick by tick. */
export interface Turned {
  readonly audio: Track;
  /** One row: dB, 0 for as it is. */
  readonly gainsDb: Track;
}

const gainCellsKept = 128;

/**
 * Audio that is turned up and down by a rule: all of it, or only the part of it that is in `band` (which
 * is taken off and added again, so that nothing is changed where the gain is 0 dB). All channels alike;
 * gains go straight from tick to tick.
 */
export function turned(input: Track, rule: GainRule, grid: Grid, band?: Track): Turned {
  const { cellFrames, cellTicks, tickFrames } = grid;
  // From the tick before the cell on, where the first one begins.
  const gains = new Cells(gainCellsKept, async (index) => {
    const first = index * cellTicks - 1;
    const ticks = rule.before + 1 + cellTicks + rule.after;
    return rule.gainsDb(await rule.noticed.read(first - rule.before, ticks));
  });
  const looked = rule.noticed.reach + Math.max(rule.before, rule.after) * tickFrames + cellFrames;
  const reach = Math.max(looked, input.reach, band?.reach ?? 0);
  const audio = audioTrack(input.channels, reach, grid, async (from) => {
    const levels = await gains.at(from / cellFrames);
    const samples = await input.read(from, cellFrames);
    if (levels.every((level) => level === 0)) return samples;
    const part = band ? await band.read(from, cellFrames) : null;
    samples.forEach((channel, index) => turn(channel, levels, tickFrames, part?.[index]));
    return samples;
  });
  const gainsDb: Track = {
    channels: 1,
    reach: looked,
    read: async (from, count) => {
      const values = new Float32Array(count);
      for (let index = Math.floor(from / cellTicks); index * cellTicks < from + count; index++) {
        const start = index * cellTicks;
        const [first, last] = [Math.max(from, start), Math.min(from + count, start + cellTicks)];
        const cell = await gains.at(index);
        values.set(cell.subarray(1 + first - start, 1 + last - start), first - from);
      }
      return [values];
    },
  };
  return { audio, gainsDb };
}

/** Multiplies in place by gains that go straight to that of each tick from the one before. */
function turn(samples: Float32Array, levels: Float32Array, tickFrames: number, part?: Float32Array) {
  let next = dbToAmplitude(levels[0]);
  for (let tick = 1, i = 0; tick < levels.length; tick++) {
    const gain = next;
    next = levels[tick] === levels[tick - 1] ? gain : dbToAmplitude(levels[tick]);
    const slope = (next - gain) / tickFrames;
    if (slope === 0 && gain === 1) {
      i += tickFrames;
      continue;
    }
    for (let step = 1; step <= tickFrames; step++, i++) {
      const at = gain + slope * step;
      samples[i] = part ? samples[i] + (at - 1) * part[i] : samples[i] * at;
    }
  }
}
