import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode } from './support/audio';
import {
  chooseInput,
  closeOpened,
  createProject,
  download,
  exportFloat,
  goTo,
  openApp,
  recorded,
  recordFor,
  saved,
  sheetFrames,
  sheetHas,
} from './support/app';
import { quotaOf } from './support/quota';
import { baseUrl } from './support/server';
import { storedTakes } from './support/stored';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-full-'));
const blockFrames = 16_384;

afterEach(closeOpened);

const marks = async (page: Page) =>
  Number(((await page.getByRole('tab', { name: /^Marks/ }).textContent()) ?? '').replace('Marks ', ''));

const notSaved = /^Not saved: \d+/;

test('a disk that is full while recording, then has room again: all that was done is stored, once, and a backup holds it', async () => {
  const app = await openApp();
  const { page } = app;
  const quota = await quotaOf(app);
  await createProject(page, 'Full', 'Podcast mono');
  await page.getByLabel('Script', { exact: true }).fill('The first line. The second line.');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Microphone');
  await recordFor(page, 1);
  const before = await sheetFrames(page);

  await quota.leave(700_000);
  await page.keyboard.press('Enter');
  await page
    .getByText(/disk space this browser allows is used up/)
    .first()
    .waitFor({ timeout: 60_000 });
  await page.locator('button[aria-label^="Record: "]:not([disabled])').waitFor({ timeout: 30_000 });
  const full = await sheetFrames(page);
  expect(full).toBeGreaterThan(before + blockFrames);
  // The recorder may have heard a clap.
  const found = await marks(page);
  // Work goes on: a mark, a strike. Nothing of it may be called saved while it is not.
  await quota.leave(0);
  await page.keyboard.press('Home');
  await page.keyboard.press('n');
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Backspace');
  await page.keyboard.press('Control+z');
  await goTo(page, 'Brief');
  const script = page.getByLabel('Script', { exact: true });
  await script.fill('The first line. The second line. A third one, typed on a full disk.');
  await script.blur();
  await page.getByRole('status').filter({ hasText: notSaved }).waitFor();
  // A backup of what is not stored is none.
  await goTo(page, 'Proof');
  await page.getByRole('button', { name: 'Save a project file' }).click();
  await page.getByText(/What was changed last is not stored yet/).waitFor();

  await quota.release();
  await page.getByRole('button', { name: notSaved }).click();
  await saved(page);
  await goTo(page, 'Booth');
  await page.keyboard.press('End');
  await page.keyboard.press('n');
  await saved(page);
  await page.reload();
  await sheetHas(page, full);
  expect(await storedTakes(page)).toHaveLength(2);
  await page.getByRole('tab', { name: 'Takes 2' }).waitFor();
  expect(await marks(page)).toBe(found + 2);
  await page.getByText('A third one, typed on a full disk.').waitFor();
  // Every step can be taken back, to the very first, and done again.
  await page.keyboard.press('Control+z');
  await page.getByRole('tab', { name: `Marks ${found + 1}` }).waitFor();
  // Takes, and the line of the script each began with.
  for (let step = 0; step < 5; step++) await page.keyboard.press('Control+z');
  await sheetHas(page, 0);
  for (let step = 0; step < 6; step++) await page.keyboard.press('Control+Shift+z');
  await sheetHas(page, full);
  await page.getByRole('tab', { name: `Marks ${found + 2}` }).waitFor();
  await saved(page);

  const original = decode(await exportFloat(page, folder));
  const file = await download(
    page,
    () => page.getByRole('button', { name: 'Save a project file' }).click(),
    folder,
  );
  await app.close();
  const second = await openApp();
  await second.page.getByLabel('Project file').setInputFiles(file);
  await second.page.waitForURL(/booth$/);
  await sheetHas(second.page, full);
  await second.page.getByRole('tab', { name: 'Takes 2' }).waitFor();
  expect(await marks(second.page)).toBe(found + 2);
  await second.page.getByText('A third one, typed on a full disk.').waitFor();
  const opened = decode(await exportFloat(second.page, folder));
  expect(Buffer.compare(Buffer.from(opened.buffer), Buffer.from(original.buffer))).toBe(0);
  expect(second.complaints).toEqual([]);
});

test('on a full disk projects open, are looked at and heard, and room can be made', async () => {
  const app = await openApp();
  const { page } = app;
  await createProject(page, 'Old work', 'Dry voice');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 4);
  await page.goto(baseUrl);
  await createProject(page, 'Wanted', 'Dry voice');
  await page.getByRole('button', { name: 'Add a part' }).click();
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 2);
  const frames = await sheetFrames(page);
  await page.goto(baseUrl);
  await page.getByRole('link', { name: 'Wanted' }).waitFor();
  const quota = await quotaOf(app);
  await quota.leave(0);

  await page.getByRole('link', { name: 'Wanted' }).click();
  await page.getByTestId('sheet').waitFor();
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name: /^2 / }).click();
  await sheetHas(page, frames);
  await page.keyboard.press('Home');
  await page.keyboard.press(' ');
  await page.getByRole('button', { name: /^Stop/ }).waitFor();
  await page.waitForTimeout(600);
  await page.keyboard.press(' ');
  await page.waitForTimeout(700);
  // Nothing was made, so nothing is missing.
  await expect(page.getByRole('status').filter({ hasText: notSaved }).count()).resolves.toBe(0);
  await goTo(page, 'Proof');
  await page
    .getByTestId('proof-2')
    .getByText(/Passes|Faults|faults?/)
    .first()
    .waitFor();

  // The other project opens as well, and makes room when it goes.
  await page.goto(baseUrl);
  await page.getByRole('link', { name: 'Old work' }).click();
  await page.getByTestId('sheet').waitFor();
  await page.goto(baseUrl);
  await page.getByRole('button', { name: 'More about Old work' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await page.getByRole('link', { name: 'Old work' }).waitFor({ state: 'detached' });
  await quota.leave(20_000_000);
  await page.getByRole('link', { name: 'Wanted' }).click();
  await page.getByTestId('sheet').waitFor();
  await page.keyboard.press('n');
  await saved(page);
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('Enter');
  await recorded(page, 0.5);
  await page.keyboard.press('Enter');
  await page.locator('button[aria-label^="Record: "]:not([disabled])').waitFor();
  await saved(page);
});
