import { seededRandom } from '../base/random';

/** A network as it might be: delays one way, in ms; loss and doubling as shares of all messages. */
export interface Weather {
  readonly delayMs: number;
  /** A message takes up to so much longer, each its own: one may overtake another. */
  readonly jitterMs: number;
  readonly loss: number;
  readonly doubling: number;
  /** Nothing passes from the first to the second moment, in ms. */
  readonly cuts: readonly (readonly [number, number])[];
  /** Messages come in the order they were sent, as on a line that repeats what was lost. */
  readonly inOrder?: boolean;
}

export const fairWeather: Weather = { delayMs: 20, jitterMs: 0, loss: 0, doubling: 0, cuts: [] };

/** When messages that are sent over such a network arrive; the same seed gives the same weather. */
export class SimulatedLine {
  private readonly random: () => number;
  private lastMs = -Infinity;

  constructor(
    readonly weather: Weather,
    seed: number,
  ) {
    this.random = seededRandom(seed);
  }

  /** The moments, in ms, at which a message sent at `nowMs` arrives: none, one, or two. */
  arrivals(nowMs: number): number[] {
    const { loss, doubling, cuts } = this.weather;
    const [lost, doubled] = [this.random() < loss, this.random() < doubling];
    const moments = Array.from({ length: doubled ? 2 : 1 }, () => this.one(nowMs));
    const isCut = (ms: number) => cuts.some(([from, to]) => ms >= from && ms < to);
    return lost || isCut(nowMs) ? [] : moments.filter((ms) => !isCut(ms));
  }

  private one(nowMs: number): number {
    const { delayMs, jitterMs, inOrder = false } = this.weather;
    const ms = nowMs + delayMs + jitterMs * this.random();
    if (!inOrder) return ms;
    return (this.lastMs = Math.max(this.lastMs, ms));
  }
}
