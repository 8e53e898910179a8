/** Differences are looked at over two stretches of so many seconds. */
const stretchSeconds = 5;
/** A clock that is behind what it should be by more has stood still. */
const stoodSeconds = 0.25;

/**
 * The time of an audio context, told more finely than it is counted. It moves in steps, a quantum or a
 * device's buffer at a time; the page's clock moves smoothly, but not at the same rate. What the context's
 * time was ahead at most in the last seconds, just after a step, is what lies between the two.
 */
export class SteadyClock {
  private from = NaN;
  private current = -Infinity;
  private before = -Infinity;
  private last = -Infinity;

  /** The context's time now; both in seconds. Never goes back while the context runs. */
  read(contextSeconds: number, pageSeconds: number): number {
    const ahead = contextSeconds - pageSeconds;
    if (Number.isNaN(this.from) || ahead < Math.max(this.current, this.before) - stoodSeconds) {
      this.from = pageSeconds;
      this.current = ahead;
      this.before = -Infinity;
      this.last = -Infinity;
    }
    if (pageSeconds - this.from > stretchSeconds) {
      this.from = pageSeconds;
      this.before = this.current;
      this.current = ahead;
    }
    this.current = Math.max(this.current, ahead);
    this.last = Math.max(this.last, pageSeconds + Math.max(this.current, this.before));
    return this.last;
  }
}
