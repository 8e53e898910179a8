import { database, write } from './database';

/** The project files that were saved of a project, from the last whole one on. */
export interface BackupRecord {
  /** Milliseconds since 1970. */
  at: number;
  files: { file: string; sources: string[] }[];
}

const keyOf = (projectId: string) => `backup/${projectId}`;

export const backupOf = async (projectId: string): Promise<BackupRecord | undefined> =>
  (await (await database()).get('settings', keyOf(projectId))) as BackupRecord | undefined;

export async function storeBackup(projectId: string, record: BackupRecord | undefined): Promise<void> {
  await write(['settings'], async (tx) => {
    const settings = tx.objectStore('settings');
    if (record) await settings.put(record, keyOf(projectId));
    else await settings.delete(keyOf(projectId));
  });
}
