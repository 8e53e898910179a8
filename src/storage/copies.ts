import type { CopiedFile } from '@/core/keep/sums';
import { database, write } from './database';

/** What is known of the copy of a project, wherever it is. */
export interface CopyRecord {
  /** The project's own folder inside the chosen one. */
  name: string;
  /** Of the next state. */
  sequence: number;
  /** Files that were read back from there, with their checksums, by path. */
  files: [path: string, file: CopiedFile][];
  /** When all of the project stood there last, in milliseconds since 1970; null before that. */
  at: number | null;
  /** SHA-256 of the manifest that was written last: the same one is not written again. */
  manifest: string | null;
}

const allKey = 'copy-folder';
const ownKey = (projectId: string) => `copy-folder/${projectId}`;
const recordKey = (projectId: string) => `copy/${projectId}`;

type Folder = FileSystemDirectoryHandle;

const get = async <T>(key: string) => (await (await database()).get('settings', key)) as T | undefined;

const put = (key: string, value: unknown) =>
  write(['settings'], async (tx) => {
    if (value === undefined) await tx.objectStore('settings').delete(key);
    else await tx.objectStore('settings').put(value, key);
  });

export interface CopyFolder {
  folder: Folder;
  /** The folder is that of all projects. */
  forAll: boolean;
}

/** Where the copy of a project is kept: in its own folder, or else in the one for all; null without one. */
export async function copyFolderOf(projectId: string): Promise<CopyFolder | null> {
  const [own, all] = await Promise.all([get<Folder>(ownKey(projectId)), get<Folder>(allKey)]);
  const folder = own ?? all;
  return folder ? { folder, forAll: !own } : null;
}

/** Chooses a folder for one project, or for all that have none of their own; undefined for none. */
export const storeCopyFolder = (projectId: string | null, folder: Folder | undefined): Promise<void> =>
  put(projectId === null ? allKey : ownKey(projectId), folder);

export const copyRecord = (projectId: string): Promise<CopyRecord | undefined> => get(recordKey(projectId));
export const storeCopyRecord = (projectId: string, record: CopyRecord): Promise<void> =>
  put(recordKey(projectId), record);

/** What is known of the copy of a project that is not there any more; the copy stays where it is. */
export async function forgetCopy(projectId: string): Promise<void> {
  await put(recordKey(projectId), undefined);
  await put(ownKey(projectId), undefined);
}
