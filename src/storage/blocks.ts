import { blockFrames, packedBlocks, type Planar } from '@/core/base/audio';
import { computePeaks } from '@/core/timeline/peaks';
import { allOf, database, write, type Transaction } from './database';
import type { BlockKey, BlockRecord } from './schema';

const packedFrames = packedBlocks * blockFrames;

/** Where a block stands; one that is longer than a recorded one is packed. */
export const keyOf = (source: string, index: number, frames: number): BlockKey =>
  frames > blockFrames ? [source, index, Math.ceil(frames / blockFrames)] : [source, index];

/** Recorded blocks that a block stands for. */
export const blocksOf = ([, , blocks = 1]: BlockKey) => blocks;

/** All blocks that begin in [from, to], packed ones too. */
export const blockRange = (source: string, from: number, to: number) =>
  IDBKeyRange.bound([source, from], [source, to, Infinity]);

/** Writes one block with its peaks; a block that is written never changes. */
export async function writeBlock(sourceId: string, index: number, audio: Planar): Promise<void> {
  await write(['blocks', 'peaks'], (tx) => addBlock(tx, sourceId, index, audio, audio.map(computePeaks)));
}

/** In a transaction over blocks and peaks. */
export async function addBlock(
  tx: Transaction,
  sourceId: string,
  index: number,
  audio: Planar,
  peaks: readonly Float32Array[],
): Promise<void> {
  const key = keyOf(sourceId, index, audio[0].length);
  await Promise.all([
    tx.objectStore('blocks').add([...audio], key),
    tx.objectStore('peaks').add([...peaks], key),
  ]);
}

/**
 * Peaks of blocks [from, to] of a source, in order; fewer where the source ends. `from` is where a packed one
 * can begin.
 */
export async function readPeaks(sourceId: string, from: number, to: number): Promise<Float32Array[][]> {
  return (await database()).getAll('peaks', blockRange(sourceId, from, to));
}

/** How many frames of a source are on disk, counted from its blocks without a gap. */
export async function storedFrames(sourceId: string): Promise<number> {
  const db = await database();
  const keys = await db.getAllKeys('blocks', allOf(sourceId));
  let blocks = 0;
  let last: BlockKey | null = null;
  for (const key of keys) {
    if (key[1] !== blocks) break;
    blocks += blocksOf(key);
    last = key;
  }
  if (!last) return 0;
  return last[1] * blockFrames + ((await db.get('blocks', last))?.[0]?.length ?? 0);
}

/** Which blocks of a source are on disk, in order, counted as they were recorded. */
export async function blockIndexes(sourceId: string): Promise<number[]> {
  const keys = await (await database()).getAllKeys('blocks', allOf(sourceId));
  return keys.flatMap((key) => Array.from({ length: blocksOf(key) }, (_, i) => key[1] + i));
}

/** One recorded block; undefined where it is not on disk. */
export const readBlock = async (sourceId: string, index: number): Promise<BlockRecord | undefined> =>
  (await database()).get('blocks', [sourceId, index]);

/**
 * Cuts incoming audio of any chunking into packed blocks and stores them in order. While one is written the
 * next is filled: what a write throws is thrown by the next call.
 */
export class BlockWriter {
  private pending: Float32Array<ArrayBuffer>[];
  private filled = 0;
  private index = 0;
  private writing: Promise<void> = Promise.resolve();
  frames = 0;

  constructor(
    private readonly sourceId: string,
    private readonly channels: number,
  ) {
    this.pending = this.freshBlock();
  }

  async write(audio: Planar): Promise<void> {
    const length = audio[0].length;
    for (let from = 0; from < length;) {
      const count = Math.min(length - from, packedFrames - this.filled);
      for (let channel = 0; channel < this.channels; channel++) {
        this.pending[channel].set(audio[channel].subarray(from, from + count), this.filled);
      }
      this.filled += count;
      from += count;
      if (this.filled === packedFrames) await this.store();
    }
    this.frames += length;
  }

  /** Stores what is left and returns the number of frames written in all. */
  async close(): Promise<number> {
    if (this.filled > 0) await this.store();
    await this.writing;
    return this.frames;
  }

  /** Waits for what is being written, so that nothing comes after its source has been removed. */
  async settled(): Promise<void> {
    await this.writing.catch(() => undefined);
  }

  private freshBlock() {
    return Array.from({ length: this.channels }, () => new Float32Array(packedFrames));
  }

  /** Begins to store the block when the one before it is stored. */
  private async store() {
    const whole = this.filled === packedFrames;
    const audio = whole ? this.pending : this.pending.map((samples) => samples.slice(0, this.filled));
    const index = this.index;
    this.pending = this.freshBlock();
    this.filled = 0;
    this.index += packedBlocks;
    await this.writing;
    this.writing = writeBlock(this.sourceId, index, audio);
    // Told by whoever waits for it next, also where nobody does.
    this.writing.catch(() => undefined);
  }
}
