import { blockFrames, type Planar } from '@/core/base/audio';
import { computePeaks } from '@/core/timeline/peaks';
import type { Piece } from '@/core/timeline/pieces';
import type { Recorded } from '@/core/timeline/takes';
import { allOf, database, write, type Transaction } from './database';
import type { SourceRecord, TakeOfProject } from './schema';

export async function createSource(record: SourceRecord): Promise<void> {
  await write(['sources'], (tx) =>
    tx
      .objectStore('sources')
      .put(record)
      .then(() => undefined),
  );
}

/** Writes one block with its peaks; a block that is written never changes. */
export async function writeBlock(sourceId: string, index: number, audio: Planar): Promise<void> {
  await writeBlocks(sourceId, index, [audio]);
}

/** Several blocks in one transaction, for imports, where speed matters more than losing at most one block. */
export async function writeBlocks(
  sourceId: string,
  firstIndex: number,
  blocks: readonly Planar[],
): Promise<void> {
  await write(['blocks', 'peaks'], async (tx) => {
    await Promise.all(
      blocks.flatMap((audio, i) => [
        tx.objectStore('blocks').add([...audio], [sourceId, firstIndex + i]),
        tx.objectStore('peaks').add(audio.map(computePeaks), [sourceId, firstIndex + i]),
      ]),
    );
  });
}

export async function finishSource(id: string, changes: Partial<SourceRecord>): Promise<void> {
  await write(['sources'], async (tx) => {
    const store = tx.objectStore('sources');
    const record = await store.get(id);
    if (record) await store.put({ ...record, ...changes });
  });
}

/** Removes a source with its audio, in a transaction over sources, blocks and peaks. */
export async function deleteSource(tx: Transaction, id: string): Promise<void> {
  await tx.objectStore('sources').delete(id);
  await tx.objectStore('blocks').delete(allOf(id));
  await tx.objectStore('peaks').delete(allOf(id));
}

/** A project lets go of a source; its audio goes with the last project that has it. */
export async function letGo(tx: Transaction, source: SourceRecord, projectId: string): Promise<void> {
  const projectIds = source.projectIds.filter((id) => id !== projectId);
  if (projectIds.length === 0) return deleteSource(tx, source.id);
  const { [projectId]: _gone, ...own } = source.own ?? {};
  await tx.objectStore('sources').put({ ...source, projectIds, own });
}

/** Removes a recording that nothing refers to. */
export async function removeSource(id: string): Promise<void> {
  await write(['sources', 'blocks', 'peaks'], (tx) => deleteSource(tx, id));
}

/** A source as a project has it. */
export const sourceIn = (projectId: string, source: SourceRecord): SourceRecord => ({
  ...source,
  ...source.own?.[projectId],
});

/** The sources of a project, as it has them. */
export async function sourcesOfProject(projectId: string): Promise<SourceRecord[]> {
  const sources = await (await database()).getAllFromIndex('sources', 'project', projectId);
  return sources.map((source) => sourceIn(projectId, source));
}

/** Changes what one project says of a take; another one that shares its audio keeps what it says. */
export async function changeTake(projectId: string, id: string, changes: TakeOfProject): Promise<void> {
  await write(['sources'], async (tx) => {
    const store = tx.objectStore('sources');
    const record = await store.get(id);
    if (!record) return;
    const shared = record.projectIds.length > 1 || record.own;
    const own = { ...record.own, [projectId]: { ...record.own?.[projectId], ...changes } };
    await store.put(shared ? { ...record, own } : { ...record, ...changes });
  });
}

export const sourceRecord = async (id: string): Promise<SourceRecord | undefined> =>
  (await database()).get('sources', id);

/** The tracks a source was recorded for, in the order of its channels. */
export const trackIdsOf = ({ trackIds, trackId }: Pick<SourceRecord, 'trackIds' | 'trackId'>) =>
  trackIds ?? [trackId];

/** What a take brings to the sheet: its own `length` frames, each channel for its track. */
export function recordedOf(
  source: Pick<SourceRecord, 'id' | 'trackIds' | 'trackId' | 'handleFrames'>,
  length: number,
): Recorded {
  const piece = (channel: number): Piece => ({
    kind: 'audio',
    source: source.id,
    channel,
    from: source.handleFrames,
    length,
    gainDb: 0,
  });
  return new Map(trackIdsOf(source).map((track, channel) => [track, [piece(channel)]]));
}

/** Peaks of blocks [from, to] of a source, in order; fewer where the source ends. */
export async function readPeaks(sourceId: string, from: number, to: number): Promise<Float32Array[][]> {
  return (await database()).getAll('peaks', allOf(sourceId, from, to));
}

/** How many frames of a source are on disk, counted from its blocks without a gap. */
export async function storedFrames(sourceId: string): Promise<number> {
  const db = await database();
  const keys = await db.getAllKeys('blocks', allOf(sourceId));
  let count = 0;
  while (count < keys.length && keys[count][1] === count) count++;
  if (count === 0) return 0;
  const last = await db.get('blocks', [sourceId, count - 1]);
  return (count - 1) * blockFrames + (last?.[0]?.length ?? 0);
}

/** Cuts incoming audio of any chunking into blocks and stores them in order, several to a transaction. */
export class BlockWriter {
  private pending: Float32Array<ArrayBuffer>[];
  private filled = 0;
  private index = 0;
  private ready: Float32Array<ArrayBuffer>[][] = [];
  frames = 0;

  constructor(
    private readonly sourceId: string,
    private readonly channels: number,
    private readonly blocksPerWrite = 16,
  ) {
    this.pending = this.freshBlock();
  }

  async write(audio: Planar): Promise<void> {
    const length = audio[0].length;
    for (let from = 0; from < length;) {
      const count = Math.min(length - from, blockFrames - this.filled);
      for (let channel = 0; channel < this.channels; channel++) {
        this.pending[channel].set(audio[channel].subarray(from, from + count), this.filled);
      }
      this.filled += count;
      from += count;
      if (this.filled === blockFrames) this.endBlock();
      if (this.ready.length >= this.blocksPerWrite) await this.store();
    }
    this.frames += length;
  }

  /** Stores what is left and returns the number of frames written in all. */
  async close(): Promise<number> {
    if (this.filled > 0) this.endBlock();
    await this.store();
    return this.frames;
  }

  private freshBlock() {
    return Array.from({ length: this.channels }, () => new Float32Array(blockFrames));
  }

  private endBlock() {
    this.ready.push(this.pending.map((samples) => samples.slice(0, this.filled)));
    this.pending = this.freshBlock();
    this.filled = 0;
  }

  private async store() {
    if (this.ready.length === 0) return;
    await writeBlocks(this.sourceId, this.index, this.ready);
    this.index += this.ready.length;
    this.ready = [];
  }
}
