import { sourcesOf } from '@/core/timeline/timeline';
import { loadTimeline } from '@/core/timeline/stored';
import { storedBytes } from '@/core/keep/space';
import { database, write } from './database';
import { purgeIn } from './purge';
import type { SourceRecord } from './schema';
import { sourceIn } from './sources';

export interface BrowserSpace {
  /** The browser has promised not to clear its storage by itself. */
  persisted: boolean;
  usedBytes: number;
  /** What it allows beyond that; null where it does not say. */
  freeBytes: number | null;
}

/** What the browser says of its storage (Storage standard of the WHATWG). */
export async function browserSpace(): Promise<BrowserSpace> {
  const [persisted, { usage = 0, quota }] = await Promise.all([
    navigator.storage.persisted(),
    navigator.storage.estimate(),
  ]);
  return { persisted, usedBytes: usage, freeBytes: quota === undefined ? null : Math.max(0, quota - usage) };
}

/** Asks the browser to keep its storage; resolves to what it says. */
export const askToPersist = (): Promise<boolean> => navigator.storage.persist();

/** Bytes of each project's recordings; what two projects share counts for both. */
export async function bytesByProject(): Promise<Map<string, number>> {
  const bytes = new Map<string, number>();
  const store = (await database()).transaction('sources').store;
  for (let source = await store.openCursor(); source; source = await source.continue())
    for (const id of source.value.projectIds) bytes.set(id, (bytes.get(id) ?? 0) + storedBytes(source.value));
  return bytes;
}

/** A recording that no sheet of its project has. */
export interface UnusedAudio {
  id: string;
  name: string;
  partName: string;
  seconds: number;
  bytes: number;
  startedAt: number;
  circled: boolean;
  /** Another project has it as well, so its room would not be free. */
  shared: boolean;
}

/** Takes can be made again or were not chosen; what sound checks and lines left is of no more use. */
const removable = (source: SourceRecord) => source.state === 'kept' && source.role !== 'tone';

/** What is heard nowhere in a project, the oldest first. */
export async function unusedAudio(projectId: string): Promise<UnusedAudio[]> {
  const db = await database();
  const parts = await db.getAllFromIndex('parts', 'project', projectId);
  const used = new Set(parts.flatMap(({ timeline }) => [...sourcesOf(loadTimeline(timeline))]));
  const names = new Map(parts.map(({ id, name }) => [id, name]));
  const tones = new Set(parts.flatMap(({ tones = {} }) => Object.values(tones).map(({ source }) => source)));
  const sources = (await db.getAllFromIndex('sources', 'project', projectId))
    .map((source) => sourceIn(projectId, source))
    .filter((source) => removable(source) && !used.has(source.id) && !tones.has(source.id));
  return sources
    .map((source) => ({
      id: source.id,
      name: source.name,
      partName: names.get(source.partId) ?? '',
      seconds: source.frames / source.rateHz,
      bytes: storedBytes(source),
      startedAt: source.startedAt,
      circled: source.circled === true,
      shared: source.projectIds.length > 1,
    }))
    .sort((a, b) => a.startedAt - b.startedAt);
}

/**
 * Removes recordings that no sheet has, for good, with the steps of the history that heard them; what has
 * come
 * onto a sheet meanwhile stays. The caller holds the project's lock.
 */
export async function removeUnused(projectId: string, ids: ReadonlySet<string>): Promise<void> {
  await write(['parts', 'history', 'sources', 'blocks', 'peaks'], (tx) =>
    purgeIn(tx, projectId, ({ id }) => ids.has(id)),
  );
}
