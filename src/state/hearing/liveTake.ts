import type { Finding, Signal } from '@/core/recording/levelWatch';
import { peakFields } from '@/core/timeline/peaks';

/** Peaks of one channel that grow. */
class GrowingPeaks {
  private store = new Float32Array(65_536);
  private used = 0;

  get all(): Float32Array {
    return this.store.subarray(0, this.used);
  }

  append(peaks: Float32Array): void {
    if (this.used + peaks.length > this.store.length) {
      const grown = new Float32Array(Math.max(this.store.length * 2, this.used + peaks.length));
      grown.set(this.all);
      this.store = grown;
    }
    this.store.set(peaks, this.used);
    this.used += peaks.length;
  }
}

/**
 * The take that is being recorded, as far as the sheet needs it, outside React: peaks grow five times a
 * second.
 */
export class LiveTake {
  private readonly channels: GrowingPeaks[];
  /** Frames recorded so far, without handles. */
  frames = 0;
  overrunFrames = 0;
  findings: Finding[] = [];
  readonly signals: Signal[];
  /** Marks the reader set while it was recorded. */
  readonly markIds = new Set<string>();

  constructor(
    readonly sourceId: string,
    readonly take: number,
    /** Sheet frame at which the take will stand. */
    readonly startFrame: number,
    /** The tracks its channels are recorded for, in the order of the channels. */
    readonly trackIds: readonly string[],
  ) {
    this.channels = trackIds.map(() => new GrowingPeaks());
    this.signals = trackIds.map(() => 'sound');
  }

  peaksOf(channel: number): Float32Array {
    return this.channels[channel].all;
  }

  get peakCount() {
    return this.channels[0].all.length / peakFields;
  }

  append(peaks: readonly Float32Array[], frames: number, overrunFrames: number): void {
    peaks.forEach((fresh, channel) => this.channels[channel]?.append(fresh));
    this.frames = frames;
    this.overrunFrames = overrunFrames;
  }
}
