import { blockFrames, packedBlocks } from '@/core/base/audio';
import { allOf, database, write } from './database';
import { addBlock, blockRange, blocksOf } from './blocks';
import type { BlockKey } from './schema';

const joined = (parts: readonly Float32Array[]): Float32Array<ArrayBuffer> => {
  const all = new Float32Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
};

/** The first block of each packed one that could be made of a source's recorded blocks. */
function worthPacking(keys: readonly BlockKey[]): number[] {
  const counts = new Map<number, number>();
  for (const key of keys) {
    if (blocksOf(key) > 1) continue;
    const first = Math.floor(key[1] / packedBlocks) * packedBlocks;
    counts.set(first, (counts.get(first) ?? 0) + 1);
  }
  return [...counts].filter(([, count]) => count > 1).map(([first]) => first);
}

/**
 * Puts the blocks a source was recorded in together into packed ones, each in a transaction of its own: at
 * any moment all of its audio is there once, in one form or the other. Blocks between which one is missing
 * stay as they are. Only sources whose take is closed; others are left alone. Stops before the next block
 * when `signal` says so.
 */
export async function repackSource(id: string, signal: AbortSignal): Promise<void> {
  const keys = await (await database()).getAllKeys('blocks', allOf(id));
  for (const first of worthPacking(keys)) {
    if (signal.aborted) return;
    await repackGroup(id, first);
  }
}

function repackGroup(id: string, first: number): Promise<void> {
  return write(['sources', 'blocks', 'peaks'], async (tx) => {
    const source = await tx.objectStore('sources').get(id);
    if (source?.state !== 'kept') return;
    const range = blockRange(id, first, first + packedBlocks - 1);
    const [keys, blocks, peaks] = await Promise.all([
      tx.objectStore('blocks').getAllKeys(range),
      tx.objectStore('blocks').getAll(range),
      tx.objectStore('peaks').getAll(range),
    ]);
    const inOrder = keys.every(([, index, count], i) => index === first + i && count === undefined);
    const whole = blocks.every(([audio], i) => audio.length === blockFrames || i === blocks.length - 1);
    if (blocks.length < 2 || peaks.length !== blocks.length || !inOrder || !whole) return;
    const channels = blocks[0].map((_, channel) => channel);
    await tx.objectStore('blocks').delete(range);
    await tx.objectStore('peaks').delete(range);
    await addBlock(
      tx,
      id,
      first,
      channels.map((channel) => joined(blocks.map((block) => block[channel]))),
      channels.map((channel) => joined(peaks.map((block) => block[channel]))),
    );
  });
}
