import { cancelled } from '@/core/base/errors';
import { openScratch } from '@/workers/scratchFile';
import type { JobContext } from '@/workers/protocol';

declare global {
  interface Window {
    /** File System Access API; not in every browser. */
    showDirectoryPicker?: (options?: { mode: 'read' | 'readwrite' }) => Promise<FileSystemDirectoryHandle>;
  }
}

export const canUseFolders = () => typeof window !== 'undefined' && 'showDirectoryPicker' in window;

/**
 * Copies written files and texts into a folder of the user's, as a stream. When it is cancelled or fails, what it has put there goes again. A file that was
 * there before under that name is replaced. Returns where they are, for the notice.
 */
export async function saveToFolder(
  folder: FileSystemDirectoryHandle,
  files: readonly { path: string; fileName: string }[],
  texts: readonly { fileName: string; text: string }[],
  { signal, progress }: JobContext,
): Promise<string> {
  const begun: string[] = [];
  try {
    for (const [index, { path, fileName }] of files.entries()) {
      progress(index / files.length, fileName);
      begun.push(fileName);
      await put(folder, fileName, await openScratch(path), signal);
    }
    for (const { fileName, text } of texts) {
      begun.push(fileName);
      await put(folder, fileName, new Blob([text]), signal);
    }
  } catch (error) {
    for (const fileName of begun) await folder.removeEntry(fileName).catch(() => undefined);
    throw error;
  }
  return `The folder “${folder.name}”`;
}

async function put(folder: FileSystemDirectoryHandle, fileName: string, blob: Blob, signal: AbortSignal) {
  if (signal.aborted) throw cancelled();
  const handle = await folder.getFileHandle(fileName, { create: true });
  const writable = await handle.createWritable();
  await blob.stream().pipeTo(writable, { signal });
}
