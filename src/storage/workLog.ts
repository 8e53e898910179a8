import type { WorkSession } from '@/core/keep/workLog';
import { database, write } from './database';

/** In order of time, whatever becomes of the projects. */
const keyOf = ({ startedAt, projectId }: WorkSession) =>
  `work/${String(startedAt).padStart(16, '0')}/${projectId}`;
const all = () => IDBKeyRange.bound('work/', 'work/\uffff');

export async function storeSession(session: WorkSession): Promise<void> {
  await write(['settings'], async (tx) => {
    await tx.objectStore('settings').put(session, keyOf(session));
  });
}

/** Every session, the first one first. */
export const allSessions = async (): Promise<WorkSession[]> =>
  (await (await database()).getAll('settings', all())) as WorkSession[];
