import type { Page } from 'puppeteer-core';
import { decode, probe } from './support/audio';
import { downloaded, openFirefox, type Firefox } from './support/firefox';

/**
 * The main job in a second browser engine, Firefox ESR: record with the practice reader, strike, proof,
 * export, and a file that ffmpeg reads.
 */
let firefox: Firefox;
beforeAll(async () => {
  firefox = await openFirefox();
});
afterAll(() => firefox?.close());

const frames = async (page: Page) =>
  Number(await page.$eval('[data-testid=sheet]', (sheet) => sheet.getAttribute('data-frames')));

test('records, strikes, proves and exports; what this browser cannot do is said where it matters', async () => {
  const { page } = firefox;
  await page.locator('::-p-text(Open the demo)').click();
  await page.waitForSelector('[data-testid=sheet]');
  const before = await frames(page);

  await page.locator('button[aria-label^="Input:"], [role=button][aria-label^="Input:"]').click();
  await page.locator('[role=menuitem] ::-p-text(Practice reader)').click();
  await page.waitForSelector('[aria-label^="Input: Practice reader"][aria-label*="kHz"]');
  await page.keyboard.press('Enter');
  await page.waitForSelector('button[aria-label^="Stop recording"]');
  // By the clock of the deck: on a busy machine audio runs slower than time.
  const clock = () => page.$eval('[data-testid=clock]', (shown) => shown.textContent ?? '');
  const seconds = async () => (await clock()).split(':').reduce((all, part) => all * 60 + Number(part), 0);
  for (const until = (await seconds()) + 4; (await seconds()) < until;)
    await new Promise((resolve) => setTimeout(resolve, 100));
  await page.keyboard.press('Enter');
  await page.waitForSelector('button[aria-label^="Record: "]:not([disabled])');
  const after = await frames(page);
  expect(after - before).toBeGreaterThan(3 * 48_000);
  // The next one can be recorded; the take is listed.
  await page.locator('[role=tab] ::-p-text(Takes)').click();
  await page.waitForSelector('::-p-text(Practice reader)');

  // Struck by keys: the last sentence is not heard any more.
  await page.keyboard.press('End');
  await page.keyboard.press('e');
  await page.waitForSelector('[aria-label=Edit] > button:first-child:not([disabled])');
  await page.keyboard.press('Backspace');
  await page.waitForSelector('button[aria-label^="Undo"]:not([disabled])');

  await page.locator('nav a ::-p-text(Proof)').click();
  await page.waitForSelector('::-p-text(Folders cannot be had in this browser)');
  await page.waitForSelector('[aria-label="Verdicts"]');
  expect(await page.$('[aria-label="All figures"]')).not.toBeNull();
  await page.locator('[role=combobox] ::-p-text(All parts)').click();
  await page.locator('[role=option] ::-p-text(The open part)').click();
  await page.locator('button ::-p-text(Export 1 file)').click();
  const file = await downloaded(firefox);
  const { sampleRate } = probe(file);
  // What was struck is not in it.
  const heard = decode(file).length / sampleRate;
  expect(heard).toBeLessThan(after / 48_000 - 0.3);
  expect(heard).toBeGreaterThan(before / 48_000 / 2);
  expect(firefox.complaints).toEqual([]);
});
