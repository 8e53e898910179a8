import { clamp } from '../base/units';

/**
 * One question and its answer, in seconds: `sent` and `back` by one's own clock, the others by the far one.
 */
export interface ClockSample {
  readonly sent: number;
  readonly received: number;
  readonly answered: number;
  readonly back: number;
}

/**
 * How another clock goes by one's own: at own second `own` it shows `other`, and gains `ppm` from then on; 0
 * where the delays do not tell that it gains or loses anything.
 */
export interface ClockLine {
  readonly own: number;
  readonly other: number;
  readonly ppm: number;
  /** The truth is no further away, in seconds, than this: half of the fastest way there and back. */
  readonly errorSeconds: number;
}

export const otherTime = ({ own, other, ppm }: ClockLine, seconds: number): number =>
  other + (seconds - own) * (1 + ppm / 1e6);

export const ownTime = ({ own, other, ppm }: ClockLine, seconds: number): number =>
  own + (seconds - other) / (1 + ppm / 1e6);

interface Point {
  readonly at: number;
  readonly delay: number;
}

/** Clocks of sound cards differ by less (*common practice*: crystals are within 50 ppm, cheap ones 100). */
const mostPpm = 200;
/**
 * Over less than this delays say nothing of how fast a clock goes: while pages open and devices start they
 * fall by milliseconds, which over half a minute looks like 100 ppm.
 */
const leastSpanSeconds = 60;
/** Of the answers within one stretch the fastest each way counts. */
const stretchSeconds = 2;
/** Stretches that are remembered: twelve hours. */
const mostStretches = 21_600;

/**
 * Compares two clocks over a line whose delay changes. Each way there is a line below all apparent delays,
 * which the fastest messages touch; of all such lines the one that is highest at the mean time is taken, an
 * edge of the lower convex hull (Moon, Skelly and Towsley, “Estimation and removal of clock skew from network
 * delay measurements”, INFOCOM 1999). What both clocks differ by lies in the middle of both ways (Mills, RFC
 * 5905, section 8): a line whose fastest way there takes longer than its fastest way back is off by half of
 * the difference, which nobody can know from its ends.
 */
export class ClockComparison {
  private readonly there: Point[] = [];
  private readonly back: Point[] = [];
  private stretch = NaN;

  add({ sent, received, answered, back }: ClockSample): void {
    if (![sent, received, answered, back].every(Number.isFinite) || back < sent || answered < received)
      return;
    const stretch = Math.floor(sent / stretchSeconds);
    const fresh = stretch !== this.stretch;
    this.stretch = stretch;
    keep(this.there, { at: sent, delay: received - sent }, fresh);
    keep(this.back, { at: back, delay: back - answered }, fresh);
  }

  get empty(): boolean {
    return this.there.length === 0;
  }

  /**
   * How the other clock goes, from what was compared in [from, to] of the own one; null where nothing was.
   */
  line(from = -Infinity, to = Infinity): ClockLine | null {
    const within = ({ at }: Point) => at >= from && at <= to;
    const [there, back] = [this.there.filter(within), this.back.filter(within)];
    if (there.length === 0 || back.length === 0) return null;
    const own = meanOf([...there, ...back]);
    const [a, b] = [slopeBelow(there, own), slopeBelow(back, own)];
    const slope = slopeOfBoth([a, slopeError(there, a)], [-b, slopeError(back, b)]);
    const ppm = clamp(slope * 1e6, -mostPpm, mostPpm);
    const [up, down] = [height(there, ppm / 1e6, own), height(back, -ppm / 1e6, own)];
    return { own, other: own + (up - down) / 2, ppm, errorSeconds: Math.max(0, (up + down) / 2) };
  }
}

function keep(points: Point[], point: Point, fresh: boolean) {
  const last = points.length - 1;
  if (fresh || last < 0) points.push(point);
  else if (point.delay < points[last].delay) points[last] = point;
  if (points.length > mostStretches) points.shift();
}

const meanOf = (points: readonly Point[]) => points.reduce((sum, { at }) => sum + at / points.length, 0);

/** The edge of the lower convex hull above which the mean lies; level where the time is too short. */
function slopeBelow(points: readonly Point[], mean: number): number {
  const sorted = [...points].sort((a, b) => a.at - b.at);
  if (sorted[sorted.length - 1].at - sorted[0].at < leastSpanSeconds) return 0;
  const hull: Point[] = [];
  for (const point of sorted) {
    while (hull.length > 1 && !turnsUp(hull[hull.length - 2], hull[hull.length - 1], point)) hull.pop();
    hull.push(point);
  }
  const right = hull.findIndex(({ at }) => at >= mean);
  const [from, to] = [hull[Math.max(0, right - 1)], hull[Math.max(1, right)]];
  return (to.delay - from.delay) / (to.at - from.at);
}

/** A tenth of a millionth: what two ways say is no surer. */
const leastError = 1e-7;

/**
 * The slope that both ways show, each with its standard error, the surer one more (inverse variances); 0
 * where it could be none at all: within two standard errors, or where they clearly disagree, and by more than
 * half of it.
 */
function slopeOfBoth(...ways: readonly (readonly [slope: number, error: number])[]): number {
  const weights = ways.map(([, error]) => 1 / Math.max(error, leastError) ** 2);
  const sum = weights.reduce((all, weight) => all + weight, 0);
  const slope = ways.reduce((all, [one], i) => all + (weights[i] / sum) * one, 0);
  const [apart, errors] = [Math.abs(ways[0][0] - ways[1][0]), Math.hypot(ways[0][1], ways[1][1])];
  const unknown = Math.max(2 / Math.sqrt(sum), apart > 3 * errors ? 2 * apart : 0);
  return Math.abs(slope) <= unknown ? 0 : slope;
}

/**
 * Standard error of a slope through points that scatter as these do above a line of that slope (textbook
 * least squares: the scatter over the root of the sum of squared distances from the mean time).
 */
function slopeError(points: readonly Point[], slope: number): number {
  const level = height(points, slope, 0);
  const mean = meanOf(points);
  let [scatter, spread] = [0, 0];
  for (const { at, delay } of points) {
    scatter += (delay - slope * at - level) ** 2;
    spread += (at - mean) ** 2;
  }
  return spread === 0 ? 0 : Math.sqrt(scatter / points.length / spread);
}

const turnsUp = (a: Point, b: Point, c: Point) =>
  (b.delay - a.delay) * (c.at - b.at) < (c.delay - b.delay) * (b.at - a.at);

/** How high a line of that slope can lie below all delays, at one's own second `own`. */
const height = (points: readonly Point[], slope: number, own: number) =>
  points.reduce((least, { at, delay }) => Math.min(least, delay - slope * (at - own)), Infinity);
