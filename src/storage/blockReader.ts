import { blockFrames } from '@/core/base/audio';
import type { SourceReader } from '@/core/timeline/sourceReader';
import { allOf, database } from './database';
import type { BlockRecord, SourceRecord } from './schema';

/** Blocks kept after use: 64 are 21 s of mono at 48 kHz, 4 MB. */
const keptBlocks = 64;

/** Reads recorded audio for the renderer, keeping the blocks used last. */
export class BlockReader implements SourceReader {
  private readonly frames: Map<string, number>;
  private readonly kept = new Map<string, BlockRecord | undefined>();

  constructor(sources: readonly Pick<SourceRecord, 'id' | 'frames'>[]) {
    this.frames = new Map(sources.map(({ id, frames }) => [id, frames]));
  }

  lengthOf = (source: string) => this.frames.get(source) ?? 0;

  async read(
    source: string,
    channel: number,
    from: number,
    frames: number,
    output: Float32Array,
    offset: number,
  ) {
    const first = Math.floor(from / blockFrames);
    const last = Math.floor((from + frames - 1) / blockFrames);
    await this.load(source, first, last);
    for (let index = first; index <= last; index++) {
      const samples = this.kept.get(`${source}/${index}`)?.[channel];
      if (!samples) continue;
      const start = Math.max(from, index * blockFrames);
      const end = Math.min(from + frames, index * blockFrames + samples.length);
      if (end > start) {
        output.set(
          samples.subarray(start - index * blockFrames, end - index * blockFrames),
          offset + start - from,
        );
      }
    }
    this.forget();
  }

  private async load(source: string, first: number, last: number) {
    while (first <= last && this.touch(`${source}/${first}`)) first++;
    if (first > last) return;
    const db = await database();
    const tx = db.transaction('blocks');
    const range = allOf(source, first, last);
    const [keys, blocks] = await Promise.all([tx.store.getAllKeys(range), tx.store.getAll(range)]);
    keys.forEach(([, index], i) => this.kept.set(`${source}/${index}`, blocks[i]));
  }

  /** Moves a kept block to the end of the order of forgetting. */
  private touch(key: string): boolean {
    if (!this.kept.has(key)) return false;
    const block = this.kept.get(key);
    this.kept.delete(key);
    this.kept.set(key, block);
    return true;
  }

  private forget() {
    for (const key of this.kept.keys()) {
      if (this.kept.size <= keptBlocks) return;
      this.kept.delete(key);
    }
  }
}
