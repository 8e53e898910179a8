import { blockFrames, packedBlocks } from '@/core/base/audio';
import type { SourceReader } from '@/core/timeline/sourceReader';
import { blockRange } from './blocks';
import { database } from './database';
import type { BlockRecord, SourceRecord } from './schema';

const groupFrames = packedBlocks * blockFrames;
/** Groups kept after use: 16 are 44 s of mono at 48 kHz, 8 MB. */
const keptGroups = 16;
/**
 * Groups asked for before they are needed, where a source is read on: an answer takes longer than the work on
 * it.
 */
const aheadGroups = 4;

/** A stretch of a source that begins at frame `start`. */
interface Stretch {
  readonly start: number;
  readonly audio: BlockRecord;
}

/**
 * Reads recorded audio for the renderer in groups of blocks, packed or as they were recorded, and keeps those
 * used last. Where a source is read on from where it was, the next groups are asked for before they are
 * needed.
 */
export class BlockReader implements SourceReader {
  private readonly frames: Map<string, number>;
  private readonly kept = new Map<string, Promise<Stretch[]>>();
  /** Groups that have been asked for and have not come. */
  private loading = 0;
  /** Where the last reading of a source ended. */
  private readonly ends = new Map<string, number>();

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
    const to = from + frames;
    for (let group = Math.floor(from / groupFrames); group * groupFrames < to; group++) {
      const start = Math.max(from, group * groupFrames);
      const end = Math.min(to, (group + 1) * groupFrames);
      const copied = copy(await this.group(source, group), channel, start, end, output, offset - from);
      // What is still being recorded has grown since.
      if (copied < end - start) {
        this.kept.delete(`${source}/${group}`);
        copy(await this.group(source, group), channel, start, end, output, offset - from);
      }
    }
    this.lookAhead(source, from, to);
    this.forget();
    if (this.loading > 0) await turn();
  }

  private lookAhead(source: string, from: number, to: number) {
    const before = this.ends.get(source) ?? -1;
    this.ends.set(source, to);
    if (before < from - groupFrames || before > to) return;
    const last = Math.floor((this.lengthOf(source) - 1) / groupFrames);
    const here = Math.floor(to / groupFrames);
    for (let next = here + 1; next <= Math.min(last, here + aheadGroups); next++)
      if (!this.kept.has(`${source}/${next}`)) this.group(source, next).catch(() => undefined);
  }

  /** A group that is there already moves to the end of the order of forgetting. */
  private group(source: string, group: number): Promise<Stretch[]> {
    const key = `${source}/${group}`;
    const loading = this.kept.get(key) ?? this.load(key, source, group);
    this.kept.delete(key);
    this.kept.set(key, loading);
    return loading;
  }

  private async load(key: string, source: string, group: number): Promise<Stretch[]> {
    this.loading++;
    try {
      return await load(source, group * packedBlocks);
    } catch (error) {
      this.kept.delete(key);
      throw error;
    } finally {
      this.loading--;
    }
  }

  private forget() {
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= keptGroups) break;
      this.kept.delete(oldest);
    }
  }
}

/**
 * Lets the browser deliver what has come. Whoever reads what is there already never waits, and what was asked
 * for ahead, which comes in several steps, would not come.
 */
function turn(): Promise<void> {
  return new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });
}

/**
 * Copies what of frames [start, end) is in the stretches to its place, and says how many frames that were.
 */
function copy(
  stretches: readonly Stretch[],
  channel: number,
  start: number,
  end: number,
  output: Float32Array,
  offset: number,
): number {
  let copied = 0;
  for (const { start: first, audio } of stretches) {
    const samples = audio[channel];
    if (!samples) continue;
    const from = Math.max(start, first);
    const to = Math.min(end, first + samples.length);
    if (to <= from) continue;
    output.set(samples.subarray(from - first, to - first), offset + from);
    copied += to - from;
  }
  return copied;
}

/** The blocks of a group. Their keys are only read where the blocks alone do not tell which they are. */
async function load(source: string, first: number): Promise<Stretch[]> {
  const range = blockRange(source, first, first + packedBlocks - 1);
  const db = await database();
  const blocks = await db.getAll('blocks', range);
  const [packed] = blocks;
  const isPacked = blocks.length === 1 && packed[0].length > blockFrames;
  if (isPacked || blocks.length === packedBlocks)
    return blocks.map((audio, i) => ({ start: (first + i) * blockFrames, audio }));
  const { store } = db.transaction('blocks');
  const [keys, again] = await Promise.all([store.getAllKeys(range), store.getAll(range)]);
  return keys.map((key, i) => ({ start: key[1] * blockFrames, audio: again[i] }));
}
