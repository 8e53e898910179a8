import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { writtenFramesOf } from '@/core/timeline/guides';
import type { Step } from '@/core/timeline/history';
import { type Timeline } from '@/core/timeline/timeline';
import { storeTimeline } from '@/core/timeline/stored';
import { allOf, database, write, type Transaction } from './database';
import type { PartRecord, SourceRecord } from './schema';

/** Stores fields that are not part of the history: name, script, caret. */
export async function updatePart(id: string, changes: Partial<PartRecord>): Promise<void> {
  await write(['parts'], async (tx) => {
    const store = tx.objectStore('parts');
    const part = await store.get(id);
    if (!part) throw new ParolaError('not-found', say`This part is not on this machine any more.`);
    await store.put({ ...part, ...changes });
  });
}

/** A recording that a step puts into its part, with what became known when it ended. */
export type Placed = Pick<SourceRecord, 'id' | 'frames'> &
  Partial<Pick<SourceRecord, 'summary' | 'overrunFrames'>>;

/** A part with another timeline, when so many steps of its history are applied. */
export const withTimeline = (part: PartRecord, timeline: Timeline, historyAt: number): PartRecord => ({
  ...part,
  timeline: storeTimeline(timeline),
  heardFrames: writtenFramesOf(timeline),
  historyAt,
});

/**
 * Stores a part as it is after an edit, and the edit as the last of its steps that are applied, dropping what
 * could have been redone. The source named by `placed` is marked as standing in its part in the same
 * transaction. The caller knows all of the part: reading one of thousands of pieces again would take longer
 * than storing it.
 */
export async function saveStep(part: PartRecord, step: Step, placed: Placed | null = null): Promise<void> {
  const seq = part.historyAt - 1;
  await write(['parts', 'history', 'sources'], async (tx) => {
    await putPart(tx, part);
    const history = tx.objectStore('history');
    await history.delete(allOf(part.id, seq));
    await history.put({ partId: part.id, seq, step });
    if (placed) {
      const sources = tx.objectStore('sources');
      const source = await sources.get(placed.id);
      if (source) await sources.put({ ...source, ...placed, state: 'kept' });
    }
  });
}

/** Stores a part as it is after undo or redo: the history keeps its steps. */
export async function saveHistoryPosition(part: PartRecord): Promise<void> {
  await write(['parts'], (tx) => putPart(tx, part));
}

async function putPart(tx: Transaction, part: PartRecord) {
  const parts = tx.objectStore('parts');
  if ((await parts.count(part.id)) === 0)
    throw new ParolaError('not-found', say`This part is not on this machine any more.`);
  await parts.put(part);
}

export async function readStep(partId: string, seq: number): Promise<Step | null> {
  return (await (await database()).get('history', [partId, seq]))?.step ?? null;
}

/** The number of steps stored, applied or not. */
export async function historyLength(partId: string): Promise<number> {
  return (await database()).count('history', allOf(partId));
}
