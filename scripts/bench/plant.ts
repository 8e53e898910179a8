import type { Page } from 'playwright-core';
import type { App } from '../../e2e/support/app';

/** A project without anything in it, made through the interface; its Brief stays open. */
export async function createEmptyProject({ context, page }: App, name: string): Promise<void> {
  // The runner of this script marks functions with their names; in the page there is nothing that does.
  const named = 'globalThis.__name = (value) => value';
  await context.addInitScript(named);
  await page.evaluate(named);
  await page.getByRole('button', { name: 'New project' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill(name);
  await page.getByLabel('Delivery specification').click();
  await page.getByRole('option', { name: 'Dry voice' }).click();
  await page.getByRole('button', { name: 'Create' }).click();
  await page.waitForURL(/brief$/);
}

export interface PlantedPart {
  name: string;
  seconds: number;
  pieces: number;
}

/**
 * Writes parts straight into the storage of the page, in place of those the project has: pieces of one
 * recording as long as the longest part, the demo's readings one after another, in packed blocks as an import
 * leaves them. 50 ms are left out between pieces, so that there is a join between any two; every fiftieth is
 * struck.
 */
export async function plantParts(page: Page, parts: PlantedPart[]): Promise<void> {
  await page.evaluate(async (wanted) => {
    const rate = 48_000;
    const context = new OfflineAudioContext(1, 1, rate);
    const readings: Float32Array[] = [];
    for (const file of ['stair', 'arrival', 'boat-house', 'practice-reader']) {
      const bytes = await (await fetch(`/demo/${file}.mp3`)).arrayBuffer();
      readings.push((await context.decodeAudioData(bytes)).getChannelData(0));
    }
    const once = readings.reduce((sum, { length }) => sum + length, 0);
    const audio = new Float32Array(once);
    readings.reduce((at, reading) => {
      audio.set(reading, at);
      return at + reading.length;
    }, 0);
    const gap = 2400;
    const needed = wanted.map(({ seconds, pieces }) => Math.ceil(seconds * rate) + pieces * gap);
    const frames = Math.max(once, ...needed);
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const done = (tx: IDBTransaction) =>
      new Promise<void>((resolve, reject) => {
        tx.oncomplete = () => resolve();
        tx.onabort = () => reject(tx.error);
      });
    const first = <T>(store: string) =>
      new Promise<T>((resolve) => {
        const request = db.transaction(store).objectStore(store).getAll();
        request.onsuccess = () => resolve(request.result[0] as T);
      });
    const project = await first<{ id: string; partIds: string[]; openPartId: string }>('projects');
    const part = await first<{ id: string }>('parts');
    const id = 'bench-reading';
    const block = 131_072;
    for (let index = 0; index * block < frames; index++) {
      const blocks = db.transaction(['blocks', 'peaks'], 'readwrite');
      const samples = new Float32Array(Math.min(block, frames - index * block));
      for (let at = 0; at < samples.length;) {
        const from = (index * block + at) % once;
        const some = audio.subarray(from, from + samples.length - at);
        samples.set(some, at);
        at += some.length;
      }
      const peaks = new Float32Array(Math.ceil(samples.length / 256) * 3);
      for (let i = 0; i * 256 < samples.length; i++) {
        let low = Infinity;
        let high = -Infinity;
        let squares = 0;
        const to = Math.min(samples.length, (i + 1) * 256);
        for (let k = i * 256; k < to; k++) {
          low = Math.min(low, samples[k]);
          high = Math.max(high, samples[k]);
          squares += samples[k] * samples[k];
        }
        peaks.set([low, high, squares / (to - i * 256)], i * 3);
      }
      const small = Math.ceil(samples.length / 16_384);
      const key = small > 1 ? [id, index * 8, small] : [id, index * 8];
      blocks.objectStore('blocks').put([samples], key);
      blocks.objectStore('peaks').put([peaks], key);
      await done(blocks);
    }
    const tx = db.transaction(['sources', 'parts', 'projects'], 'readwrite');
    tx.objectStore('sources').put({
      id,
      projectIds: [project.id],
      partId: part.id,
      trackId: 'track-1',
      take: 1,
      name: 'Take 1',
      rateHz: rate,
      channels: 1,
      state: 'kept',
      frames,
      handleFrames: 0,
      startedAt: 1,
      overrunFrames: 0,
      input: 'bench',
    });
    const ids = wanted.map((_, index) => (index === 0 ? part.id : `bench-part-${index}`));
    wanted.forEach(({ name, seconds, pieces: count }, index) => {
      const length = Math.floor((seconds * rate) / count);
      // Source, channel, first frame, length, gain.
      const numbers = Float64Array.from({ length: 5 * count }, (_, i) => {
        const from = Math.floor(i / 5) * (length + gap);
        return [0, 0, from, length, 0][i % 5];
      });
      const pieces = { sources: [id], numbers, others: [] };
      const places = Array.from({ length: count }, (_, i) => i);
      const struck = places.flatMap((i) =>
        count > 500 && i % 50 === 0 ? [{ from: i * length, to: (i + 1) * length }] : [],
      );
      const heardFrames = (count - struck.length) * length;
      const timeline = { marks: [], places: [], struck, tracks: [{ id: 'track-1', name: 'Voice', pieces }] };
      tx.objectStore('parts').put({ ...part, id: ids[index], name, heardFrames, timeline });
    });
    tx.objectStore('projects').put({ ...project, partIds: ids, openPartId: ids[0] });
    await done(tx);
    db.close();
  }, parts);
}
