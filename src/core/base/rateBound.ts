/**
 * So much is taken in a second, a burst of twice as much: more is a flood, or a fault (a token bucket).
 * Moments are in ms of any clock that does not go back.
 */
export class RateBound {
  private left: number;
  private atMs = 0;

  constructor(private readonly perSecond: number) {
    this.left = 2 * perSecond;
  }

  /** Whether one more is taken now. */
  take(nowMs: number): boolean {
    this.left = Math.min(2 * this.perSecond, this.left + ((nowMs - this.atMs) / 1000) * this.perSecond);
    this.atMs = nowMs;
    if (this.left < 1) return false;
    this.left--;
    return true;
  }
}
