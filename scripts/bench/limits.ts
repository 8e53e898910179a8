import type { Page } from 'playwright-core';

/** Seconds it takes this browser to do nothing else. */
export interface Limits {
  /** The planted recording out of IndexedDB. */
  reading: number;
  /** As many bytes into the private file system, and out of it again. */
  writing: number;
  readingBack: number;
}

/**
 * What reading a planted recording and writing a file of so many bytes takes by itself, in the page's
 * profile.
 */
export async function limitsOf(page: Page, fileBytes: number): Promise<Limits> {
  // The application allows no workers but its own.
  const devtools = await page.context().newCDPSession(page);
  await devtools.send('Page.setBypassCSP', { enabled: true });
  await page.reload();
  return page.evaluate(async (bytes) => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const read = (index: number) =>
      new Promise<number>((resolve) => {
        const range = IDBKeyRange.bound(['bench-reading', index], ['bench-reading', index + 7, Infinity]);
        const request = db.transaction('blocks').objectStore('blocks').getAll(range);
        request.onsuccess = () => resolve(request.result.length);
      });
    const started = performance.now();
    const ahead = [0, 8, 16, 24].map(read);
    for (let index = 32; (await ahead.shift()) === 1; index += 8) ahead.push(read(index));
    const reading = (performance.now() - started) / 1000;
    db.close();
    const source = `onmessage = async ({ data }) => {
      const folder = await navigator.storage.getDirectory();
      const handle = await folder.getFileHandle('limit', { create: true });
      const access = await handle.createSyncAccessHandle();
      const piece = new Uint8Array(1 << 20);
      let from = performance.now();
      for (let at = 0; at < data; at += piece.length) access.write(piece, { at });
      access.flush();
      const writing = (performance.now() - from) / 1000;
      from = performance.now();
      for (let at = 0; at < data; at += piece.length) access.read(piece, { at });
      const readingBack = (performance.now() - from) / 1000;
      access.close();
      await folder.removeEntry('limit');
      postMessage({ writing, readingBack });
    }`;
    const worker = new Worker(URL.createObjectURL(new Blob([source])));
    const rest = await new Promise<{ writing: number; readingBack: number }>((resolve, reject) => {
      worker.onmessage = ({ data }) => resolve(data as { writing: number; readingBack: number });
      worker.onerror = () => reject(new Error('No worker could be started'));
      worker.postMessage(bytes);
    });
    worker.terminate();
    return { reading, ...rest };
  }, fileBytes);
}
