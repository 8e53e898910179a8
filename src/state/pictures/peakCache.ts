import { blockFrames } from '@/core/base/audio';
import { peakFields, peakFrames } from '@/core/timeline/peaks';
import { readPeaks } from '@/storage/blocks';

/** Peaks are read in groups of this many blocks: 22 s at 48 kHz. */
const groupBlocks = 64;
/** 512 groups are three hours of mono at 48 kHz: 24 MB. */
const keptGroups = 512;
const peaksPerBlock = blockFrames / peakFrames;
const peaksPerGroup = groupBlocks * peaksPerBlock;

/** Lowest and highest value and mean square over a stretch of a source. */
export interface PeakSpan {
  low: number;
  high: number;
  meanSquare: number;
}

/** Frames [from, to) of a channel of a source. */
export interface SourceRange {
  source: string;
  channel: number;
  from: number;
  to: number;
}

/** So many groups are read before somebody looks at them: as many as leave room for what is looked at. */
const mostAhead = keptGroups - 64;

/** What could not be read is read again after so long, when it is still looked at. */
const againMs = 1000;

/**
 * Peaks for drawing, read from storage when first looked at. A look-up never waits: what is not there yet is
 * null, and listeners are told when more has come, or when it is worth asking again.
 */
export class PeakCache {
  private readonly groups = new Map<string, Float32Array | Promise<void>>();
  private readonly listeners = new Set<() => void>();

  onLoaded(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Peaks that cover frames [from, to) of a channel, or null while they are being read. */
  span(source: string, channel: number, from: number, to: number): PeakSpan | null {
    const first = Math.floor(from / peakFrames);
    const last = Math.max(first + 1, Math.ceil(to / peakFrames));
    let low = Infinity;
    let high = -Infinity;
    let squares = 0;
    let count = 0;
    for (let at = first; at < last;) {
      const group = Math.floor(at / peaksPerGroup);
      const peaks = this.group(source, channel, group);
      if (!peaks) return null;
      const start = group * peaksPerGroup;
      const end = Math.min(last, start + peaksPerGroup);
      for (; at < end; at++) {
        const index = (at - start) * peakFields;
        if (index >= peaks.length) continue;
        if (peaks[index] < low) low = peaks[index];
        if (peaks[index + 1] > high) high = peaks[index + 1];
        squares += peaks[index + 2];
        count++;
      }
    }
    return count === 0 ? { low: 0, high: 0, meanSquare: 0 } : { low, high, meanSquare: squares / count };
  }

  /** Waits until frames [from, to) can be looked up. Throws what reading them throws. */
  async ready(source: string, channel: number, from: number, to: number): Promise<void> {
    const groupFrames = groupBlocks * blockFrames;
    const reading: (Float32Array | Promise<void>)[] = [];
    for (let group = Math.floor(from / groupFrames); group * groupFrames < to; group++)
      reading.push(this.known(source, channel, group));
    await Promise.all(reading);
  }

  /**
   * Reads what will be looked at, one group after another, so that scrolling finds it; returns what ends it.
   */
  readAhead(ranges: readonly SourceRange[]): () => void {
    let goesOn = true;
    const groupFrames = groupBlocks * blockFrames;
    const work = async () => {
      let read = 0;
      for (const { source, channel, from, to } of ranges)
        for (let group = Math.floor(from / groupFrames); group * groupFrames < to; group++) {
          if (!goesOn || ++read > mostAhead) return;
          if (!this.groups.has(`${source}/${channel}/${group}`)) await this.known(source, channel, group);
        }
    };
    // What cannot be read now is read when it is looked at.
    work().catch(() => undefined);
    return () => (goesOn = false);
  }

  private group(source: string, channel: number, group: number): Float32Array | null {
    const known = this.known(source, channel, group);
    return known instanceof Float32Array ? known : null;
  }

  private known(source: string, channel: number, group: number): Float32Array | Promise<void> {
    const key = `${source}/${channel}/${group}`;
    const known = this.groups.get(key);
    if (known instanceof Float32Array) {
      this.groups.delete(key);
      this.groups.set(key, known);
    }
    if (known) return known;
    const loading = this.load(key, source, channel, group);
    this.groups.set(key, loading);
    loading.catch(() =>
      setTimeout(() => {
        this.groups.delete(key);
        this.tell();
      }, againMs),
    );
    return loading;
  }

  private async load(key: string, source: string, channel: number, group: number) {
    const blocks = await readPeaks(source, group * groupBlocks, (group + 1) * groupBlocks - 1);
    const peaks = new Float32Array(blocks.reduce((sum, block) => sum + (block[channel]?.length ?? 0), 0));
    let at = 0;
    for (const block of blocks) {
      if (!block[channel]) continue;
      peaks.set(block[channel], at);
      at += block[channel].length;
    }
    this.groups.set(key, peaks);
    for (const old of this.groups.keys()) {
      if (this.groups.size <= keptGroups) break;
      this.groups.delete(old);
    }
    this.tell();
  }

  private tell() {
    for (const listener of this.listeners) listener();
  }
}
