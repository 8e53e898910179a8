import { RingReader, type RingMemory } from '@/core/base/ring';

/** 2.7 s at 48 kHz. */
const keptFrames = 131_072;
/** A recording whose end is past waits no longer than this for the rest of its handle. */
const deadInputMs = 400;
/** After this long without audio a take ends by itself: its input is gone, even if nobody has said so. */
const lostInputMs = 1200;

/**
 * An input as the recorder hears it: what is fresh since the last reading, and the last seconds before that.
 */
export class RecorderFeed {
  private readonly ring: RingReader;
  /** What the last reading brought: `count` frames from context frame `at` on. */
  readonly fresh: Float32Array[];
  count = 0;
  at = 0;
  /** The newest frames before those, `keptCount` of them. */
  readonly kept: Float32Array[];
  keptCount = 0;
  /** When sound last came, in milliseconds of the worker's clock. */
  heardAtMs = performance.now();

  constructor(memory: RingMemory) {
    this.ring = new RingReader(memory);
    this.fresh = Array.from({ length: memory.channels }, () => new Float32Array(memory.capacityFrames));
    this.kept = Array.from({ length: memory.channels }, () => new Float32Array(keptFrames));
  }

  get overrunFrames() {
    return this.ring.overrunFrames;
  }

  /** Reads what has been captured; what was fresh before is kept. */
  read(): void {
    this.remember();
    this.at = this.ring.startFrame + this.ring.readFrames;
    this.count = this.ring.read(this.fresh, 0, this.fresh[0].length);
    if (this.count > 0) this.heardAtMs = performance.now();
  }

  /**
   * Whether no sound is to be waited for any more by a recording that wants frames up to `stopAfter`
   * (Infinity while nobody has stopped it), at `nowMs` of the worker's clock: `ended` when the last of them
   * should have come a while ago, `lost` when nothing has come for long. Sound that the machine holds up for
   * a moment ends no recording whose end still lies ahead.
   */
  silence(stopAfter: number, rateHz: number, nowMs: number): 'ended' | 'lost' | null {
    const silentMs = nowMs - this.heardAtMs;
    const missing = Math.max(0, stopAfter - this.at - this.count);
    if (silentMs - (missing / rateHz) * 1000 > deadInputMs) return 'ended';
    return silentMs > lostInputMs ? 'lost' : null;
  }

  private remember() {
    const take = Math.min(this.count, keptFrames);
    const keep = Math.min(this.keptCount, keptFrames - take);
    for (let channel = 0; channel < this.kept.length; channel++) {
      this.kept[channel].copyWithin(0, this.keptCount - keep, this.keptCount);
      this.kept[channel].set(this.fresh[channel].subarray(this.count - take, this.count), keep);
    }
    this.keptCount = keep + take;
    this.count = 0;
  }
}
