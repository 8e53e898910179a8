import { peakFields } from '@/core/timeline/peaks';

/** The take that is being recorded, as far as the sheet needs it: peaks that grow, thirty times a second, outside React. */
export class LiveTake {
  private store = new Float32Array(65_536);
  private used = 0;
  /** Frames recorded so far, without handles. */
  frames = 0;
  overrunFrames = 0;

  constructor(
    readonly sourceId: string,
    readonly take: number,
    /** Sheet frame at which the take will stand. */
    readonly startFrame: number,
  ) {}

  get peaks(): Float32Array {
    return this.store.subarray(0, this.used);
  }

  get peakCount() {
    return this.used / peakFields;
  }

  append(peaks: Float32Array, frames: number, overrunFrames: number): void {
    if (this.used + peaks.length > this.store.length) {
      const grown = new Float32Array(Math.max(this.store.length * 2, this.used + peaks.length));
      grown.set(this.peaks);
      this.store = grown;
    }
    this.store.set(peaks, this.used);
    this.used += peaks.length;
    this.frames = frames;
    this.overrunFrames = overrunFrames;
  }
}
