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
  /** At least so many pieces; more where the recording is too short for them. */
  pieces: number;
}

/**
 * Writes parts straight into the storage of the page, in place of those the project has: pieces of one
 * recording, the demo's readings one after another, each from another place in it, every fiftieth struck.
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
    const frames = readings.reduce((sum, { length }) => sum + length, 0);
    const audio = new Float32Array(frames);
    readings.reduce((at, reading) => {
      audio.set(reading, at);
      return at + reading.length;
    }, 0);
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
    const block = 16_384;
    const blocks = db.transaction(['blocks', 'peaks'], 'readwrite');
    for (let index = 0; index * block < frames; index++) {
      const samples = audio.slice(index * block, (index + 1) * block);
      const peaks = new Float32Array(Math.ceil(samples.length / 256) * 3);
      for (let i = 0; i * 256 < samples.length; i++) {
        const some = samples.subarray(i * 256, (i + 1) * 256);
        let squares = 0;
        for (const value of some) squares += value * value;
        peaks.set([Math.min(...some), Math.max(...some), squares / some.length], i * 3);
      }
      blocks.objectStore('blocks').put([samples], [id, index]);
      blocks.objectStore('peaks').put([peaks], [id, index]);
    }
    await done(blocks);
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
    wanted.forEach(({ name, seconds, pieces: atLeast }, index) => {
      const count = Math.max(atLeast, Math.ceil((seconds * rate) / (frames - 1)));
      const length = Math.floor((seconds * rate) / count);
      const pieces = Array.from({ length: count }, (_, i) => ({
        kind: 'audio',
        source: id,
        channel: 0,
        from: (i * 7_919_123) % (frames - length),
        length,
        gainDb: 0,
      }));
      const struck = pieces.flatMap((_piece, i) =>
        count > 500 && i % 50 === 0 ? [{ from: i * length, to: (i + 1) * length }] : [],
      );
      const heardFrames = (pieces.length - struck.length) * length;
      const timeline = { marks: [], places: [], struck, tracks: [{ id: 'track-1', name: 'Voice', pieces }] };
      tx.objectStore('parts').put({ ...part, id: ids[index], name, heardFrames, timeline });
    });
    tx.objectStore('projects').put({ ...project, partIds: ids, openPartId: ids[0] });
    await done(tx);
    db.close();
  }, parts);
}
