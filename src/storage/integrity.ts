import { blockFrames } from '@/core/base/audio';
import type { Range } from '@/core/timeline/range';
import { blocksOf } from './blocks';
import { allOf, database } from './database';
import type { BlockKey, SourceRecord } from './schema';

/** Of a recording whose audio is not all there: what is missing, in its own frames. */
export interface Damage {
  source: string;
  name: string;
  rateHz: number;
  gaps: Range[];
}

/** What of [0, frames) no block covers, from their keys; the last block has `lastFrames` frames. */
export function gapsBetween(keys: readonly BlockKey[], frames: number, lastFrames: number): Range[] {
  const gaps: Range[] = [];
  let covered = 0;
  for (const [index, key] of keys.entries()) {
    const from = key[1] * blockFrames;
    if (from > covered) gaps.push({ from: covered, to: Math.min(from, frames) });
    const isLast = index === keys.length - 1;
    covered = Math.max(covered, isLast ? from + lastFrames : from + blocksOf(key) * blockFrames);
  }
  if (covered < frames) gaps.push({ from: covered, to: frames });
  return gaps.filter(({ from, to }) => to > from);
}

/**
 * What of a recording is not in storage. Only keys are read, and the last block: the audio itself would take
 * as long as it takes to read gigabytes.
 */
export async function gapsOf({ id, frames }: Pick<SourceRecord, 'id' | 'frames'>): Promise<Range[]> {
  const db = await database();
  const keys = await db.getAllKeys('blocks', allOf(id));
  const last = keys.at(-1);
  const block = last && (await db.get('blocks', last));
  return gapsBetween(keys, frames, block?.[0]?.length ?? 0);
}

/** The recordings of a project that are not whole. */
export async function damageOf(projectId: string, signal: AbortSignal): Promise<Damage[]> {
  const found: Damage[] = [];
  for (const source of await (await database()).getAllFromIndex('sources', 'project', projectId)) {
    if (signal.aborted) break;
    if (source.state !== 'kept') continue;
    const gaps = await gapsOf(source);
    const { id, name, rateHz } = source;
    if (gaps.length > 0) found.push({ source: id, name, rateHz, gaps });
  }
  return found;
}
