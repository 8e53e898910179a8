import { ParolaError } from '@/core/base/errors';
import type { Step } from '@/core/timeline/history';
import { heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import { storeTimeline } from '@/core/timeline/stored';
import { allOf, database, write, type Transaction } from './database';
import type { PartRecord, SourceRecord } from './schema';

/** Stores fields that are not part of the history: name, script, caret. */
export async function updatePart(id: string, changes: Partial<PartRecord>): Promise<void> {
  await write(['parts'], async (tx) => {
    const store = tx.objectStore('parts');
    const part = await store.get(id);
    if (!part) throw new ParolaError('not-found', 'This part is not on this machine any more.');
    await store.put({ ...part, ...changes });
  });
}

/** A recording that a step puts into its part, with what became known when it ended. */
export type Placed = Pick<SourceRecord, 'id' | 'frames'> &
  Partial<Pick<SourceRecord, 'summary' | 'overrunFrames'>>;

/**
 * Stores an edit: the new timeline, and its step as number `seq` of the history, dropping what could have
 * been redone. The source named by `placed` is marked as standing in its part in the same transaction.
 */
export async function saveStep(
  partId: string,
  timeline: Timeline,
  seq: number,
  step: Step,
  placed: Placed | null = null,
): Promise<void> {
  await write(['parts', 'history', 'sources'], async (tx) => {
    await putTimeline(tx, partId, timeline, seq + 1);
    const history = tx.objectStore('history');
    await history.delete(allOf(partId, seq));
    await history.put({ partId, seq, step });
    if (placed) {
      const sources = tx.objectStore('sources');
      const source = await sources.get(placed.id);
      if (source) await sources.put({ ...source, ...placed, state: 'kept' });
    }
  });
}

/** Stores the state after undo or redo: the history keeps its steps, `historyAt` of them are applied. */
export async function saveHistoryPosition(
  partId: string,
  timeline: Timeline,
  historyAt: number,
): Promise<void> {
  await write(['parts'], (tx) => putTimeline(tx, partId, timeline, historyAt));
}

async function putTimeline(tx: Transaction, partId: string, timeline: Timeline, historyAt: number) {
  const parts = tx.objectStore('parts');
  const part = await parts.get(partId);
  if (!part) throw new ParolaError('not-found', 'This part is not on this machine any more.');
  await parts.put({
    ...part,
    timeline: storeTimeline(timeline),
    historyAt,
    heardFrames: heardFramesOf(timeline),
  });
}

export async function readStep(partId: string, seq: number): Promise<Step | null> {
  return (await (await database()).get('history', [partId, seq]))?.step ?? null;
}

/** The number of steps stored, applied or not. */
export async function historyLength(partId: string): Promise<number> {
  return (await database()).count('history', allOf(partId));
}
