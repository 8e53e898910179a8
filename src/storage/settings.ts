import { database, write } from './database';

/** What belongs to this browser rather than to a project: the theme, the width of a row. */
export async function readSetting<T>(key: string): Promise<T | undefined> {
  return (await (await database()).get('settings', key)) as T | undefined;
}

export async function writeSetting(key: string, value: unknown): Promise<void> {
  await write(['settings'], async (tx) => {
    await tx.objectStore('settings').put(value, key);
  });
}
