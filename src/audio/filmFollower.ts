/** Further off than this a running film is set anew, in seconds; nearer it is led back by its speed. */
const jumpSeconds = 0.3;
/** Nearer than this it runs as it is. */
const closeSeconds = 0.004;
/** How much of what it is off is taken back in a second, and the most its speed differs from 1. */
const pullPerSecond = 2.5;
const mostPull = 0.15;
/** So much the last picture counts in what the film is off. */
const newShare = 0.3;
/** A browser needs so long from being told to run until the first picture moves. */
export const filmStartSeconds = 0.06;
/** A film that stands this near to where it begins need not go there: half a picture, and a drawing. */
const standsSeconds = 0.03;
/** A film that does not come within this of being told where to stand is told again. */
const seekMs = 1500;

/** What is needed of a video element, so that tests can stand in for it. */
export type FilmElement = Pick<
  HTMLVideoElement,
  'currentTime' | 'playbackRate' | 'paused' | 'readyState' | 'play' | 'pause'
> & { seeking: boolean };

/** Where the film should be at a moment of the page’s clock, in seconds; null while nothing runs. */
export type FilmClock = (atMs: number) => number | null;

/**
 * Keeps a silent film with the sound: it follows the clock of the sound and never the other way round. While
 * something runs it is led by its speed; while nothing does it stands on a picture.
 */
export class FilmFollower {
  /** Where it was told to stand, and when. */
  private still: { seconds: number; atMs: number } | null = null;
  /** What the last pictures were off, in seconds: seen later than they should be when negative. */
  private offSeconds: number | null = null;

  constructor(private readonly film: FilmElement) {}

  /**
   * A picture was given to the screen: it begins at `mediaSeconds` of the film and is seen from `shownMs` of
   * the page's clock on (requestVideoFrameCallback). A screen is drawn at its own times, so single ones come
   * up to one drawing late: it is their mean that is led.
   */
  saw(mediaSeconds: number, shownMs: number, clock: FilmClock): void {
    const wanted = clock(shownMs);
    if (wanted === null) return;
    const off = mediaSeconds - wanted;
    const before = this.offSeconds ?? off;
    this.offSeconds = before + (off - before) * newShare;
  }

  /** Called with each frame of the screen while something runs. */
  run(nowMs: number, clock: FilmClock): void {
    const { film } = this;
    const wanted = clock(nowMs);
    if (wanted === null || film.readyState < 2) return;
    this.still = null;
    if (film.paused) {
      if (film.seeking) return;
      this.offSeconds = null;
      const from = Math.max(0, wanted + filmStartSeconds);
      // Where it stands there already it starts at once.
      if (Math.abs(film.currentTime - from) > standsSeconds) film.currentTime = from;
      film.playbackRate = 1;
      void film.play().catch(() => undefined);
      return;
    }
    const off = this.offSeconds;
    if (off === null || film.seeking) return;
    if (Math.abs(off) > jumpSeconds) {
      this.offSeconds = null;
      film.currentTime = Math.max(0, wanted + filmStartSeconds);
      return;
    }
    const pull =
      Math.abs(off) < closeSeconds ? 0 : Math.max(-mostPull, Math.min(mostPull, -off * pullPerSecond));
    if (Math.abs(film.playbackRate - 1 - pull) > 0.005) film.playbackRate = 1 + pull;
  }

  /** Stands at a moment of the film, in seconds; one at a time, the last one wins. */
  stand(seconds: number, nowMs: number): void {
    const { film } = this;
    if (!film.paused) film.pause();
    const waits = film.seeking && this.still !== null && nowMs - this.still.atMs < seekMs;
    if (waits || (this.still !== null && Math.abs(this.still.seconds - seconds) < 1e-6 && !film.seeking))
      return;
    if (film.readyState === 0) return;
    this.still = { seconds, atMs: nowMs };
    film.currentTime = seconds;
  }
}
