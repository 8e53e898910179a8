import type { Page } from 'playwright-core';
import {
  chooseInput,
  openApp,
  openDemo,
  recorded,
  saved,
  sheetFrames,
  sheetHas,
  takePlaced,
  type App,
} from './support/app';

const caretOf = async (page: Page) => (await page.getByTestId('clock').textContent()) ?? '';
const label = async (page: Page) => (await page.getByTestId('sheet').getAttribute('aria-label')) ?? '';

/** The Booth with the demo, by keyboard as far as a voice artist would. */
describe('the Booth', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('the demo has flubs to fix: jump to one, select it, strike it, close it up, and take all of it back', async () => {
    const whole = await sheetFrames(page);
    await page.getByRole('tab', { name: 'Marks 2' }).click();
    await page.getByRole('button', { name: /^Go to Flub 1/ }).click();
    expect(await caretOf(page)).toMatch(/^00:(09|1\d)\./);
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Control+j');
    await saved(page);
    expect(await sheetFrames(page)).toBeLessThan(whole - 2 * 48_000);
    // The flub mark went with the passage.
    await page.getByRole('tab', { name: 'Marks 1' }).waitFor();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await sheetHas(page, whole);
    await page.getByRole('tab', { name: 'Marks 2' }).waitFor();
  });

  test('a struck passage is skipped when played', async () => {
    await page.keyboard.press('Home');
    expect(await caretOf(page)).toBe('00:00.000');
    // Everything but half a second at the start is struck: playing it takes no longer than that.
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Shift+Backspace');
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('[');
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Home');
    const started = Date.now();
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
    await page.getByRole('button', { name: /^Play( |$)/ }).waitFor();
    expect(Date.now() - started).toBeLessThan(4000);
    expect(await caretOf(page)).toMatch(/^00:43/);
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await saved(page);
  });

  test('Space after a click on the deck plays once; Escape goes back to where it began', async () => {
    await page.keyboard.press('Home');
    await page.getByRole('button', { name: /^Play( |$)/ }).click();
    await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: /^Play( |$)/ }).waitFor();
    await page.waitForTimeout(300);
    await expect(page.getByRole('button', { name: /^Play( |$)/ }).count()).resolves.toBe(1);
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await page.waitForTimeout(700);
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: /^Play( |$)/ }).waitFor();
    expect(await caretOf(page)).toBe('00:00.000');
  });

  test('the caret moves by pause, row, start and end; seconds per row by key', async () => {
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowDown');
    expect(await caretOf(page)).toBe('00:12.000');
    await page.keyboard.press('ArrowRight');
    const next = await caretOf(page);
    expect(next > '00:12.000' && next < '00:20').toBe(true);
    await page.keyboard.press('ArrowUp');
    await page.keyboard.press('ArrowLeft');
    expect((await caretOf(page)) < next).toBe(true);
    await page.keyboard.press('End');
    expect(await caretOf(page)).toMatch(/^00:43/);
    await page.keyboard.press('Control+-');
    await page.getByText('20 s per row').waitFor();
    await page.keyboard.press('Control+=');
    await page.getByText('12 s per row').waitFor();
  });

  test('a drag across rows selects across rows; a click sets the caret', async () => {
    const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
    await page
      .getByTestId('sheet')
      .locator('xpath=..')
      .evaluate((element) => (element.scrollTop = 0));
    await sheet.dragTo(sheet, { sourcePosition: { x: 400, y: 60 }, targetPosition: { x: 400, y: 165 } });
    await page.keyboard.press('f');
    await page.getByRole('tab', { name: 'Marks 3' }).waitFor();
    await page.keyboard.press('Control+z');
    await page.getByRole('tab', { name: 'Marks 2' }).waitFor();
    await sheet.click({ position: { x: 400, y: 60 } });
    expect(await label(page)).toMatch(/caret at 00:05/);
  });

  test('marks are named, found and deleted; letters typed into a name are letters', async () => {
    await page.keyboard.press('n');
    const name = page.getByRole('textbox', { name: /Name of the note mark/ });
    await name.fill('');
    await name.pressSequentially('fine breath, plan L?');
    await name.press('Enter');
    await saved(page);
    await expect(page.getByRole('dialog').count()).resolves.toBe(0);
    await page.getByRole('tab', { name: 'Marks 3' }).waitFor();
    await page.reload();
    await page.getByRole('tab', { name: 'Marks 3' }).click();
    await page.getByRole('button', { name: /^Go to fine breath, plan L\?/ }).waitFor();
    await page.getByRole('button', { name: 'Delete fine breath, plan L?' }).click();
    await page.getByRole('tab', { name: 'Marks 2' }).waitFor();
  });

  test('the script follows by key', async () => {
    await page.getByRole('tab', { name: 'Script' }).click();
    const current = page.locator('[aria-current=step]');
    const before = await current.textContent();
    await page.keyboard.press('Shift+l');
    expect(await current.textContent()).not.toBe(before);
    await page.keyboard.press('l');
    expect(await current.textContent()).toBe(before);
  });

  test('all keys stand on one sheet, and the lamp theme is dark', async () => {
    await page.keyboard.press('?');
    await page.getByRole('dialog').getByText('Record as the button says, stop').waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    const background = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
    expect(await background()).toBe('rgb(251, 248, 242)');
    await page.getByRole('button', { name: /Lamp theme/ }).click();
    expect(await background()).toBe('rgb(25, 21, 18)');
    await page.getByRole('button', { name: 'Light theme' }).click();
  });

  test('Enter after choosing another part records into that part, once', async () => {
    await page.getByRole('button', { name: /^Part: The stair/ }).click();
    await page.getByRole('menuitem', { name: /The lamp/ }).click();
    await page.getByRole('button', { name: /^Part: The lamp/ }).waitFor();
    await chooseInput(page, 'Practice reader');
    await page.getByRole('button', { name: /^Record: / }).click();
    await page.getByRole('button', { name: 'Stop recording' }).waitFor();
    await recorded(page, 1.2);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    expect(await sheetFrames(page)).toBeGreaterThan(48_000);
    await page.getByRole('tab', { name: 'Takes 1' }).waitFor();
  });
});
