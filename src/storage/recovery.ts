import { appendRecording } from '@/core/timeline/edits';
import { difference } from '@/core/timeline/history';
import { loadTimeline } from '@/core/timeline/timeline';
import { database, write } from './database';
import { saveStep } from './parts';
import { deleteSource } from './projects';
import type { SourceRecord } from './schema';
import { sourcesOfProject, storedFrames } from './sources';

export interface Recovered {
  partId: string;
  partName: string;
  take: number;
  seconds: number;
}

/**
 * Puts recordings that were cut off, by a crash or a closed window, at the end of their parts: each whole block that was
 * written, as one step that can be undone. The caller holds the project's lock. Nothing else changes.
 */
export async function recoverTakes(projectId: string): Promise<Recovered[]> {
  const recovered: Recovered[] = [];
  const sources = await sourcesOfProject(projectId);
  for (const source of sources.sort((a, b) => a.startedAt - b.startedAt)) {
    if (source.state !== 'recording') continue;
    const result = await recover(source);
    if (result) recovered.push(result);
  }
  return recovered;
}

async function recover(source: SourceRecord): Promise<Recovered | null> {
  const frames = await storedFrames(source.id);
  const part = await (await database()).get('parts', source.partId);
  const length = frames - source.handleFrames;
  if (!part || length <= 0) {
    // Not one block of the take itself had been written.
    await write(['sources', 'blocks', 'peaks'], (tx) => deleteSource(tx, source.id));
    return null;
  }
  const before = loadTimeline(part.timeline);
  const piece = {
    kind: 'audio' as const,
    source: source.id,
    channel: 0,
    from: source.handleFrames,
    length,
    gainDb: 0,
    struck: false,
  };
  const after = appendRecording(before, new Map([[source.trackId, [piece]]]));
  const step = { label: `recovered take ${source.take}`, difference: difference(before, after) };
  await saveStep(part.id, after, part.historyAt, step, { id: source.id, frames });
  return { partId: part.id, partName: part.name, take: source.take, seconds: length / source.rateHz };
}
