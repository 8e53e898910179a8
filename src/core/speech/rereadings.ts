import { analysisRateHz, coefficients, hopSamples, melCepstra } from './cepstra';
import { matchFrom, findTemplate } from './warping';
import type { Speech } from './voiceActivity';

/** An abandoned reading and the good one that follows, in samples at `analysisRateHz`. */
export interface Rereading {
  /** First sound of the abandoned reading, and of the one that repeats its beginning. */
  abandoned: number;
  again: number;
  /** Seconds of the abandoned reading that are said again. */
  matchedSeconds: number;
  /** A clap or a mark stands between the two. */
  marked: boolean;
  /**
   * The first reading was said to its end before the second one began: two readings of a line, not a false
   * start.
   */
  complete: boolean;
  /** How sure it is, 0 to 1. */
  score: number;
}

const perSecond = analysisRateHz / hopSamples;
const templateFrames = 0.4 * perSecond;
const leastSpeech = 0.6;
const searchFrames = 20 * perSecond;
const highestCost = 7.5;
const apartFrames = 0.25 * perSecond;
const hitsOfEach = 3;
const snapFrames = 0.12 * perSecond;
const longestMatchFrames = 12 * perSecond;
/** Speech is brought to this level before it is compared. */
const comparedRms = 0.1;

const softestShare = 0.12;
/** A reading that is given up began after a pause, seconds; gaps inside words are shorter. */
const shortestPauseBefore = 0.2;

/** What tells a re-reading from words that happen to be alike. */
export interface Evidence {
  marked: number;
  /** Seconds, at most 1.5. */
  pauseBeforeAgain: number;
  pauseBeforeAbandoned: number;
  /** Seconds of the first reading that are not said again before the second begins. */
  unmatched: number;
  /** Cost of the match over the median cost of all. */
  relativeCost: number;
}

/**
 * Weights of a logistic regression over `Evidence`, fitted on sessions joined from the first half of the
 * English prompts (`npm run bench -- rereadings fit`); the figures in docs/benchmarks.md are from the other
 * half and from other voices.
 */
export const weights: Record<keyof Evidence | 'bias', number> = {
  bias: 4.2,
  marked: 1.9,
  pauseBeforeAgain: 2.8,
  pauseBeforeAbandoned: 3.4,
  unmatched: -2.5,
  relativeCost: -15.6,
};

export interface Candidate extends Omit<Rereading, 'score'> {
  evidence: Evidence;
}

/** Frames in which somebody speaks: 1 or 0 for each hop. */
function activity(speech: readonly Speech[], frames: number): Uint8Array {
  const active = new Uint8Array(frames);
  for (const { from, to } of speech)
    active.fill(1, Math.floor(from / hopSamples), Math.ceil(to / hopSamples));
  return active;
}

const count = (active: Uint8Array, from: number, to: number) => {
  let sum = 0;
  for (let i = Math.max(0, from); i < Math.min(active.length, to); i++) sum += active[i];
  return sum;
};

function speechGain(samples: Float32Array, speech: readonly Speech[]): number {
  let sum = 0;
  let frames = 0;
  for (const { from, to } of speech) {
    for (let i = from; i < to; i += 4) sum += samples[i] * samples[i];
    frames += Math.ceil((to - from) / 4);
  }
  const rms = Math.sqrt(sum / Math.max(1, frames));
  return rms > 0 ? comparedRms / rms : 1;
}

/** What is much softer than the speech around is a door or a chair, not a reading. */
function isLoud(samples: Float32Array, frame: number, gain: number): boolean {
  const from = frame * hopSamples;
  let sum = 0;
  for (let i = from; i < from + templateFrames * hopSamples; i++) sum += (samples[i] ?? 0) ** 2;
  return gain * Math.sqrt(sum / (templateFrames * hopSamples)) > softestShare * comparedRms;
}

