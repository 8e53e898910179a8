import type { Page } from 'playwright-core';

declare global {
  interface Window {
    /** What the browser says of folders: as if its permission had been taken back. */
    folderPermission?: PermissionState;
  }
}

/**
 * The browser’s dialog cannot be used without a person: a folder of the private file system stands in for the
 * one that is chosen, and is asked for its permission as that one would be.
 */
export function folderChosen(): void {
  window.showDirectoryPicker = async () =>
    (await navigator.storage.getDirectory()).getDirectoryHandle('Backup disk', { create: true });
  const answer = () => Promise.resolve(localStorage.getItem('folder-permission') ?? 'granted');
  Object.assign(FileSystemDirectoryHandle.prototype, {
    queryPermission: answer,
    requestPermission: () => {
      localStorage.setItem('folder-permission', 'granted');
      return answer();
    },
  });
}

/** Files of the chosen folder by their paths, read by the browser's own means, not by Parola's. */
export async function copiedFiles(page: Page): Promise<Map<string, Buffer>> {
  const files = await page.evaluate(async () => {
    const found: [string, string][] = [];
    const look = async (folder: FileSystemDirectoryHandle, path: string): Promise<void> => {
      const entries = folder as unknown as { entries(): AsyncIterable<[string, FileSystemHandle]> };
      for await (const [name, handle] of entries.entries()) {
        if (handle.kind === 'directory') {
          await look(handle as FileSystemDirectoryHandle, `${path}${name}/`);
          continue;
        }
        // A file may be written anew at this moment.
        const file = await (handle as FileSystemFileHandle).getFile().catch(() => null);
        const read = await file?.arrayBuffer().catch(() => null);
        if (!read) continue;
        const bytes = new Uint8Array(read);
        let text = '';
        for (let at = 0; at < bytes.length; at += 8192)
          text += String.fromCharCode(...bytes.subarray(at, at + 8192));
        found.push([path + name, btoa(text)]);
      }
    };
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle('Backup disk').catch(() => null);
    if (folder) await look(folder, '');
    return found;
  });
  return new Map(files.map(([path, text]) => [path, Buffer.from(text, 'base64')]));
}
