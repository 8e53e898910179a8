import { historyOfStruckPieces, type StruckStep, type StruckTimeline } from '@/core/timeline/struckPieces';
import { hasStruckPieces, loadTimeline, storeTimeline } from '@/core/timeline/stored';
import type { Step } from '@/core/timeline/history';
import { heardFramesOf, type Timeline } from '@/core/timeline/timeline';
import { allOf, write } from './database';
import type { PartRecord } from './schema';

/**
 * Brings the parts of a project that were stored by an earlier version to today's form, with their histories,
 * each in a transaction of its own. The caller holds the project's lock.
 */
export async function upgradeParts(projectId: string): Promise<void> {
  const old = await write(['parts'], async (tx) => {
    const parts = await tx.objectStore('parts').index('project').getAll(projectId);
    return parts.filter(({ timeline }) => hasStruckPieces(timeline)).map(({ id }) => id);
  });
  for (const id of old) await upgradePart(id);
}

/** A part with its history in today's form, whatever form it is stored in. */
export function partToday(
  part: Pick<PartRecord, 'timeline' | 'historyAt'>,
  steps: readonly Step[],
): { timeline: Timeline; history: Step[]; historyAt: number } {
  const timeline = loadTimeline(part.timeline);
  if (!hasStruckPieces(part.timeline)) return { timeline, history: [...steps], historyAt: part.historyAt };
  const told = historyOfStruckPieces(
    part.timeline as unknown as StruckTimeline,
    steps as unknown as StruckStep[],
    part.historyAt,
  );
  return { timeline, history: told.steps, historyAt: told.historyAt };
}

async function upgradePart(id: string): Promise<void> {
  await write(['parts', 'history'], async (tx) => {
    const parts = tx.objectStore('parts');
    const history = tx.objectStore('history');
    const part = await parts.get(id);
    if (!part || !hasStruckPieces(part.timeline)) return;
    const steps = (await history.getAll(allOf(id))).map(({ step }) => step);
    const today = partToday(part, steps);
    await history.delete(allOf(id));
    for (const [seq, step] of today.history.entries()) await history.put({ partId: id, seq, step });
    await parts.put({
      ...part,
      timeline: storeTimeline(today.timeline),
      historyAt: today.historyAt,
      heardFrames: heardFramesOf(today.timeline),
    });
  });
}
