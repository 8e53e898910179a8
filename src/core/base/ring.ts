import { clipThreshold } from './audio';

/**
 * A ring of interleaved frames in shared memory, one writer (the capture worklet), one reader (the recorder
 * worker).
 *
 * Layout: a header of `Int32` words, clipped samples per channel, a history of levels per channel, then
 * `capacityFrames × channels` 32-bit floats. Positions count frames and wrap at 2³¹; `capacityFrames` is a
 * power of two so that the wrap is harmless. Nothing here allocates after construction.
 */
const header = {
  written: 0,
  read: 1,
  overrunFrames: 2,
  startFrameLow: 3,
  startFrameHigh: 4,
  levelCount: 5,
  words: 8,
};

/** Levels are published in groups of this many frames: one render quantum of the Web Audio API. */
export const levelHistory = 1024;

export interface RingMemory {
  buffer: SharedArrayBuffer;
  channels: number;
  capacityFrames: number;
}

export function createRing(channels: number, minimumFrames: number): RingMemory {
  const capacityFrames = 2 ** Math.ceil(Math.log2(minimumFrames));
  const bytes = 4 * (header.words + channels * (1 + levelHistory * 2 + capacityFrames));
  return { buffer: new SharedArrayBuffer(bytes), channels, capacityFrames };
}

class RingView {
  protected readonly words: Int32Array;
  protected readonly levels: Float32Array;
  protected readonly samples: Float32Array;
  readonly channels: number;
  readonly capacityFrames: number;

  constructor(memory: RingMemory) {
    this.channels = memory.channels;
    this.capacityFrames = memory.capacityFrames;
    const words = header.words + memory.channels;
    const levels = levelHistory * 2 * memory.channels;
    this.words = new Int32Array(memory.buffer, 0, words);
    this.levels = new Float32Array(memory.buffer, words * 4, levels);
    this.samples = new Float32Array(memory.buffer, (words + levels) * 4);
  }

  protected distance(to: number, from: number) {
    return (to - from) | 0;
  }
}

export class RingWriter extends RingView {
  /**
   * Appends planar audio of one render quantum. When the reader has fallen behind by the whole ring the
   * frames are dropped and counted, never written over audio that has not been stored; false tells so.
   */
  write(input: readonly Float32Array[], frames: number): boolean {
    const written = Atomics.load(this.words, header.written);
    const free = this.capacityFrames - this.distance(written, Atomics.load(this.words, header.read));
    this.publishLevel(input, frames);
    if (free < frames) {
      Atomics.add(this.words, header.overrunFrames, frames);
      return false;
    }
    const { channels, samples } = this;
    const mask = this.capacityFrames - 1;
    for (let channel = 0; channel < channels; channel++) {
      const from = input[Math.min(channel, input.length - 1)];
      for (let i = 0; i < frames; i++) {
        samples[((written + i) & mask) * channels + channel] = from ? from[i] : 0;
      }
    }
    Atomics.store(this.words, header.written, (written + frames) | 0);
    return true;
  }

  private publishLevel(input: readonly Float32Array[], frames: number) {
    const { channels, levels, words } = this;
    const count = Atomics.load(words, header.levelCount);
    for (let channel = 0; channel < channels; channel++) {
      const samples = input[Math.min(channel, input.length - 1)];
      let peak = 0;
      let sum = 0;
      let clipped = 0;
      for (let i = 0; samples && i < frames; i++) {
        const magnitude = Math.abs(samples[i]);
        if (magnitude > peak) peak = magnitude;
        if (magnitude >= clipThreshold) clipped++;
        sum += magnitude * magnitude;
      }
      const slot = ((count & (levelHistory - 1)) * channels + channel) * 2;
      levels[slot] = peak;
      levels[slot + 1] = frames > 0 ? sum / frames : 0;
      if (clipped > 0) Atomics.add(words, header.words + channel, clipped);
    }
    Atomics.store(words, header.levelCount, (count + 1) | 0);
  }

  /** The frame of the audio clock at which position 0 of the ring was captured. */
  setStartFrame(frame: number): void {
    Atomics.store(this.words, header.startFrameHigh, Math.floor(frame / 2 ** 31));
    Atomics.store(this.words, header.startFrameLow, frame % 2 ** 31);
  }
}

export class RingReader extends RingView {
  /** Frames read so far, by this reader and those before it; does not wrap. */
  private position = Atomics.load(this.words, header.read) >>> 0;

  get readFrames() {
    return this.position;
  }

  get availableFrames(): number {
    return this.distance(Atomics.load(this.words, header.written), Atomics.load(this.words, header.read));
  }

  get overrunFrames(): number {
    return Atomics.load(this.words, header.overrunFrames);
  }

  get startFrame(): number {
    return (
      Atomics.load(this.words, header.startFrameHigh) * 2 ** 31 +
      Atomics.load(this.words, header.startFrameLow)
    );
  }

  /** Moves up to `frames` frames into `output` from `offset` on and returns how many there were. */
  read(output: readonly Float32Array[], offset: number, frames: number): number {
    const count = Math.min(frames, this.availableFrames);
    const from = Atomics.load(this.words, header.read);
    const mask = this.capacityFrames - 1;
    for (let channel = 0; channel < this.channels; channel++) {
      const to = output[channel];
      for (let i = 0; i < count; i++) {
        to[offset + i] = this.samples[((from + i) & mask) * this.channels + channel];
      }
    }
    Atomics.store(this.words, header.read, (from + count) | 0);
    this.position += count;
    return count;
  }
}

/**
 * What the level columns read, sixty times a second, without a message to anyone; one for each channel that
 * is looked at.
 */
export class RingLevels extends RingView {
  private seen = 0;

  constructor(
    memory: RingMemory,
    private readonly channel = 0,
  ) {
    super(memory);
    this.seen = Atomics.load(this.words, header.levelCount);
  }

  /**
   * The highest peak and mean square since the last call, or null when nothing came; clipped samples since
   * the start.
   */
  take(): { peak: number; meanSquare: number; clipped: number } | null {
    const count = Atomics.load(this.words, header.levelCount);
    const fresh = Math.min(levelHistory, this.distance(count, this.seen));
    this.seen = count;
    if (fresh <= 0) return null;
    let peak = 0;
    let sum = 0;
    for (let i = 1; i <= fresh; i++) {
      const slot = (((count - i) & (levelHistory - 1)) * this.channels + this.channel) * 2;
      peak = Math.max(peak, this.levels[slot]);
      sum += this.levels[slot + 1];
    }
    const clipped = Atomics.load(this.words, header.words + this.channel);
    return { peak, meanSquare: sum / fresh, clipped };
  }
}
