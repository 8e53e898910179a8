import { peakFrames } from '../timeline/peaks';
import { restGainDb } from './chain';
import type { ChainedVoice } from './chained';

/** A stretch of a voice as it comes out of its chain, in steps of 256 frames. */
export interface ChainPicture {
  /** Lowest and highest value of each step, a row for each channel. */
  readonly low: readonly Float32Array<ArrayBuffer>[];
  readonly high: readonly Float32Array<ArrayBuffer>[];
  /** The furthest that all steps together turn down, dB, 0 or less; make-up and plain gain left out. */
  readonly takenDb: Float32Array<ArrayBuffer>;
}

/** Looks at heard frames [from, from + frames) of a voice; both are multiples of 256. */
export async function pictureOf(voice: ChainedVoice, from: number, frames: number): Promise<ChainPicture> {
  const steps = Math.floor(frames / peakFrames);
  const audio = await voice.read(from, frames);
  const edges = audio.map((samples) => edgesOf(samples, steps));
  const takenDb = new Float32Array(steps);
  const { tickFrames } = voice.grid;
  const ticks = peakFrames / tickFrames;
  const sums = new Float32Array(steps * ticks);
  for (const { step, gainsDb } of voice.stages) {
    if (!gainsDb) continue;
    const rest = restGainDb(step);
    const [gains] = await gainsDb.read(from / tickFrames, sums.length);
    for (let i = 0; i < sums.length; i++) sums[i] += gains[i] - rest;
  }
  for (let i = 0; i < sums.length; i++) {
    const at = Math.floor(i / ticks);
    if (sums[i] < takenDb[at]) takenDb[at] = sums[i];
  }
  return { low: edges.map(({ low }) => low), high: edges.map(({ high }) => high), takenDb };
}

function edgesOf(samples: Float32Array, steps: number) {
  const [low, high] = [new Float32Array(steps), new Float32Array(steps)];
  for (let step = 0, i = 0; step < steps; step++) {
    let [lowest, highest] = [Infinity, -Infinity];
    for (const end = i + peakFrames; i < end; i++) {
      const value = samples[i];
      if (value < lowest) lowest = value;
      if (value > highest) highest = value;
    }
    low[step] = lowest;
    high[step] = highest;
  }
  return { low, high };
}
