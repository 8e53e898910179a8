import type { Page } from 'playwright-core';
import { createProject, goTo, killBrowser, openApp } from './app';

export interface StoredNoise {
  /** Blocks as they were recorded, and packed ones. */
  recorded: number;
  packed: number;
  /** Frames that are missing, there twice, or not those that were written. */
  different: number;
}

/**
 * Puts noise that can be computed anew into a project, as a closed take in blocks as the recorder leaves
 * them.
 */
export async function plantRecordedNoise(page: Page, frames: number): Promise<void> {
  await page.evaluate(async (length) => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    // Without functions that have names: a runner that marks those is not there in the page.
    const [project, part] = await Promise.all(
      ['projects', 'parts'].map(
        (store) =>
          new Promise<{ id: string }>((resolve) => {
            const request = db.transaction(store).objectStore(store).getAll();
            request.onsuccess = () => resolve(request.result[0] as { id: string });
          }),
      ),
    );
    const tx = db.transaction(['sources', 'blocks', 'peaks'], 'readwrite');
    tx.objectStore('sources').put({
      ...{ id: 'noise', projectIds: [project.id], partId: part.id, trackId: 'track-1', take: 1 },
      ...{ name: 'Take 1', rateHz: 48_000, channels: 1, state: 'kept', frames: length, handleFrames: 0 },
      ...{ startedAt: 1, overrunFrames: 0, input: 'noise' },
    });
    for (let index = 0; index * 16_384 < length; index++) {
      const samples = new Float32Array(Math.min(16_384, length - index * 16_384));
      for (let i = 0; i < samples.length; i++)
        samples[i] = (Math.imul(index * 16_384 + i, 2_654_435_761) >>> 0) / 2 ** 33;
      tx.objectStore('blocks').add([samples], ['noise', index]);
      tx.objectStore('peaks').add([new Float32Array(192)], ['noise', index]);
    }
    await new Promise<void>((resolve, reject) => {
      tx.oncomplete = () => resolve();
      tx.onabort = () => reject(tx.error);
    });
    db.close();
  }, frames);
}

/** What is stored of the noise, read without the application. */
export function storedNoise(page: Page, frames: number): Promise<StoredNoise> {
  return page.evaluate(async (length) => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const found = { recorded: 0, packed: 0, different: 0 };
    let next = 0;
    const range = IDBKeyRange.bound(['noise', 0], ['noise', Infinity]);
    const request = db.transaction('blocks').objectStore('blocks').openCursor(range);
    await new Promise<void>((resolve) => {
      request.onsuccess = () => {
        const cursor = request.result;
        if (!cursor) return resolve();
        const [, index, count = 1] = cursor.key as [string, number, number?];
        const [samples] = cursor.value as Float32Array[];
        if (count > 1) found.packed++;
        else found.recorded++;
        found.different += Math.abs(index * 16_384 - next);
        for (let i = 0; i < samples.length; i++) {
          const written = Math.fround((Math.imul(index * 16_384 + i, 2_654_435_761) >>> 0) / 2 ** 33);
          if (samples[i] !== written) found.different++;
        }
        next = index * 16_384 + samples.length;
        cursor.continue();
      };
    });
    db.close();
    found.different += Math.abs(length - next);
    return found;
  }, frames);
}

/** Packing begins after three seconds in which nothing is done. */
const killMs = { from: 2900, to: 4600 };

/**
 * Kills the browser around the time in which the audio of a take of so many frames is packed: `when` is 0 for
 * the beginning, 1 for the end. Returns what is stored afterwards.
 */
export async function killWhilePacking(profile: string, frames: number, when: number): Promise<StoredNoise> {
  const first = await openApp({ profile });
  await createProject(first.page, 'Packed', 'Dry voice');
  await plantRecordedNoise(first.page, frames);
  await first.page.goto(new URL('/', first.page.url()).href);
  await first.page.getByRole('link', { name: 'Packed' }).click();
  await first.page.waitForURL(/brief$|booth$/);
  await goTo(first.page, 'Booth');
  await first.page.waitForTimeout(killMs.from + when * (killMs.to - killMs.from));
  killBrowser(profile);
  await first.close();
  const again = await openApp({ profile });
  const stored = await storedNoise(again.page, frames);
  await again.close();
  return stored;
}
