import type { Piece } from '@/core/timeline/pieces';
import type { Recorded } from '@/core/timeline/overlay';
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
