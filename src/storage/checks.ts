import { database, write } from './database';
import type { SoundCheckRecord } from './schema';

/** Sound checks of a project, the newest first. */
export async function checksOfProject(projectId: string): Promise<SoundCheckRecord[]> {
  const checks = await (await database()).getAllFromIndex('checks', 'project', projectId);
  return checks.sort((a, b) => b.at - a.at);
}

export async function saveCheck(record: SoundCheckRecord): Promise<void> {
  await write(['checks'], async (tx) => {
    await tx.objectStore('checks').put(record);
  });
}

/** Makes one check the reference of its project, in place of any other. */
export async function setReference(projectId: string, id: string): Promise<void> {
  await write(['checks'], async (tx) => {
    const store = tx.objectStore('checks');
    for (const check of await store.index('project').getAll(projectId)) {
      if (check.reference !== (check.id === id)) await store.put({ ...check, reference: check.id === id });
    }
  });
}
