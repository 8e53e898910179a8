import { substituteInStep, substituteSource } from '@/core/timeline/substitute';
import { loadTimeline, storeTimeline } from '@/core/timeline/stored';
import { allOf, write } from './database';
import type { SourceRecord } from './schema';
import { letGo } from './sources';

/**
 * Lets one recording stand for another wherever a project names it, its history included, in one transaction:
 * a take that came over a line is what was recorded at its other end from then on. The other one is let go of
 * when the project is closed. `gone` names recordings that are not needed any more, with their audio.
 */
export async function replaceSource(
  projectId: string,
  from: string,
  to: SourceRecord,
  gone: readonly string[],
): Promise<void> {
  await write(['parts', 'history', 'sources', 'blocks', 'peaks'], async (tx) => {
    const parts = tx.objectStore('parts');
    const history = tx.objectStore('history');
    const sources = tx.objectStore('sources');
    for (const part of await parts.index('project').getAll(projectId)) {
      const timeline = storeTimeline(substituteSource(loadTimeline(part.timeline), from, to.id));
      await parts.put({ ...part, timeline });
      for (const row of await history.getAll(allOf(part.id))) {
        const step = substituteInStep(row.step, from, to.id);
        if (step !== row.step) await history.put({ ...row, step });
      }
    }
    const old = await sources.get(from);
    // A copy of the project that was made meanwhile keeps the take as it was.
    if (old && old.projectIds.length > 1) await letGo(tx, old, projectId);
    else if (old) await sources.put({ ...old, role: 'line', deleted: true });
    await sources.put(to);
    for (const id of gone) {
      const source = await sources.get(id);
      if (source) await letGo(tx, source, projectId);
    }
  });
}
