import { say } from '@/texts/say';
import { cancelled } from '@/core/base/errors';
import { withoutCollisions } from '@/core/formats/fileNames';
import { openScratch } from '@/workers/scratchFile';
import type { JobContext } from '@/workers/protocol';
import { ask } from '../page/questions';

declare global {
  interface Window {
    /** File System Access API; not in every browser. */
    showDirectoryPicker?: (options?: { mode: 'read' | 'readwrite' }) => Promise<FileSystemDirectoryHandle>;
  }
}

export const canUseFolders = () => typeof window !== 'undefined' && 'showDirectoryPicker' in window;

/** The browser's own dialog; null when the user thinks better of it. */
export async function chooseFolder(
  mode: 'read' | 'readwrite' = 'readwrite',
): Promise<FileSystemDirectoryHandle | null> {
  try {
    return (await window.showDirectoryPicker?.({ mode })) ?? null;
  } catch {
    return null;
  }
}

async function isThere(folder: FileSystemDirectoryHandle, fileName: string): Promise<boolean> {
  try {
    await folder.getFileHandle(fileName);
    return true;
  } catch {
    return false;
  }
}

const mostNamed = 6;

/**
 * The names to write under in a folder. Where files of these names are there already the user is asked:
 * replace them, or keep both. Null when the user calls it off; then nothing has been touched.
 */
export async function namesIn(
  folder: FileSystemDirectoryHandle,
  wanted: readonly string[],
): Promise<string[] | null> {
  const taken: string[] = [];
  for (const name of wanted) if (await isThere(folder, name)) taken.push(name);
  if (taken.length === 0) return [...wanted];
  const listed = taken.slice(0, mostNamed).join('\n');
  const choice = await ask({
    title:
      taken.length === 1 ? say`This file is there already` : say`${taken.length} files are there already`,
    text: say`In the folder “${folder.name}”:
${listed}${
      taken.length > mostNamed
        ? say`
and ${taken.length - mostNamed} more`
        : ''
    }`,
    choices: [
      { id: 'both', label: say`Keep both` },
      { id: 'replace', label: say`Replace`, destructive: true },
    ],
  });
  if (choice === null) return null;
  if (choice === 'replace') return [...wanted];
  const names: string[] = [];
  const others = new Set<string>();
  for await (const [name] of folder.entries()) others.add(name);
  for (const name of wanted) names.push(withoutCollisions([...others, ...names, name]).at(-1) ?? name);
  return names;
}

interface Begun {
  fileName: string;
  writable: FileSystemWritableFileStream;
  /** There was no file of this name before. */
  fresh: boolean;
}

/**
 * Copies written files and texts into a folder of the user's. All of it is written beside what is there, and
 * takes its place only when everything has been written; cancelled or failed before that, the folder is as it
 * was. The files lie in `from`, or in the private file system. Returns where they are then, for the notice.
 */
export async function saveToFolder(
  folder: FileSystemDirectoryHandle,
  files: readonly { path: string; fileName: string }[],
  texts: readonly { fileName: string; text: string }[],
  { signal, progress }: JobContext,
  from: FileSystemDirectoryHandle | null = null,
): Promise<string> {
  const begun: Begun[] = [];
  try {
    for (const [index, { path, fileName }] of files.entries()) {
      progress(index / files.length, fileName);
      const file = from ? await (await from.getFileHandle(path)).getFile() : await openScratch(path);
      await writeBeside(folder, fileName, file, signal, begun);
    }
    for (const { fileName, text } of texts)
      await writeBeside(folder, fileName, new Blob([text]), signal, begun);
  } catch (error) {
    for (const { writable, fileName, fresh } of begun) {
      await writable.abort().catch(() => undefined);
      if (fresh) await folder.removeEntry(fileName).catch(() => undefined);
    }
    throw error;
  }
  for (const { writable } of begun) await writable.close();
  return say`The folder “${folder.name}”`;
}

/** A writable keeps what it is given apart from the file until it is closed (W3C File System). */
async function writeBeside(
  folder: FileSystemDirectoryHandle,
  fileName: string,
  blob: Blob,
  signal: AbortSignal,
  begun: Begun[],
) {
  if (signal.aborted) throw cancelled();
  const fresh = !(await isThere(folder, fileName));
  const handle = await folder.getFileHandle(fileName, { create: true });
  const writable = await handle.createWritable();
  begun.push({ fileName, writable, fresh });
  await blob.stream().pipeTo(writable, { signal, preventClose: true, preventAbort: true });
}
