import { sourcesOfStep, type Step } from '@/core/timeline/history';
import { sourcesOf } from '@/core/timeline/timeline';
import { loadTimeline } from '@/core/timeline/stored';
import { allOf, write, type Transaction } from './database';
import type { SourceRecord } from './schema';
import { letGo, sourceIn } from './sources';

/**
 * Removes the takes of a project that the user has deleted, with their audio. Undo cannot go back to where
 * one of them was heard, so the steps up to the last that names it go too. A take that some part still shows
 * stays. Its place stays as well, since steps count places; nothing looks up a place without a source.
 */
export async function purgeDeleted(projectId: string): Promise<void> {
  await write(['parts', 'history', 'sources', 'blocks', 'peaks'], (tx) =>
    purgeIn(tx, projectId, ({ deleted }) => deleted === true),
  );
}

/** The same for whichever recordings of a project are `unwanted`, in a transaction. */
export async function purgeIn(
  tx: Transaction,
  projectId: string,
  unwanted: (source: SourceRecord) => boolean,
): Promise<void> {
  const sources = await tx.objectStore('sources').index('project').getAll(projectId);
  const going = sources.filter((source) => unwanted(sourceIn(projectId, source)));
  if (going.length === 0) return;
  const parts = await tx.objectStore('parts').index('project').getAll(projectId);
  const used = new Set(parts.flatMap(({ timeline }) => [...sourcesOf(loadTimeline(timeline))]));
  for (const source of going) {
    if (used.has(source.id)) continue;
    for (const part of parts) await forgetSteps(tx, part.id, source.id);
    await letGo(tx, source, projectId);
  }
}

const names = (step: Step, source: string) => sourcesOfStep(step).has(source);

/**
 * Drops applied steps up to the last that names the source, and steps that could be redone from the first
 * that does.
 */
async function forgetSteps(tx: Transaction, partId: string, source: string) {
  const history = tx.objectStore('history');
  const parts = tx.objectStore('parts');
  const part = await parts.get(partId);
  if (!part) return;
  const steps = (await history.getAll(allOf(partId))).map(({ step }) => step);
  const applied = steps.slice(0, part.historyAt);
  const first = applied.reduce((from, step, index) => (names(step, source) ? index + 1 : from), 0);
  const redone = steps.slice(part.historyAt);
  const end = redone.findIndex((step) => names(step, source));
  const kept = steps.slice(first, end < 0 ? steps.length : part.historyAt + end);
  if (kept.length === steps.length) return;
  await history.delete(allOf(partId));
  for (const [seq, step] of kept.entries()) await history.put({ partId, seq, step });
  await parts.put({ ...part, historyAt: part.historyAt - first });
}
