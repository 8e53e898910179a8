import { errorName } from '@/core/keep/copyErrors';

/** Reading and writing in a folder of the user's (W3C File System, File System Access). */

export const subfolder = (
  folder: FileSystemDirectoryHandle,
  name: string,
  create = false,
): Promise<FileSystemDirectoryHandle> => folder.getDirectoryHandle(name, { create });

const isMissing = (thrown: unknown) => ['NotFoundError', 'TypeMismatchError'].includes(errorName(thrown));

/** Null where there is no such folder; other errors are thrown. */
export async function subfolderIfThere(
  folder: FileSystemDirectoryHandle,
  name: string,
): Promise<FileSystemDirectoryHandle | null> {
  try {
    return await subfolder(folder, name);
  } catch (error) {
    if (isMissing(error)) return null;
    throw error;
  }
}

/** Null where there is no such file; other errors are thrown. */
export async function fileIfThere(folder: FileSystemDirectoryHandle, name: string): Promise<File | null> {
  try {
    return await (await folder.getFileHandle(name)).getFile();
  } catch (error) {
    if (isMissing(error)) return null;
    throw error;
  }
}

/** The file at a path of at most one folder and a name. */
export async function fileAt(folder: FileSystemDirectoryHandle, path: string): Promise<File | null> {
  const [first, name] = path.split('/');
  if (name === undefined) return fileIfThere(folder, first);
  const inner = await subfolderIfThere(folder, first);
  return inner && fileIfThere(inner, name);
}

/** Names and sizes of the files in a folder; empty where there is none. */
export async function sizesIn(
  folder: FileSystemDirectoryHandle,
  name: string,
): Promise<[path: string, bytes: number][]> {
  const inner = await subfolderIfThere(folder, name);
  if (!inner) return [];
  const found: [string, number][] = [];
  for await (const [file, handle] of inner.entries())
    if (handle.kind === 'file')
      found.push([`${name}/${file}`, (await (handle as FileSystemFileHandle).getFile()).size]);
  return found;
}

/**
 * Writes a text as a file. What is written stands apart until it is whole and then takes the file's place, so
 * that there is the one before or this one, never half of it.
 */
export async function writeText(folder: FileSystemDirectoryHandle, name: string, text: string) {
  const writable = await (await folder.getFileHandle(name, { create: true })).createWritable();
  try {
    await writable.write(text);
    await writable.close();
  } catch (error) {
    await writable.abort().catch(() => undefined);
    throw error;
  }
}
