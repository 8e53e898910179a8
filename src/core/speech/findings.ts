import { decimal, say } from '../../texts/say';
import { analysisRateHz, melCepstra } from './cepstra';
import { ClapDetector } from './claps';
import { findFlattened } from './clipping';
import { findFillers, findStutters } from './fillers';
import { hopLevels, meanLevel } from './levels';
import { findBreaths, findClicks } from './pauseSounds';
import { cutOf, findRereadings } from './rereadings';
import { findRoomTone, type RoomTone } from './roomTone';
import { sentencesOf } from './sentences';
import type { VoicedSpeech } from './severalVoices';
import { findSpeech, withoutBreaths, type Speech } from './voiceActivity';

/** What the analysis of a reading can propose something about. */
export const findingKinds = [
  'restart',
  'readTwice',
  'longPause',
  'shortPause',
  'click',
  'breath',
  'level',
  'clipped',
  'filler',
] as const;
export type FindingKind = (typeof findingKinds)[number];

/** Something found in a reading, in samples at `analysisRateHz`: [from, to). */
export interface Finding {
  readonly kind: FindingKind;
  readonly from: number;
  readonly to: number;
  /** How sure it is, 0 to 1. */
  readonly score: number;
  /** A clap or a flub mark led to it. */
  readonly marked: boolean;
  /**
   * What it is measured in: seconds of a pause or of what is repeated, dB over the room or off the
   * neighbours.
   */
  readonly amount: number;
  /** Of two whole readings: where the second one begins and ends. */
  readonly again?: Speech;
}

export interface FindingOptions {
  readonly kinds: readonly FindingKind[];
  /** Pauses longer than this, and shorter than that, in seconds. */
  readonly longestPause: number;
  readonly shortestPause: number;
  /** Breaths louder than this over the room, in dB. */
  readonly breathOverDb: number;
  /** Sentences off their neighbours by this much, in dB. */
  readonly levelOffDb: number;
}

/** Pauses of 0.3 to 1.5 s are usual between sentences of a narration; *common practice*. */
export const defaultFindingOptions: FindingOptions = {
  kinds: ['restart', 'readTwice', 'longPause', 'click', 'breath', 'level', 'clipped'],
  longestPause: 2,
  shortestPause: 0.25,
  breathOverDb: 15,
  levelOffDb: 4,
};

export interface Analysis {
  findings: Finding[];
  speech: VoicedSpeech[];
  tone: RoomTone | null;
}

export interface AnalysisInput {
  /** One voice at `analysisRateHz`. */
  samples: Float32Array;
  /** Samples at which a flub is marked. */
  marks: readonly number[];
  /** Stretches that reached full scale in the recording, in samples at `analysisRateHz`. */
  clipped: readonly Speech[];
}

/** Gaps under this are inside words and phrases. */
const shortestTold = 0.16;
const neighbours = 4;
const shortestSentenceSeconds = 1;

/** Everything that can be found in a reading; findings in order of time. */
export function analyse({ samples, marks, clipped }: AnalysisInput, options: FindingOptions): Analysis {
  const speech = withoutBreaths(samples, findSpeech(samples, analysisRateHz), analysisRateHz);
  const wanted = new Set(options.kinds);
  const found: Finding[] = [];
  const add = (finding: Omit<Finding, 'score' | 'marked'> & Partial<Finding>) => {
    if (wanted.has(finding.kind)) found.push({ score: 1, marked: false, ...finding });
  };
  if (wanted.has('restart') || wanted.has('readTwice')) addRereadings(samples, speech, marks, add);
  addPauses(speech, options, analysisRateHz, add);
  if (wanted.has('click'))
    for (const { from, to, overRoomDb } of findClicks(samples, speech, analysisRateHz))
      add({ kind: 'click', from, to, amount: overRoomDb });
  if (wanted.has('breath'))
    for (const { from, to, overRoomDb } of findBreaths(samples, speech, analysisRateHz))
      if (overRoomDb >= options.breathOverDb) add({ kind: 'breath', from, to, amount: overRoomDb });
  if (wanted.has('level')) addLevels(samples, speech, options.levelOffDb, add);
  for (const { from, to } of clippedWords(samples, clipped, speech))
    add({ kind: 'clipped', from, to, amount: 0 });
  if (wanted.has('filler')) {
    const cepstra = melCepstra(samples);
    for (const { from, to } of [...findFillers(cepstra, speech), ...findStutters(cepstra, speech)])
      add({ kind: 'filler', from, to, amount: (to - from) / analysisRateHz, score: 0.5 });
  }
  return {
    findings: outsideRestarts(found, found).sort((a, b) => a.from - b.from),
    speech: speech.map((stretch) => ({ ...stretch, levelDbfs: levelOf(samples, stretch) })),
    tone: findRoomTone(samples, speech, analysisRateHz),
  };
}

const levelOf = (samples: Float32Array, { from, to }: Speech) =>
  meanLevel(hopLevels(samples.subarray(from, to), Math.max(1, Math.min(analysisRateHz / 20, to - from))));

/** What stands in a reading that goes anyway needs no proposal of its own. */
export function outsideRestarts(found: readonly Finding[], all: readonly Finding[]): Finding[] {
  const restarts = all.filter(({ kind }) => kind === 'restart');
  return found.filter(
    (finding) =>
      finding.kind === 'restart' ||
      !restarts.some(({ from, to }) => middle(finding) >= from && middle(finding) < to),
  );
}

const middle = ({ from, to }: Speech) => (from + to) / 2;
const clippedMargin = 0.1;

