import { clipThreshold } from '../base/audio';
import { dbToAmplitude } from '../base/units';
import { faintPeakDbfs } from './levelProfiles';

/** A stretch of a take that did not come out right, in frames from the take's first one. */
export interface Finding {
  kind: 'clap' | 'clipped' | 'faint';
  at: number;
  length: number;
}

/** What comes from the input: sound, a room without a voice, or nothing at all. */
export type Signal = 'sound' | 'quiet' | 'none';

const windowSeconds = 0.05;
/** Clipped samples closer than this are one passage. */
const clippedGapSeconds = 0.6;
/**
 * Under this peak nothing is connected: even a quiet room and a good converter give more (*common practice*).
 */
const noSignalPeak = dbToAmplitude(-85);
/** A muted microphone is told after so long, an absent voice after so long. */
const noSignalSeconds = 3;
const quietSeconds = 20;
/** A window is sound when it stands this far over the room, or over −60 dBFS in a room quieter than that. */
const overRoom = 10 ** 1.2;
const leastSoundPower = 1e-6;
/** The room: the 10th percentile of the windows of so long, looked at every second. */
const roomSeconds = 30;
/**
 * A passage ends with a pause of this length, or when it gets this long; it has to be this long to be judged.
 */
const passageGapSeconds = 0.6;
const longestPassageSeconds = 8;
const shortestPassageSeconds = 1;

/**
 * Watches one channel of a recording as it streams by: passages that clipped, passages that stayed faint
 * throughout, and whether anything comes in at all. Any chunking gives the same findings.
 */
export class LevelWatch {
  private readonly windowFrames: number;
  private frames = 0;
  private filled = 0;
  private peak = 0;
  private squares = 0;
  private powers: number[] = [];
  private room = 0;
  private sinceRoom = 0;
  private clipped: { from: number; to: number } | null = null;
  private passage: { from: number; to: number; sound: number; peak: number } | null = null;
  private deadWindows = 0;
  private quietWindows = 0;

  constructor(private readonly rateHz: number) {
    this.windowFrames = Math.round(rateHz * windowSeconds);
  }

  get signal(): Signal {
    if (this.deadWindows * windowSeconds >= noSignalSeconds) return 'none';
    return this.quietWindows * windowSeconds >= quietSeconds ? 'quiet' : 'sound';
  }

  /** Takes audio in and returns what has become certain meanwhile. */
  process(samples: Float32Array): Finding[] {
    const found: Finding[] = [];
    for (const value of samples) {
      const magnitude = value < 0 ? -value : value;
      if (magnitude > this.peak) this.peak = magnitude;
      this.squares += value * value;
      if (magnitude >= clipThreshold) {
        this.clipped ??= { from: this.frames, to: this.frames };
        this.clipped.to = this.frames + 1;
      }
      this.frames++;
      if (++this.filled === this.windowFrames) found.push(...this.endWindow());
    }
    return found;
  }

  /** What was still open when the recording ended. */
  finish(): Finding[] {
    return [...this.endClipped(), ...this.endPassage()];
  }

  private endWindow(): Finding[] {
    const power = this.squares / this.filled;
    const { peak } = this;
    this.filled = 0;
    this.peak = 0;
    this.squares = 0;
    this.deadWindows = peak < noSignalPeak ? this.deadWindows + 1 : 0;
    this.remember(power);
    const sound = power > Math.max(this.room * overRoom, leastSoundPower);
    this.quietWindows = sound ? 0 : this.quietWindows + 1;
    const found: Finding[] = [];
    if (this.clipped && this.frames - this.clipped.to > clippedGapSeconds * this.rateHz) {
      found.push(...this.endClipped());
    }
    if (sound) this.extendPassage(peak);
    const { passage } = this;
    if (!passage) return found;
    const ended = this.frames - passage.to > passageGapSeconds * this.rateHz;
    const long = passage.to - passage.from > longestPassageSeconds * this.rateHz;
    if (ended || long) found.push(...this.endPassage());
    return found;
  }

  private extendPassage(peak: number) {
    this.passage ??= { from: this.frames - this.windowFrames, to: this.frames, sound: 0, peak: 0 };
    this.passage.to = this.frames;
    this.passage.sound++;
    this.passage.peak = Math.max(this.passage.peak, peak);
  }

  private remember(power: number) {
    this.powers.push(power);
    if (this.powers.length > roomSeconds / windowSeconds) this.powers.shift();
    if (this.sinceRoom++ % Math.round(1 / windowSeconds) !== 0) return;
    const sorted = [...this.powers].sort((a, b) => a - b);
    this.room = sorted[Math.floor((sorted.length - 1) * 0.1)];
  }

  private endClipped(): Finding[] {
    const { clipped } = this;
    this.clipped = null;
    return clipped ? [{ kind: 'clipped', at: clipped.from, length: clipped.to - clipped.from }] : [];
  }

  private endPassage(): Finding[] {
    const { passage } = this;
    this.passage = null;
    if (!passage || passage.peak >= dbToAmplitude(faintPeakDbfs)) return [];
    if (passage.sound * windowSeconds < shortestPassageSeconds) return [];
    return [{ kind: 'faint', at: passage.from, length: passage.to - passage.from }];
  }
}