const median = (values: number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 1;

/**
 * Every pair of a speech onset and a place up to 15 s later that sounds like it, with its evidence; marks are
 * samples.
 */
export function rereadingCandidates(
  samples: Float32Array,
  speech: readonly Speech[],
  marks: readonly number[],
): Candidate[] {
  const gain = speechGain(samples, speech);
  const cepstra = melCepstra(samples, gain);
  const frames = cepstra.length / coefficients;
  const active = activity(speech, frames);
  const onsets = speech.map(({ from }) => Math.round(from / hopSamples));
  const pauseBefore = (index: number) =>
    index <= 0 ? 1.5 : Math.min(1.5, (speech[index].from - speech[index - 1].to) / analysisRateHz);
  const found: (Candidate & { cost: number })[] = [];
  speech.forEach((stretch, index) => {
    const a = onsets[index];
    if (pauseBefore(index) < shortestPauseBefore) return;
    if (count(active, a, a + templateFrames) < leastSpeech * templateFrames) return;
    if (!isLoud(samples, a, gain)) return;
    const last = Math.min(frames, a + templateFrames + searchFrames);
    const search = { highestCost, apart: apartFrames, most: hitsOfEach };
    for (const hit of findTemplate(cepstra, a, templateFrames, a + templateFrames, last, search)) {
      const near = nearestOnset(onsets, hit.from);
      const snapped = near !== null && Math.abs(onsets[near] - hit.from) <= snapFrames;
      const b = snapped ? onsets[near] : quietest(samples, hit.from);
      if (b <= a + 10 || !isLoud(samples, b, gain)) continue;
      const match = matchFrom(cepstra, a, b, longestMatchFrames, highestCost);
      if (match.length < 10) continue;
      const unmatched = count(active, a + match.length, b) / perSecond;
      const again = snapped ? speech[near].from : b * hopSamples;
      const marked = marks.some((mark) => mark > stretch.from && mark <= again + 0.1 * analysisRateHz);
      found.push({
        abandoned: stretch.from,
        again,
        matchedSeconds: match.length / perSecond,
        marked,
        complete: unmatched < 0.15 && match.length >= 0.85 * count(active, a, b),
        cost: match.cost,
        evidence: {
          marked: marked ? 1 : 0,
          pauseBeforeAgain: snapped ? pauseBefore(near) : 0,
          pauseBeforeAbandoned: pauseBefore(index),
          unmatched,
          relativeCost: match.cost,
        },
      });
    }
  });
  const usual = median(found.map(({ cost }) => cost));
  return found.map(({ cost, evidence, ...candidate }) => ({
    ...candidate,
    evidence: { ...evidence, relativeCost: cost / usual },
  }));
}

function nearestOnset(onsets: readonly number[], frame: number): number | null {
  let best: number | null = null;
  onsets.forEach((onset, index) => {
    if (best === null || Math.abs(onset - frame) < Math.abs(onsets[best] - frame)) best = index;
  });
  return best;
}

/**
 * The frame of least energy between 90 ms before and 40 ms after a frame: restarts without a pause have no
 * onset.
 */
function quietest(samples: Float32Array, frame: number): number {
  let best = frame;
  let least = Infinity;
  for (let at = Math.max(0, frame - 9); at <= frame + 4; at++) {
    let energy = 0;
    for (let i = at * hopSamples; i < (at + 1) * hopSamples; i++) energy += (samples[i] ?? 0) ** 2;
    if (energy < least) {
      least = energy;
      best = at;
    }
  }
  return best;
}

export function scoreOf(evidence: Evidence): number {
  let sum = weights.bias;
  for (const name of Object.keys(evidence) as (keyof Evidence)[]) sum += weights[name] * evidence[name];
  return 1 / (1 + Math.exp(-sum));
}

/**
 * Abandoned readings with the ones that repeat them, in order of time, none overlapping another: the surest
 * first, until `leastScore`. `samples` at `analysisRateHz`; `marks` are samples at which a clap was heard or
 * a flub marked.
 */
export function findRereadings(
  samples: Float32Array,
  speech: readonly Speech[],
  marks: readonly number[],
  leastScore = 0.5,
): Rereading[] {
  const scored = rereadingCandidates(samples, speech, marks)
    .map(({ evidence, ...candidate }) => ({ ...candidate, score: scoreOf(evidence) }))
    .filter(({ score }) => score >= leastScore)
    .sort((x, y) => y.score - x.score);
  const chosen: Rereading[] = [];
  for (const candidate of scored) {
    const free = chosen.every(
      ({ abandoned, again }) => candidate.again <= abandoned || candidate.abandoned >= again,
    );
    if (free) chosen.push(candidate);
  }
  return chosen.sort((x, y) => x.abandoned - y.abandoned);
}

/** Lengths of clean silence before the good reading that a cut may take with it, in samples. */
const shortestLead = 0.02 * analysisRateHz;
const longestLead = 0.12 * analysisRateHz;
const edgeSamples = 0.01 * analysisRateHz;

/**
 * What to strike: [abandoned − p, again − p) with the same p on both sides, so that the pause before the
 * sentence stays as it was read. p is 20 to 120 ms, where the louder of the two edges is quietest.
 */
export function cutOf(
  samples: Float32Array,
  { abandoned, again }: Pick<Rereading, 'abandoned' | 'again'>,
): { from: number; to: number } {
  const energy = (at: number) => {
    let sum = 0;
    for (let i = at - edgeSamples / 2; i < at + edgeSamples / 2; i++) sum += (samples[i] ?? 0) ** 2;
    return sum;
  };
  let lead = Math.min(shortestLead, abandoned);
  let least = Infinity;
  for (let p = shortestLead; p <= longestLead && p <= abandoned; p += 40) {
    const loudest = Math.max(energy(abandoned - p), energy(again - p));
    // A longer lead only where it is clearly quieter: the cut stays near the word.
    if (loudest < least * 0.9) {
      least = loudest;
      lead = p;
    }
  }
  return { from: abandoned - lead, to: again - lead };
}
