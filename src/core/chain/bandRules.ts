import { clamp, dbToAmplitude } from '../base/units';
import { cookbook } from '../dsp/cookbook';
import { ticksOf, type Grid, type Track } from './cells';
import type { PlosivesStep, SibilanceStep } from './chain';
import { filtered } from './filterTrack';
import type { GainRule } from './gainTrack';
import { rmsLevelsOf, withSlopes } from './ticks';

/** What a step listens to. */
const heardBand = (input: Track, shape: 'lowPass' | 'highPass', hertz: number, grid: Grid): Track =>
  filtered(input, [cookbook({ shape, hertz, gainDb: 0, q: Math.SQRT1_2 }, grid.rateHz)], grid);

/**
 * The part of audio that a step takes away, such that all of it less by a gain is the audio through a
 * shelf: with 0 dB the recording to the bit, with `mostDb` the shelf of so much. A shelf turns phases by
 * little, so what lies between sounds as it should; a band cut out by a filter would not cancel.
 */
export function shelvedPart(
  input: Track,
  { shape, hertz, mostDb }: { shape: 'lowShelf' | 'highShelf'; hertz: number; mostDb: number },
  grid: Grid,
): Track {
  const shelf = cookbook({ shape, hertz, gainDb: -mostDb, q: Math.SQRT1_2 }, grid.rateHz);
  const through = filtered(input, [shelf], grid);
  const scale = 1 / (1 - dbToAmplitude(-mostDb));
  return {
    channels: input.channels,
    reach: through.reach,
    read: async (from, count) => {
      const [audio, less] = [await input.read(from, count), await through.read(from, count)];
      audio.forEach((samples, channel) => {
        const kept = less[channel];
        for (let i = 0; i < count; i++) samples[i] = (samples[i] - kept[i]) * scale;
      });
      return audio;
    },
  };
}

interface Times {
  readonly levelSeconds: number;
  readonly downSeconds: number;
  readonly backSeconds: number;
}

const hissTimes: Times = { levelSeconds: 0.0025, downSeconds: 0.003, backSeconds: 0.05 };
/** dB taken off for each dB over the threshold. */
const hissSlope = 0.75;
/** It is an “s” where the band is within this of all there is, dB: fully, and not at all. */
const hissFully = -7;
const hissNot = -12;

/** 1 where `level` is at `fully`, 0 at `not`, straight between. */
const share = (level: number, fully: number, not: number) => clamp((level - not) / (fully - not), 0, 1);

/**
 * A split-band de-esser: the band goes down where it is loud and is most of what is heard, as in an “s”;
 * down beforehand, so that no edge of it is left.
 */
export function sibilanceRule(input: Track, step: SibilanceStep, grid: Grid): GainRule {
  const band = heardBand(input, 'highPass', step.hertz, grid);
  return bandRule([band, input], hissTimes, step.mostDb, grid, (hiss, all) =>
    hiss.map((level, i) =>
      clamp(
        (level - step.thresholdDb) * hissSlope * share(level - all[i], hissFully, hissNot),
        0,
        step.mostDb,
      ),
    ),
  );
}

const puffTimes: Times = { levelSeconds: 0.01, downSeconds: 0.015, backSeconds: 0.06 };
/** A puff is over in less than this; what lasts is the voice. The usual level is looked for as far around. */
const aroundSeconds = 1;
const usualEveryTicks = 64;
const usualRank = 0.75;
/** It is a puff where the low band is within this of all there is, dB. */
const puffFully = -4;
const puffNot = -9;

/**
 * The low band goes down where it stands out from its own usual level (the 75th percentile of a second on
 * either side) and is most of what is heard.
 */
export function plosivesRule(input: Track, step: PlosivesStep, grid: Grid): GainRule {
  const band = heardBand(input, 'lowPass', step.hertz, grid);
  const around = Math.ceil(ticksOf(aroundSeconds, grid) / usualEveryTicks) * usualEveryTicks;
  const rule = bandRule([band, input], puffTimes, step.mostDb, grid, (low, all) => {
    const usual = usualLevels(low, around);
    return low.subarray(around, low.length - around).map((level, i) => {
      const over = level - usual[Math.floor(i / usualEveryTicks)] - step.overDb;
      return clamp(over * share(level - all[i + around], puffFully, puffNot), 0, step.mostDb);
    });
  });
  return { ...rule, before: rule.before + around, after: rule.after + around };
}

/** The usual level around every 64th value that has all of it. */
function usualLevels(levels: Float32Array, around: number): Float32Array {
  const hops = levels.filter((_, i) => i % usualEveryTicks === 0);
  const reach = around / usualEveryTicks;
  return Float32Array.from({ length: Math.max(0, hops.length - 2 * reach) }, (_, i) => {
    const sorted = hops.slice(i, i + 2 * reach + 1).sort();
    return sorted[Math.floor(sorted.length * usualRank)];
  });
}

/** A rule from the levels of the band and of all there is; `taken` says what is taken off, dB. */
function bandRule(
  inputs: readonly [band: Track, all: Track],
  { levelSeconds, downSeconds, backSeconds }: Times,
  mostDb: number,
  grid: Grid,
  taken: (band: Float32Array, all: Float32Array) => Float32Array,
): GainRule {
  const reach = ticksOf(levelSeconds, grid);
  const [down, back] = [ticksOf(downSeconds, grid), ticksOf(backSeconds, grid)];
  return {
    noticed: rmsLevelsOf(inputs, reach, reach, grid),
    before: back,
    after: down,
    gainsDb: ([band, all]) => {
      const off = taken(band, all);
      withSlopes(off, mostDb / down, mostDb / back);
      return off.subarray(back, off.length - down).map((db) => (db === 0 ? 0 : -db));
    },
  };
}
