import { say } from '@/texts/say';
import { placeRecording, type Placement } from '@/core/timeline/takes';
import { difference } from '@/core/timeline/history';
import { loadTimeline } from '@/core/timeline/stored';
import { database } from './database';
import { saveStep, withTimeline } from './parts';
import type { SourceRecord } from './schema';
import { storedFrames } from './blocks';
import { recordedOf, removeSource, sourcesOfProject } from './sources';

export interface Recovered {
  partId: string;
  partName: string;
  take: number;
  seconds: number;
  placement: Placement;
}

/**
 * Puts recordings that were cut off, by a crash or a closed window, where they were being recorded: each
 * whole block that was written, as one step that can be undone. The caller holds the project's lock. Nothing
 * else changes.
 */
export async function recoverTakes(projectId: string): Promise<Recovered[]> {
  const recovered: Recovered[] = [];
  const sources = await sourcesOfProject(projectId);
  for (const source of sources.sort((a, b) => a.startedAt - b.startedAt)) {
    // A sound file that was being read is still where it came from.
    if (source.state === 'receiving') await removeSource(source.id);
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
  if (!part || length <= 0 || (source.role ?? 'take') !== 'take') {
    // Not one block of the take itself had been written, or it was a sound check.
    await removeSource(source.id);
    return null;
  }
  const before = loadTimeline(part.timeline);
  const placement = source.placement ?? { mode: 'continue' };
  // Which marks were set while it was recorded nobody knows any more: none is dropped. Around an insert they
  // move with their audio.
  const keptMarks = new Set(placement.mode === 'insert' ? [] : before.marks.map(({ id }) => id));
  const after = placeRecording(before, recordedOf(source, length), placement, { keptMarks });
  const step = { label: say`recovered take ${source.take}`, difference: difference(before, after) };
  await saveStep(withTimeline(part, after, part.historyAt + 1), step, { id: source.id, frames });
  return {
    partId: part.id,
    partName: part.name,
    take: source.take,
    seconds: length / source.rateHz,
    placement,
  };
}
