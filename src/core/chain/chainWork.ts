import { median } from '../base/statistics';
import { dbToPower, powerToDb } from '../base/units';
import { kernels } from '../dsp/kernels';
import { measureRoom } from '../loudness/room';
import type { ChainedVoice } from './chained';
import { restGainDb, type ChainStep, type StepKind } from './chain';

/** What a step does to a voice. */
export interface StepWork {
  readonly id: string;
  readonly kind: StepKind;
  /**
   * The most it turns up or down, dB (0 or less for what only takes off), and where, in frames; 0 for
   * nothing.
   */
  readonly mostDb: number;
  readonly at: number;
  /** The usual amount while it works in speech, dB, as a number over 0; 0 where it does nothing. */
  readonly usualDb: number;
  /** The part of the speech it works on, 0 to 1. */
  readonly share: number;
  /** It takes so much off so much of the speech that it will be heard. */
  readonly tooHard: boolean;
}

/** Levels of a voice, dBFS RMS. */
export interface VoiceLevels {
  readonly speechDbfs: number;
  readonly roomDbfs: number;
}

/** Who watches while a chain's work is measured. */
export interface Watching {
  /** Is told 0 to 1, and can throw to end it. */
  readonly progress?: (done: number) => void;
  /** Is given all that is looked at, as it was recorded and as it comes out. */
  readonly heard?: (recorded: readonly Float32Array[], finished: readonly Float32Array[]) => void;
}

export interface ChainWork {
  readonly recorded: VoiceLevels;
  readonly finished: VoiceLevels;
  /** Of every step that is on and turns up or down. */
  readonly steps: readonly StepWork[];
  /** How much nearer the room comes to the speech, dB; under 0 where it goes away from it. */
  readonly roomLiftedDb: number;
}

/** From this on a step is at work, dB. */
const atWorkDb = 0.5;
/** More than so much of the speech turned by more than this is heard; *common practice*. */
const tooMuchShare = 0.4;
const heavyDb: Readonly<Partial<Record<StepKind, number>>> = {
  pauses: 3,
  plosives: 3,
  sibilance: 1,
  phrases: 4,
  even: 4,
  ceiling: 2,
};
/** Looked at together, seconds; a hop is 10 ms. */
const chunkSeconds = 4;

/**
 * What a chain does to the heard frames [0, frames) of a voice: step by step, and to its speech and its
 * room.
 */
export async function measureWork(
  voice: ChainedVoice,
  frames: number,
  { progress = () => undefined, heard = () => undefined }: Watching = {},
): Promise<ChainWork> {
  const { rateHz, tickFrames } = voice.grid;
  const hop = Math.round(rateHz / 100 / tickFrames) * tickFrames;
  const hops = Math.floor(frames / hop);
  const working = voice.stages.flatMap(({ step, gainsDb }) => (gainsDb ? [{ step, gainsDb }] : []));
  const gains = working.map(() => new Float32Array(hops));
  const [recorded, finished] = [new Float64Array(hops), new Float64Array(hops)];
  const perChunk = Math.round((chunkSeconds * rateHz) / hop);
  for (let first = 0; first < hops; first += perChunk) {
    progress(first / hops);
    const count = Math.min(perChunk, hops - first);
    const [from, length] = [first * hop, count * hop];
    const [before, after] = [await voice.recorded(from, length), await voice.read(from, length)];
    heard(before, after);
    addPowers(before, hop, recorded.subarray(first, first + count));
    addPowers(after, hop, finished.subarray(first, first + count));
    const ticks = hop / tickFrames;
    for (const [index, { gainsDb }] of working.entries()) {
      const [values] = await gainsDb.read(first * ticks, count * ticks);
      for (let i = 0; i < count; i++) gains[index][first + i] = furthest(values, i * ticks, (i + 1) * ticks);
    }
  }
  const { speech, ...were } = levelsOf(recorded);
  const { speech: _, ...are } = levelsOf(finished);
  return {
    recorded: were,
    finished: are,
    steps: working.map(({ step }, index) => workOf(step, gains[index], speech, hop)),
    roomLiftedDb: were.speechDbfs - were.roomDbfs - (are.speechDbfs - are.roomDbfs),
  };
}

/** Mean squares of hops, the louder of a pair's channels. */
function addPowers(audio: readonly Float32Array[], hop: number, powers: Float64Array) {
  const sums = new Float64Array(powers.length);
  for (const samples of audio) {
    kernels().hopSquares(samples, hop, sums);
    for (let i = 0; i < sums.length; i++) powers[i] = Math.max(powers[i], sums[i] / hop);
  }
}

/** The gain that is furthest from none. */
function furthest(gains: Float32Array, from: number, to: number): number {
  let most = 0;
  for (let i = from; i < to; i++) if (Math.abs(gains[i]) > Math.abs(most)) most = gains[i];
  return most;
}

/** What is further under the loud words is not this voice: a neighbour that is heard, a breath. */
const ownSpeechDb = 20;
const loudRank = 0.95;

/**
 * The least power of a hop in which this voice speaks: 10 dB over the room, and not far under its loud
 * words.
 */
function speechThreshold(powers: Float64Array, roomDbfs: number): number {
  const room = dbToPower(roomDbfs) * 10;
  const spoken = powers.filter((power) => power > room).sort();
  const loud = spoken.length === 0 ? 0 : spoken[Math.floor((spoken.length - 1) * loudRank)];
  return Math.max(room, loud * dbToPower(-ownSpeechDb), 1e-7);
}

function levelsOf(powers: Float64Array): VoiceLevels & { speech: Uint8Array } {
  const { noiseFloorDbfs } = measureRoom(powers);
  const threshold = speechThreshold(powers, noiseFloorDbfs);
  let sum = 0;
  let hops = 0;
  const speech = Uint8Array.from(powers, (power) => {
    if (power <= threshold) return 0;
    sum += power;
    hops++;
    return 1;
  });
  return { speechDbfs: powerToDb(hops === 0 ? 0 : sum / hops), roomDbfs: noiseFloorDbfs, speech };
}

function workOf(step: ChainStep, gains: Float32Array, speech: Uint8Array, hop: number): StepWork {
  // Make-up and plain gain are no work.
  const rest = restGainDb(step);
  const heavy = heavyDb[step.kind] ?? Infinity;
  const amounts: number[] = [];
  let most = 0;
  let at = 0;
  let spoken = 0;
  let heavily = 0;
  for (let i = 0; i < gains.length; i++) {
    const turned = gains[i] - rest;
    const counts = speech[i] === 1 || step.kind === 'pauses';
    if (counts && Math.abs(turned) > Math.abs(most)) {
      most = turned;
      at = i * hop;
    }
    if (speech[i] === 0) continue;
    spoken++;
    if (Math.abs(turned) >= atWorkDb) amounts.push(Math.abs(turned));
    if (Math.abs(turned) >= heavy) heavily++;
  }
  return {
    id: step.id,
    kind: step.kind,
    mostDb: most,
    at,
    usualDb: amounts.length === 0 ? 0 : median(amounts),
    share: spoken === 0 ? 0 : amounts.length / spoken,
    tooHard: spoken > 0 && heavily / spoken > tooMuchShare,
  };
}
