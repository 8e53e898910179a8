import type { Range } from '../timeline/range';

/**
 * Where somebody speaks in a short stretch, in steps of its levels: from the first sound to the last, with
 * the pauses between.
 */
export interface Spoken extends Range {
  readonly pauses: readonly Range[];
}

/** Speech is what is within so much of the loudest, and stands so far out of the room. */
const underLoudestDb = 30;
const overRoomDb = 8;
/** With less between room and voice there is nothing to tell. */
const leastSpanDb = 10;
const leastLevelDb = -70;
/** A sound counts from so long on; a silence is a pause from so long on. */
const leastSoundSeconds = 0.03;
const leastPauseSeconds = 0.12;

const decibels = (meanSquares: ArrayLike<number>) =>
  Float32Array.from(meanSquares, (value) => 10 * Math.log10(Math.max(value, 1e-12)));

const shareOf = (levels: Float32Array, share: number) =>
  [...levels].sort((a, b) => a - b)[Math.min(levels.length - 1, Math.floor(share * levels.length))];

interface Heard {
  readonly levels: Float32Array;
  /** Above it somebody speaks. */
  readonly threshold: number;
}

function heardIn(meanSquares: ArrayLike<number>): Heard | null {
  if (meanSquares.length === 0) return null;
  const levels = decibels(meanSquares);
  const loudest = shareOf(levels, 0.97);
  const room = shareOf(levels, 0.1);
  if (loudest < leastLevelDb || loudest - room < leastSpanDb) return null;
  return { levels, threshold: Math.max(loudest - underLoudestDb, Math.min(room + overRoomDb, loudest - 6)) };
}

/** Where somebody speaks, from mean squares in steps of `stepSeconds`; null where nobody does. */
export function spokenIn(meanSquares: ArrayLike<number>, stepSeconds: number): Spoken | null {
  const heard = heardIn(meanSquares);
  return heard && runsOf(heard, stepSeconds);
}

function runsOf({ levels, threshold }: Heard, stepSeconds: number): Spoken | null {
  const runs: { from: number; to: number }[] = [];
  for (let i = 0; i < levels.length; i++) {
    if (levels[i] <= threshold) continue;
    const last = runs[runs.length - 1];
    // Stops within a word are no silence.
    if (last && (i - last.to) * stepSeconds < leastSoundSeconds) last.to = i + 1;
    else runs.push({ from: i, to: i + 1 });
  }
  const sounds = runs.filter(({ from, to }) => (to - from) * stepSeconds >= leastSoundSeconds);
  if (sounds.length === 0) return null;
  const pauses = sounds
    .slice(1)
    .map(({ from }, index) => ({ from: sounds[index].to, to: from }))
    .filter(({ from, to }) => (to - from) * stepSeconds >= leastPauseSeconds);
  return { from: sounds[0].from, to: sounds[sounds.length - 1].to, pauses };
}

/** Silences shorter than that are within a turn; *common practice* for the gap between two lines. */
const turnGapSeconds = 0.6;
const leastTurnSeconds = 0.25;

/** The turns somebody speaks in a stretch of any length, in steps, from its levels alone; none in silence. */
export function turnsIn(meanSquares: ArrayLike<number>, stepSeconds: number): Range[] {
  const spoken = spokenIn(meanSquares, stepSeconds);
  if (!spoken) return [];
  const gaps = spoken.pauses.filter(({ from, to }) => (to - from) * stepSeconds >= turnGapSeconds);
  const starts = [spoken.from, ...gaps.map(({ to }) => to)];
  const ends = [...gaps.map(({ from }) => from), spoken.to];
  return starts
    .map((from, index) => ({ from, to: ends[index] }))
    .filter(({ from, to }) => (to - from) * stepSeconds >= leastTurnSeconds);
}

/**
 * So much around a beginning or an end is compared, and so far either way it may lie. Longer stretches tell
 * the same reading at another speed worse: of 60 lines 8 % slower, 0.6 s was up to 30 ms off, this 5 ms.
 */
const comparedSeconds = { before: 0.12, after: 0.15 };
const reachSeconds = 0.12;
/** Below this the two are not alike, and what each by itself says counts. */
const leastLikeness = 0.7;

/** How far a take is off what it is spoken to, in steps; late and too long are positive. */
export interface OffGuide {
  readonly late: number;
  readonly long: number;
}

/**
 * Compares a take with a guide, both from the same moment on, as mean squares in steps of `stepSeconds`: how
 * late it begins, and how much too long it is. Where beginnings (or ends) sound alike their envelopes are
 * laid over each other; otherwise the first and the last sounds are compared. Null where one is silent.
 */
export function offGuide(
  take: ArrayLike<number>,
  guide: ArrayLike<number>,
  stepSeconds: number,
): OffGuide | null {
  const heard = [heardIn(take), heardIn(guide)] as const;
  if (!heard[0] || !heard[1]) return null;
  const spoken = heard.map((one) => one && runsOf(one, stepSeconds));
  const [own, other] = spoken;
  if (!own || !other) return null;
  const envelopes = heard.map((one) => one && above(one)) as [Float32Array, Float32Array];
  const late = alignedAt(envelopes, [own.from, other.from], stepSeconds);
  const turned = envelopes.map((one) => one.slice().reverse()) as [Float32Array, Float32Array];
  const ends = [take.length - own.to, guide.length - other.to] as const;
  const end = take.length - guide.length - alignedAt(turned, ends, stepSeconds);
  return { late, long: end - late };
}

/** How far it stands out of the room. */
const above = ({ levels, threshold }: Heard) =>
  levels.map((level) => Math.max(0, Math.min(underLoudestDb, level - threshold)));

/** How many steps later the first begins than the second, from where each seems to. */
function alignedAt(
  [a, b]: readonly [Float32Array, Float32Array],
  [inA, inB]: readonly [number, number],
  stepSeconds: number,
): number {
  const steps = (seconds: number) => Math.round(seconds / stepSeconds);
  const from = inB - steps(comparedSeconds.before);
  const length = steps(comparedSeconds.before) + steps(comparedSeconds.after);
  const reach = steps(reachSeconds);
  const rough = inA - inB;
  let best = { lag: rough, likeness: leastLikeness };
  for (let lag = rough - reach; lag <= rough + reach; lag++) {
    const likeness = correlation(a, b, from + lag, from, length);
    if (likeness > best.likeness + 1e-6) best = { lag, likeness };
  }
  return best.lag;
}

/** Of two stretches, −1 to 1; what lies outside is silence. */
function correlation(a: Float32Array, b: Float32Array, atA: number, atB: number, length: number): number {
  let [sumA, sumB] = [0, 0];
  for (let i = 0; i < length; i++) {
    sumA += a[atA + i] ?? 0;
    sumB += b[atB + i] ?? 0;
  }
  const [meanA, meanB] = [sumA / length, sumB / length];
  let [product, squareA, squareB] = [0, 0, 0];
  for (let i = 0; i < length; i++) {
    const x = (a[atA + i] ?? 0) - meanA;
    const y = (b[atB + i] ?? 0) - meanB;
    product += x * y;
    squareA += x * x;
    squareB += y * y;
  }
  return squareA > 0 && squareB > 0 ? product / Math.sqrt(squareA * squareB) : 0;
}
