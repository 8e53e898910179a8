import quickselect from 'quickselect';
import { amplitudeToDb, powerToDb } from '../base/units';

export type LevelWord = 'No signal' | 'Thin' | 'On target' | 'Hot' | 'Clipped' | 'Waiting';

export interface LevelReading {
  /** Peak now, falling smoothly, dBFS. */
  peakDb: number;
  /** Highest peak of the last 1.5 s, dBFS. */
  heldDb: number;
  /**
   * Usual level of speech (RMS of what stands out from the room) and of the room, over the last 30 s, dBFS;
   * −∞ while unknown.
   */
  speechDb: number;
  roomDb: number;
  clipped: number;
  word: LevelWord;
}

const holdSeconds = 1.5;
/** The word judges the loudest of this long, so that it does not flicker in pauses. */
const wordSeconds = 4;
const fallDbPerSecond = 24;
const historySeconds = 30;
const windowSeconds = 0.05;
/** Speech and room are counted anew so often; half a minute does not change faster. */
const usualEverySeconds = 0.2;
/** So many windows are let go of at a time. */
const mostForgotten = 600;
/** Peaks under this for so long: a muted microphone, not a quiet room. */
const noSignalDb = -85;
const noSignalSeconds = 3;
/** Quieter than this nothing has been said yet. */
const waitingDb = -50;

/**
 * Turns what the level column reads from the capture into what it shows. Times are seconds of any steady
 * clock.
 */
export class LevelColumnReader {
  private shown = -Infinity;
  private shownAt = 0;
  private peaks: { at: number; db: number }[] = [];
  /** Powers of the last windows, oldest first from `oldest` on, with their times. */
  private windows: { at: number; power: number }[] = [];
  private oldest = 0;
  /** Of the windows there were when it was counted last. */
  private usual = { speechDb: -Infinity, roomDb: -Infinity };
  private usualAt = -Infinity;
  private sum = 0;
  private count = 0;
  private windowEnd = 0;
  private clippedBefore = 0;
  private clippedNow = 0;
  /** When something came in last, and when looking began. */
  private signalAt: number | null = null;

  constructor(private readonly aim: { min: number; max: number }) {}

  /** `peak` is linear, `meanSquare` a power; `clipped` counts since the input was opened. */
  read(at: number, fresh: { peak: number; meanSquare: number; clipped: number } | null): LevelReading {
    if (fresh) this.take(at, fresh);
    const fallen = this.shown - fallDbPerSecond * (at - this.shownAt);
    this.shown = Math.max(fallen, fresh ? amplitudeToDb(fresh.peak) : -Infinity);
    this.shownAt = at;
    this.peaks = this.peaks.filter((peak) => at - peak.at < wordSeconds);
    const held = this.highest(at, holdSeconds);
    const clipped = this.clippedNow - this.clippedBefore;
    return { peakDb: this.shown, heldDb: held, clipped, word: this.word(at, clipped), ...this.usual };
  }

  clearClipped(): void {
    this.clippedBefore = this.clippedNow;
  }

  private take(
    at: number,
    { peak, meanSquare, clipped }: { peak: number; meanSquare: number; clipped: number },
  ) {
    const db = amplitudeToDb(peak);
    if (this.signalAt === null || db > noSignalDb) this.signalAt = at;
    while (this.peaks.length > 0 && this.peaks[this.peaks.length - 1].db <= db) this.peaks.pop();
    this.peaks.push({ at, db });
    this.clippedNow = clipped;
    this.sum += meanSquare;
    this.count++;
    if (at < this.windowEnd) return;
    this.windows.push({ at, power: this.sum / this.count });
    this.windowEnd = at + windowSeconds;
    this.sum = 0;
    this.count = 0;
    this.forget(at);
    if (at - this.usualAt < usualEverySeconds) return;
    this.usualAt = at;
    this.usual = usualOf(this.windows, this.oldest);
  }

  private forget(at: number) {
    while (at - this.windows[this.oldest].at >= historySeconds) this.oldest++;
    if (this.oldest < mostForgotten) return;
    this.windows = this.windows.slice(this.oldest);
    this.oldest = 0;
  }

  private highest(at: number, seconds: number): number {
    return this.peaks.reduce(
      (highest, peak) => (at - peak.at < seconds ? Math.max(highest, peak.db) : highest),
      -Infinity,
    );
  }

  private word(at: number, clipped: number): LevelWord {
    if (this.signalAt !== null && at - this.signalAt >= noSignalSeconds) return 'No signal';
    if (clipped > 0) return 'Clipped';
    const loudest = this.highest(at, wordSeconds);
    if (loudest < waitingDb) return 'Waiting';
    if (loudest < this.aim.min) return 'Thin';
    return loudest > this.aim.max ? 'Hot' : 'On target';
  }
}

/** Room: the 10th percentile of 50 ms windows. Speech: the mean power of those 15 dB over it. */
function usualOf(
  windows: readonly { power: number }[],
  oldest: number,
): { speechDb: number; roomDb: number } {
  const count = windows.length - oldest;
  if (count < 10) return { speechDb: -Infinity, roomDb: -Infinity };
  const powers = Array.from({ length: count }, (_, i) => windows[oldest + i].power);
  const rank = Math.floor(count * 0.1);
  quickselect(powers, rank);
  const room = powers[rank];
  let total = 0;
  let speaking = 0;
  for (const power of powers) {
    if (power <= room * 10 ** 1.5) continue;
    total += power;
    speaking++;
  }
  return { speechDb: speaking > 4 ? powerToDb(total / speaking) : -Infinity, roomDb: powerToDb(room) };
}
