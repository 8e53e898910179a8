import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import {
  dialogGone,
  download,
  openApp,
  openDemo,
  saved,
  sheetFrames,
  sheetHas,
  type App,
} from './support/app';
import './support/after';
import { baseUrl } from './support/server';
import { storedPieces } from './support/stored';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-keys-'));
let app: App;
let page: Page;

beforeEach(async () => {
  app = await openApp();
  page = app.page;
  await openDemo(page);
  await page.waitForTimeout(300);
});
afterEach(async () => {
  expect(app.complaints).toEqual([]);
  await app.close();
});

/** Keys that do nothing which outlasts an Escape; each must be taken from the browser. */
const harmless = [
  ...['Space', 'j', 'o', 'Shift+O', ',', '.', '1', '2', '3', '4', 'ArrowLeft', 'ArrowRight'],
  ...['Shift+ArrowLeft', 'Shift+ArrowRight', 'ArrowUp', 'ArrowDown', 'm', 'Shift+M', 'Control+ArrowLeft'],
  ...['Control+ArrowRight', 'y', 'Shift+Y', 'w', 'Home', 'End', 'e', 'Shift+E', 'd', 'Shift+D', '[', ']'],
  ...['Control+a', 'Control+c', 'z', 'q', '?', 'b', 'Shift+I', 'k'],
];

test('keys of every kind reach their commands and not the browser', async () => {
  await page.evaluate(() => {
    const left: string[] = [];
    Object.assign(window, { left });
    // After the application's own, which listens from the beginning.
    window.addEventListener('keydown', (event) => {
      if (!event.defaultPrevented && !['Shift', 'Control'].includes(event.key)) left.push(event.key);
    });
  });
  for (const key of harmless.filter((name) => name !== 'o')) {
    await page.keyboard.press(key);
    // What it opens is there.
    await page.waitForTimeout(150);
    await page.keyboard.press('Escape');
    await dialogGone(page);
  }
  const left = await page.evaluate(() => (window as unknown as { left: string[] }).left);
  expect(left.filter((key) => key !== 'Escape')).toEqual([]);
});

test('a key is changed by pressing it; what is in its way is said; the old one does nothing; a reload and a file keep it', async () => {
  const strike = () => page.keyboard.press('F8');
  const struck = async () => (await storedPieces(page)).some((piece) => piece.struck);
  await page.keyboard.press('?');
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Find a command or a key').fill('strike');
  await dialog.getByRole('button', { name: /^Backspace: change the key of “Strike/ }).click();
  await page.getByRole('group', { name: /^Press the new key/ }).waitFor();
  await page.keyboard.press('x');
  await dialog.getByText(/^X is the key of “/).waitFor();
  await page.keyboard.press('Control+t');
  await dialog.getByText(/The browser keeps Ctrl T for itself/).waitFor();
  await page.keyboard.press('F8');
  await dialog.getByRole('button', { name: /^F8: change the key of “Strike/ }).waitFor();
  const file = await download(page, () => dialog.getByRole('button', { name: 'To a file' }).click(), folder);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ format: 'parola-keys', version: 1 });
  await page.keyboard.press('Escape');
  await dialogGone(page);

  await page.reload();
  await page.getByTestId('sheet').waitFor();
  await page.waitForTimeout(300);
  await page.keyboard.press('Control+a');
  await strike();
  await saved(page);
  expect(await struck()).toBe(true);
  await page.keyboard.press('Control+z');
  await saved(page);
  expect(await struck()).toBe(false);

  // All back to their own; then the file again, and one that is none.
  await page.keyboard.press('?');
  await dialog.getByRole('button', { name: /^All as they were/ }).click();
  await dialog.getByRole('button', { name: /^F8:/ }).waitFor({ state: 'detached' });
  const bad = `${folder}/bad.json`;
  writeFileSync(bad, '{"format":"parola-keys","version":1,"keys":{"strike":["no such+key"]}}');
  await dialog.getByLabel('File of keys').setInputFiles(bad);
  await dialog
    .getByRole('alert')
    .filter({ hasText: /no file of keys.*are as they were/ })
    .waitFor();
  await dialog.getByRole('button', { name: /^F8:/ }).waitFor({ state: 'detached' });
  await dialog.getByLabel('File of keys').setInputFiles(file);
  await dialog.getByRole('button', { name: /^F8: change the key of “Strike/ }).waitFor();
});

test('with Ctrl and Shift the script grows and shrinks', async () => {
  const prompter = page.getByTestId('prompter');
  const size = async () => {
    await page.keyboard.press('b');
    const found = await prompter
      .getByText('Welcome to', { exact: false })
      .first()
      .evaluate((line) => parseFloat(getComputedStyle(line).fontSize));
    await page.keyboard.press('Escape');
    await prompter.waitFor({ state: 'detached' });
    return found;
  };
  const first = await size();
  await page.keyboard.press('Shift+Control+Equal');
  expect(await size()).toBeGreaterThan(first);
  await page.keyboard.press('Shift+Control+Minus');
  expect(await size()).toBe(first);
});

test('arrows reach everything in the menu of the look: along the numbers and past them', async () => {
  await page.getByRole('button', { name: /per row/ }).click();
  const menu = page.getByRole('menu');
  const focused = () => page.evaluate(() => document.activeElement?.textContent);
  const numbers = menu.getByRole('group', { name: 'Seconds per row' }).getByRole('menuitemradio');
  await numbers.first().waitFor();
  const chosen = numbers.and(page.locator('[aria-checked=true]'));
  await chosen.focus();
  const names = await numbers.allTextContents();
  const at = names.indexOf((await chosen.textContent()) ?? '');
  await page.keyboard.press('ArrowRight');
  expect(await focused()).toBe(names[(at + 1) % names.length]);
  // The heights, the speeds, then the commands below.
  for (const group of ['Height', 'Playing speed']) {
    await page.keyboard.press('ArrowDown');
    const there = menu.getByRole('group', { name: group }).locator('[aria-checked=true]');
    expect(await focused()).toBe(await there.textContent());
  }
  await page.keyboard.press('ArrowDown');
  expect(await focused()).toMatch(/^Spectrum in place of the wave/);
  await page.keyboard.press('ArrowUp');
  expect(await focused()).toBe('1×');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Enter');
  await menu.waitFor({ state: 'detached' });
  await page.getByRole('button', { name: /per row · 0\.\d+×/ }).waitFor();
});

test('a passage is moved to a part that is found by its name', async () => {
  const open = async (name: RegExp) => {
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name }).click();
    await page.locator('[data-testid=sheet]:not([data-frames="0"])').waitFor();
  };
  const moved = await sheetFrames(page);
  await open(/boat builder/);
  const before = await sheetFrames(page);
  expect(before).not.toBe(moved);
  await open(/The stair/);
  await sheetHas(page, moved);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Shift+P');
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('textbox').fill('builder');
  await page.keyboard.press('Enter');
  await dialogGone(page);
  await sheetHas(page, 0);
  await saved(page);
  await open(/boat builder/);
  await sheetHas(page, before + moved);
});

test('a method that no page uses is refused with a word', async () => {
  const answer = await page.request.fetch(baseUrl, { method: 'PATCH' });
  expect(answer.status()).toBe(405);
  expect(await answer.text()).toMatch(/does not answer to PATCH/);
});
