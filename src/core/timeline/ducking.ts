import { firstIndex } from '../base/search';
import { secondsToFrames } from '../base/units';
import type { VoicedSpeech } from '../speech/severalVoices';
import type { Speech } from '../speech/voiceActivity';
import type { SheetClock } from './clock';
import type { LevelPoint } from './levelPoints';

/** How a bed goes down under speech by itself. */
export interface Ducking {
  /** So much softer while somebody speaks, dB. */
  readonly amountDb: number;
  /** It is down when speech begins, after so many seconds of going there. */
  readonly downSeconds: number;
  /** It waits so long after speech before it comes up again: phrases with shorter pauses are one. */
  readonly waitSeconds: number;
  readonly upSeconds: number;
}

/** Usual in broadcasting and podcasts; *common practice*. */
export const defaultDucking: Ducking = { amountDb: 12, downSeconds: 0.5, waitSeconds: 1.2, upSeconds: 1.5 };

/**
 * A microphone while only others speak: soon down and soon back, softer and never silent, so that the room
 * does not go on and off (*common practice*: 6 to 12 dB).
 */
export const defaultSofter: Ducking = { amountDb: 9, downSeconds: 0.2, waitSeconds: 0.3, upSeconds: 0.2 };
/** Shorter stretches of the others are not worth it. */
export const shortestSofterSeconds = 0.8;

export const duckingLimits = {
  amountDb: { from: 1, to: 40 },
  downSeconds: { from: 0.05, to: 5 },
  waitSeconds: { from: 0, to: 10 },
  upSeconds: { from: 0.05, to: 10 },
} as const;

/** Breaths and what a chair does lie so far under the middle level of speech; *common practice*. */
const faintDb = 20;

/** Speech that a bed goes down for: not what is much fainter than the rest. */
export function clearSpeech(speech: readonly VoicedSpeech[]): VoicedSpeech[] {
  const levels = speech.map(({ levelDbfs }) => levelDbfs).sort((a, b) => a - b);
  const middle = levels[Math.floor(levels.length / 2)] ?? 0;
  return speech.filter(({ levelDbfs }) => levelDbfs > middle - faintDb);
}

/**
 * Passages of speech, in frames: stretches between which a bed would not be up again before it has to go down
 * are one.
 */
export function passagesOf(
  speech: readonly Speech[],
  { downSeconds, waitSeconds, upSeconds }: Ducking,
  rateHz: number,
): Speech[] {
  const apart = secondsToFrames(downSeconds + waitSeconds + upSeconds, rateHz);
  const passages: Speech[] = [];
  for (const { from, to } of speech) {
    const last = passages[passages.length - 1];
    if (last && from - last.to < apart) last.to = Math.max(last.to, to);
    else passages.push({ from, to });
  }
  return passages;
}

/**
 * Level points that let a bed go down under passages of speech, in heard frames; sheet frames come out. What
 * was set by hand stays: a passage that reaches over a point of the hand is left as it is there.
 */
export function duckedPoints(
  before: readonly LevelPoint[],
  passages: readonly Speech[],
  { amountDb, downSeconds, waitSeconds, upSeconds }: Ducking,
  clock: SheetClock,
  rateHz: number,
): readonly LevelPoint[] {
  const down = secondsToFrames(downSeconds, rateHz);
  const wait = secondsToFrames(waitSeconds, rateHz);
  const up = secondsToFrames(upSeconds, rateHz);
  const byHand = before.filter(({ passage }) => passage === undefined);
  const written = passages.flatMap(({ from, to }): LevelPoint[] => {
    const passage = String(clock.heardToSheet(from));
    const point = (heard: number, db: number): LevelPoint => ({
      at: clock.heardToSheet(Math.min(heard, clock.heardFrames)),
      db,
      passage,
    });
    const lead = from < down ? [] : [point(from - down, 0)];
    // At the very end it need not come up again.
    const rest = to + wait + up > clock.heardFrames ? [] : [point(to + wait + up, 0)];
    const points = [...lead, point(from, -amountDb), point(to + wait, -amountDb), ...rest];
    const first = points[0].at;
    const last = points[points.length - 1].at;
    const next = firstIndex(byHand.length, (i) => byHand[i].at >= first);
    return next < byHand.length && byHand[next].at <= last ? [] : points;
  });
  return [...byHand, ...written].sort((a, b) => a.at - b.at);
}

/** Points that are no longer written for a passage but were set by hand, all of that passage. */
const freed = (points: readonly LevelPoint[], passage: string | undefined): readonly LevelPoint[] =>
  passage === undefined
    ? points
    : points.map((point) => (point.passage === passage ? { at: point.at, db: point.db } : point));

/** The passage whose points lie around a frame. */
function passageAt(points: readonly LevelPoint[], frame: number): string | undefined {
  const next = firstIndex(points.length, (i) => points[i].at > frame);
  const before = points[next - 1]?.passage;
  return before !== undefined && before === points[next]?.passage ? before : undefined;
}

/** With a point set by hand at a frame, in the place of one that stands there. */
export function withPoint(points: readonly LevelPoint[], at: number, db: number): readonly LevelPoint[] {
  const there = points.find((point) => point.at === at);
  const others = freed(points, there?.passage ?? passageAt(points, at)).filter((point) => point.at !== at);
  return [...others, { at, db }].sort((a, b) => a.at - b.at);
}

/** Without the point at an index; what else was written for its passage is the hand's from now on. */
export const withoutPoint = (points: readonly LevelPoint[], index: number): readonly LevelPoint[] =>
  freed(points, points[index]?.passage).filter((_, i) => i !== index);

/** A point moved by hand, in time or in level, not beyond its neighbours. */
export function movedPoint(
  points: readonly LevelPoint[],
  index: number,
  { at, db }: Pick<LevelPoint, 'at' | 'db'>,
): readonly LevelPoint[] {
  const lowest = (points[index - 1]?.at ?? -1) + 1;
  const highest = (points[index + 1]?.at ?? Infinity) - 1;
  const moved = { at: Math.min(highest, Math.max(lowest, Math.max(0, at))), db };
  return freed(points, points[index]?.passage).map((point, i) => (i === index ? moved : point));
}
