import { cancelled, storageFull } from '@/core/base/errors';

/**
 * Moving pictures, each beside the recording of its sound and under its id: as the files they are, in the
 * browser's private file system (W3C File System, OPFS), since they are large and read in any order.
 */
const folderName = 'films';

async function folder(): Promise<FileSystemDirectoryHandle> {
  const root = await navigator.storage.getDirectory();
  return root.getDirectoryHandle(folderName, { create: true });
}

/**
 * Copies a film into storage; what is cancelled or fails leaves nothing. Rejects with ParolaError
 * `storage-full` or `cancelled`.
 */
export async function writeFilm(
  id: string,
  bytes: ReadableStream<Uint8Array<ArrayBuffer>>,
  options: { signal: AbortSignal; advance?: (bytes: number) => void },
): Promise<void> {
  const handle = await (await folder()).getFileHandle(id, { create: true });
  try {
    const file = await handle.createWritable();
    const counted = new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>({
      transform(chunk, controller) {
        options.advance?.(chunk.length);
        controller.enqueue(chunk);
      },
    });
    await bytes.pipeThrough(counted).pipeTo(file, { signal: options.signal });
  } catch (error) {
    await removeFilm(id);
    if (options.signal.aborted) throw cancelled();
    throw (error as { name?: string }).name === 'QuotaExceededError' ? storageFull() : error;
  }
}

/** The film of a recording; null where it is not here. */
export async function filmFile(id: string): Promise<File | null> {
  try {
    const file = await (await (await folder()).getFileHandle(id)).getFile();
    return file.size > 0 ? file : null;
  } catch {
    return null;
  }
}

export async function removeFilm(id: string): Promise<void> {
  await (await folder()).removeEntry(id).catch(() => undefined);
}

/** Removes films whose recording is not kept any more. */
export async function sweepFilms(kept: (id: string) => Promise<boolean>): Promise<void> {
  for await (const id of (await folder()).keys()) if (!(await kept(id))) await removeFilm(id);
}
