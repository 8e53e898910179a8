import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import type { Page } from 'playwright-core';
import { openApp } from '../../e2e/support/app';
import type { StoredTimeline } from '../../src/core/timeline/stored';
import { median } from './row';

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

/** Milliseconds that reading the largest part out of the storage, and writing it, take by themselves. */
export async function partLimits(page: Page): Promise<{ reading: number; writing: number }> {
  const times = await page.evaluate(async () => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const parts = await new Promise<{ id: string; timeline: StoredTimeline }[]>((resolve) => {
      const request = db.transaction('parts').objectStore('parts').getAll();
      request.onsuccess = () => resolve(request.result as { id: string; timeline: StoredTimeline }[]);
    });
    const sizes = parts.map(({ timeline }) => {
      const [{ pieces }] = timeline.tracks;
      return 'numbers' in pieces ? pieces.numbers.length : pieces.length;
    });
    const largest = parts[sizes.indexOf(Math.max(...sizes))];
    const reading: number[] = [];
    const writing: number[] = [];
    for (let round = 0; round < 7; round++) {
      const started = performance.now();
      await new Promise((resolve) => {
        db.transaction('parts').objectStore('parts').get(largest.id).onsuccess = resolve;
      });
      const read = performance.now();
      await new Promise((resolve) => {
        const transaction = db.transaction('parts', 'readwrite');
        transaction.objectStore('parts').put(largest);
        transaction.oncomplete = resolve;
      });
      reading.push(read - started);
      writing.push(performance.now() - read);
    }
    db.close();
    return { reading, writing };
  });
  return { reading: median(times.reading), writing: median(times.writing) };
}

/** Compressed script without which no page of the framework shows anything, in kB. */
export function frameworkKilobytes(): number {
  const manifest = JSON.parse(readFileSync('.next/build-manifest.json', 'utf8')) as {
    rootMainFiles: string[];
  };
  return (
    manifest.rootMainFiles.reduce(
      (sum, file) => sum + gzipSync(readFileSync(path.join('.next', file))).length,
      0,
    ) / 1000
  );
}

/** Seconds that fetching the demo's audio and decoding it take in a page that does nothing else. */
export async function demoLimit(): Promise<number> {
  const app = await openApp();
  try {
    await app.page.getByRole('button', { name: 'New project' }).waitFor();
    const files = readdirSync('public/demo').filter((name) => name.endsWith('.mp3'));
    return await app.page.evaluate(async (names) => {
      const started = performance.now();
      const context = new OfflineAudioContext(1, 1, 48_000);
      for (const name of names)
        await context.decodeAudioData(await (await fetch(`/demo/${name}`)).arrayBuffer());
      return (performance.now() - started) / 1000;
    }, files);
  } finally {
    await app.close();
  }
}