/** What reached full scale, or is flat, with a tenth of a second around it; each stretch once. */
function clippedWords(
  samples: Float32Array,
  clipped: readonly Speech[],
  speech: readonly Speech[],
): Speech[] {
  const flat = findFlattened(samples, analysisRateHz);
  const fresh = flat.filter(({ from, to }) => !clipped.some((one) => one.from < to && one.to > from));
  return [...clipped, ...fresh].map(({ from, to }) => {
    const word = speech.find((stretch) => stretch.from <= from && stretch.to >= from) ?? {
      from: 0,
      to: samples.length,
    };
    const margin = clippedMargin * analysisRateHz;
    return { from: Math.max(word.from, from - margin), to: Math.min(Math.max(word.to, to), to + margin) };
  });
}

type Add = (finding: Omit<Finding, 'score' | 'marked'> & Partial<Finding>) => void;

function addRereadings(samples: Float32Array, speech: readonly Speech[], marks: readonly number[], add: Add) {
  const claps = new ClapDetector(analysisRateHz).process(samples);
  for (const rereading of findRereadings(samples, speech, [...marks, ...claps])) {
    const { score, marked, matchedSeconds, complete, again } = rereading;
    const { from, to } = cutOf(samples, rereading);
    const end = speech.find((stretch) => stretch.to > again)?.to ?? to;
    add({
      kind: complete && !marked ? 'readTwice' : 'restart',
      from,
      to,
      score,
      marked,
      amount: matchedSeconds,
      again: { from: to, to: Math.max(end, to + (to - from)) },
    });
  }
}

/**
 * Pauses of a reading, or of several voices together, that are too long or too short; in frames of any rate.
 */
export function pauseFindings(speech: readonly Speech[], options: FindingOptions, rateHz: number): Finding[] {
  const found: Finding[] = [];
  addPauses(speech, options, rateHz, (finding) => {
    if (options.kinds.includes(finding.kind)) found.push({ score: 1, marked: false, ...finding });
  });
  return found;
}

/** Pauses between sentences and words, not those at the two ends of the part. */
function addPauses(
  speech: readonly Speech[],
  { longestPause, shortestPause }: FindingOptions,
  rateHz: number,
  add: Add,
) {
  const pauses = speech.slice(1).map(({ from }, index) => (from - speech[index].to) / rateHz);
  /**
   * Seconds from the last wanted pause before a place, or to the next one after it: what is said in one
   * breath.
   */
  const breathFrom = (index: number, step: -1 | 1) => {
    let end = index;
    const inside = () => pauses[step < 0 ? end - 1 : end] < shortestPause;
    while (inside()) end += step;
    const [first, last] = step < 0 ? [end, index] : [index, end];
    return (speech[last].to - speech[first].from) / rateHz;
  };
  pauses.forEach((seconds, index) => {
    const { to: from } = speech[index];
    const { from: to } = speech[index + 1];
    if (seconds > longestPause) add({ kind: 'longPause', from, to, amount: seconds });
    else if (
      seconds < shortestPause &&
      seconds >= shortestTold &&
      breathFrom(index, -1) > shortestSentenceSeconds &&
      breathFrom(index + 1, 1) > shortestSentenceSeconds
    )
      add({ kind: 'shortPause', from, to, amount: seconds });
  });
}

function addLevels(samples: Float32Array, speech: readonly Speech[], offDb: number, add: Add) {
  const hop = analysisRateHz / 20;
  const levels = hopLevels(samples, hop);
  const sentences = sentencesOf(speech, analysisRateHz).filter(
    ({ from, to }) => to - from >= shortestSentenceSeconds * analysisRateHz,
  );
  const own = sentences.map(({ from, to }) => {
    const inside = levels.slice(Math.ceil(from / hop), Math.floor(to / hop));
    // Louder half only: pauses inside a sentence say nothing about its level.
    return meanLevel(inside.sort().subarray(inside.length >> 1));
  });
  sentences.forEach(({ from, to }, index) => {
    const around = own
      .filter((_, i) => i !== index && Math.abs(i - index) <= neighbours)
      .sort((a, b) => a - b);
    if (around.length < 2) return;
    const usual = around[around.length >> 1];
    const amount = Math.round((usual - own[index]) * 10) / 10;
    if (Math.abs(amount) >= offDb) add({ kind: 'level', from, to, amount });
  });
}

const seconds = (value: number) => `${decimal(value, 1)} s`;

/** What was found, in words for the list of proposals. */
export function describeFinding({
  kind,
  amount,
  marked,
}: Pick<Finding, 'kind' | 'amount' | 'marked'>): string {
  switch (kind) {
    case 'restart':
      return say`${marked ? say`Marked, then` : say`Broken off, then`} read again from its start: ${seconds(amount)} are alike`;
    case 'readTwice':
      return say`Read twice: ${seconds(amount)} are alike`;
    case 'longPause':
      return say`A pause of ${seconds(amount)}`;
    case 'shortPause':
      return say`Only ${decimal(amount * 1000, 0)} ms between two sentences`;
    case 'click':
      return say`A click, ${decimal(amount, 0)} dB over the room`;
    case 'breath':
      return say`A breath, ${decimal(amount, 0)} dB over the room`;
    case 'level':
      return amount > 0
        ? say`${decimal(amount, 1)} dB softer than its neighbours`
        : say`${decimal(-amount, 1)} dB louder than its neighbours`;
    case 'clipped':
      return say`Clipped: cannot be repaired, read it again`;
    case 'filler':
      return say`A filler or a stutter, as far as sound tells: ${decimal(amount * 1000, 0)} ms`;
  }
}
