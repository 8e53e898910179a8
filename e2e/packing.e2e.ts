import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode } from './support/audio';
import {
  chooseFileInput,
  closeOpened,
  createProject,
  exportFloat,
  goTo,
  openApp,
  recordFor,
} from './support/app';
import { differencesFrom, noiseFile } from './support/noise';
import { killWhilePacking } from './support/packing';

/**
 * The audio of closed takes is put into larger blocks while nothing else is done: nobody hears or sees it.
 */
afterEach(closeOpened);

const noise = noiseFile(60, 21);
const folder = mkdtempSync(path.join(tmpdir(), 'parola-files-'));

/** How many blocks there are as they were recorded, and how many packed ones. */
const blocks = (page: Page) =>
  page.evaluate(async () => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const keys = await new Promise<IDBValidKey[]>((resolve) => {
      const request = db.transaction('blocks').objectStore('blocks').getAllKeys();
      request.onsuccess = () => resolve(request.result);
    });
    db.close();
    const packed = keys.filter((key) => (key as unknown[]).length === 3).length;
    return { recorded: keys.length - packed, packed };
  });

test('a take is packed after a while, and is the same to the sample; the next one is recorded as ever', async () => {
  const { page } = await openApp();
  await createProject(page, 'Packed', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseFileInput(page, noise.file);
  await recordFor(page, 5);
  expect(await blocks(page)).toMatchObject({ packed: 0 });
  // A take that came out longer is packed in several groups, one after the other.
  for (let wait = 0; wait < 150 && (await blocks(page)).recorded > 1; wait++) await page.waitForTimeout(100);
  const before = await blocks(page);
  expect(before.packed).toBeGreaterThan(0);
  expect(before.recorded).toBeLessThanOrEqual(1);
  const heard = decode(await exportFloat(page, folder));
  expect(heard.length).toBeGreaterThan(4 * 44_100);
  expect(differencesFrom(heard, noise.channels[0])).toMatchObject({ different: 0 });
  await goTo(page, 'Booth');
  await page.keyboard.press('End');
  await recordFor(page, 2);
  expect((await blocks(page)).recorded).toBeGreaterThan(before.recorded + 3);
});

test.each([0.35, 0.55, 0.75])('a kill at %d of the packing leaves each frame once', async (when) => {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-pack-'));
  try {
    const { recorded, packed, different } = await killWhilePacking(profile, 350 * 16_384 + 777, when);
    expect(recorded + packed).toBeGreaterThan(40);
    expect(different).toBe(0);
  } finally {
    rmSync(profile, { recursive: true, force: true });
  }
});
