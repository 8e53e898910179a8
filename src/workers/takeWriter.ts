import { say } from '@/texts/say';
import { blockFrames } from '@/core/base/audio';
import { toParolaError, type ParolaError } from '@/core/base/errors';
import { within } from '@/core/base/waiting';
import { computePeaks, peakFrames } from '@/core/timeline/peaks';
import type { TakeResult } from './recorderProtocol';

/** A block that is not on disk by then never will be: the disk, or the browser's storage, is stuck. */
const longestWriteMs = 15_000;

/** Stores block `index` of a take; resolves when it is on disk. */
export type StoreBlock = (index: number, audio: Float32Array<ArrayBuffer>[]) => Promise<void>;

/**
 * Collects a take's audio into blocks and hands each to storage when it is full. Blocks are written one after
 * another; audio keeps coming in meanwhile. After a failed write nothing more is stored: what is on disk is a
 * take without a gap.
 */
export class TakeWriter {
  private block: Float32Array<ArrayBuffer>[];
  private filled = 0;
  private nextIndex = 0;
  private storedFrames = 0;
  private queue: Promise<void> = Promise.resolve();
  private received = 0;
  private peaked: number;
  failure: ParolaError | null = null;

  constructor(
    readonly sourceId: string,
    private readonly channels: number,
    /** Frames stored before the take itself begins. */
    readonly handleFrames: number,
    private readonly store: StoreBlock,
  ) {
    this.block = this.freshBlock();
    this.peaked = handleFrames;
  }

  /** All frames taken in, handles included. */
  get frames() {
    return this.received;
  }

  /** Frames that are on disk. */
  get stored() {
    return this.storedFrames;
  }

  /** Takes audio in and returns the peaks of the take that have become whole, one array per channel. */
  append(audio: readonly Float32Array[], from: number, count: number): Float32Array<ArrayBuffer>[] {
    const peaks: Float32Array<ArrayBuffer>[][] = Array.from({ length: this.channels }, () => []);
    for (let done = 0; done < count;) {
      const step = Math.min(count - done, blockFrames - this.filled);
      for (let channel = 0; channel < this.channels; channel++) {
        this.block[channel].set(audio[channel].subarray(from + done, from + done + step), this.filled);
      }
      this.filled += step;
      this.received += step;
      done += step;
      this.freshPeaks(this.filled === blockFrames).forEach((fresh, channel) => peaks[channel].push(fresh));
      if (this.filled === blockFrames) this.endBlock();
    }
    return peaks.map(joined);
  }

  /** Writes the last, short block and waits for everything; `length` is the take's own length in frames. */
  async finish(length: number, overrunFrames: number): Promise<Omit<TakeResult, 'summary'>> {
    if (this.filled > 0) this.endBlock();
    await this.queue;
    const frames = this.storedFrames;
    return {
      sourceId: this.sourceId,
      frames,
      handleFrames: Math.min(this.handleFrames, frames),
      length: Math.max(0, Math.min(length, frames - this.handleFrames)),
      overrunFrames,
    };
  }

  private endBlock() {
    const index = this.nextIndex++;
    const audio = this.block.map((samples) => samples.slice(0, this.filled));
    const frames = this.filled;
    this.block = this.freshBlock();
    this.filled = 0;
    this.queue = this.queue.then(async () => {
      if (this.failure) return;
      try {
        await within(
          this.store(index, audio),
          longestWriteMs,
          say`The storage of this browser does not answer.`,
        );
        this.storedFrames += frames;
      } catch (thrown) {
        this.failure = toParolaError(thrown);
      }
    });
  }

  /** At a block's end nothing may be left over, since peaks are stored with their block. */
  private freshPeaks(blockEnds: boolean): Float32Array<ArrayBuffer>[] {
    const blockStart = this.received - this.filled;
    const from = Math.max(this.peaked, blockStart) - blockStart;
    const to = blockEnds ? this.filled : from + Math.floor((this.filled - from) / peakFrames) * peakFrames;
    if (to <= from) return [];
    this.peaked = blockStart + to;
    return this.block.map((samples) => computePeaks(samples.subarray(from, to)));
  }

  private freshBlock() {
    return Array.from({ length: this.channels }, () => new Float32Array(blockFrames));
  }
}

export function joined(parts: Float32Array<ArrayBuffer>[]): Float32Array<ArrayBuffer> {
  const result = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    result.set(part, at);
    at += part.length;
  }
  return result;
}
