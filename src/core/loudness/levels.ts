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
  private windows: { at: number; power: number }[] = [];
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
    return { peakDb: this.shown, heldDb: held, clipped, word: this.word(at, clipped), ...this.usual(at) };
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
    this.windows = this.windows.filter((window) => at - window.at < historySeconds);
    this.windowEnd = at + windowSeconds;
    this.sum = 0;
    this.count = 0;
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

  /** Room: the 10th percentile of 50 ms windows. Speech: the mean power of those 15 dB over it. */
  private usual(at: number): { speechDb: number; roomDb: number } {
    const powers = this.windows.filter((window) => at - window.at < historySeconds).map(({ power }) => power);
    if (powers.length < 10) return { speechDb: -Infinity, roomDb: -Infinity };
    powers.sort((a, b) => a - b);
    const room = powers[Math.floor(powers.length * 0.1)];
    const speech = powers.filter((power) => power > room * 10 ** 1.5);
    const mean = speech.reduce((total, power) => total + power, 0) / speech.length;
    return { speechDb: speech.length > 4 ? powerToDb(mean) : -Infinity, roomDb: powerToDb(room) };
  }
}
