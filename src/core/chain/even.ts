import { ticksOf, type Grid, type Track } from './cells';
import type { EvenStep } from './chain';
import type { GainRule } from './gainTrack';
import { peakLevelsOf, rmsLevelsOf } from './ticks';

/** Peaks are held so long: half a period of 50 Hz. */
const peakSeconds = 0.01;
/** The mean square is taken over so much on either side. */
const rmsSeconds = 0.005;
/**
 * A gain that has 10 dB to go is within 2 dB of its end after so many time constants (IEC 60268-8): ln 5.
 */
const constants = Math.log(5);
/**
 * What is left of a wrong start counts as nothing after so many time constants: 20 dB of gain under −126
 * dB.
 */
const settledConstants = 15.5;

/**
 * What a compressor takes off a level, dB, at rest. Source: D. Giannoulis, M. Massberg, J. Reiss, Digital
 * dynamic range compressor design, JAES 60 (2012), equation 4: with a knee of W dB, half on each side of
 * the threshold.
 */
export function takenOff(levelDb: number, { thresholdDb, ratio, kneeDb }: Curve): number {
  const over = levelDb - thresholdDb;
  const slope = 1 - 1 / ratio;
  if (2 * over <= -kneeDb) return 0;
  if (2 * over < kneeDb) return (slope * (over + kneeDb / 2) ** 2) / (2 * kneeDb);
  return slope * over;
}

type Curve = Pick<EvenStep, 'thresholdDb' | 'ratio' | 'kneeDb'>;

/**
 * A feed-forward compressor with smoothing in the log domain behind the gain computer (smooth, branching:
 * the same paper, section 2.3). Its memory fades with the slower of its times; each cell begins at rest so
 * far before that nothing of it is left.
 */
export function evenRule(input: Track, step: EvenStep, grid: Grid): GainRule {
  const isPeak = step.detector === 'peak';
  const rmsTicks = ticksOf(rmsSeconds, grid);
  const perSecond = grid.rateHz / grid.tickFrames;
  const timeTicks = (ms: number) => Math.max(0.5, ((ms / 1000) * perSecond) / constants);
  const attack = timeTicks(step.attackMs);
  // The peak is held first; that is part of the way back.
  const release = timeTicks(step.releaseMs - (isPeak ? peakSeconds * 1000 : 0));
  const memory = Math.ceil(settledConstants * Math.max(attack, release));
  const [down, up] = [Math.exp(-1 / attack), Math.exp(-1 / release)];
  return {
    noticed: isPeak
      ? peakLevelsOf(input, ticksOf(peakSeconds, grid), 0, grid)
      : rmsLevelsOf([input], rmsTicks, rmsTicks, grid),
    before: memory,
    after: 0,
    gainsDb: ([levels]) => {
      const gains = new Float32Array(levels.length - memory);
      let taken = 0;
      for (let i = 0; i < levels.length; i++) {
        const wanted = takenOff(levels[i], step);
        const keep = wanted > taken ? down : up;
        taken = keep * taken + (1 - keep) * wanted;
        if (i >= memory) gains[i - memory] = step.makeUpDb - taken;
      }
      return gains;
    },
  };
}
