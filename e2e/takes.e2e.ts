import type { Page } from 'playwright-core';
import { formatTime } from '@/core/base/units';
import {
  chooseInput,
  createProject,
  goTo,
  openApp,
  openDemo,
  recordFor,
  recorded,
  saved,
  sheetFrames,
  takePlaced,
  type App,
} from './support/app';
import { storedTakes } from './support/stored';

const rate = 48_000;

describe('takes', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await createProject(page, 'Takes', 'Dry voice');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await recordFor(page, 5);
    await page.keyboard.press('2');
    await page.keyboard.press('Home');
    await page.keyboard.press('Enter');
    await recorded(page, 2);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await page.getByRole('tab', { name: 'Takes 2' }).click();
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  const row = (take: number) => page.getByRole('listitem', { name: `Take ${take}` });

  test('each says its length, levels and place', async () => {
    const text = (await row(2).textContent()) ?? '';
    // A slow machine records longer: its length is the stored one.
    const [, { frames, handleFrames }] = await storedTakes(page);
    expect(frames - handleFrames).toBeGreaterThan(rate);
    expect(text.startsWith(formatTime((frames - handleFrames) / rate, true))).toBe(true);
    expect(text).toMatch(/Practice reader/);
    expect(text).toMatch(/peak −\d+\.\d dBFS · −\d+\.\d LUFS/);
    expect(text).toMatch(/on the sheet at 00:00\.000/);
  });

  test('listened to, circled, noted and named; all of it is there after a reload', async () => {
    await row(2).getByRole('button', { name: 'Listen to Take 2' }).click();
    await row(2).getByRole('button', { name: 'Stop Take 2' }).waitFor();
    await row(2).getByRole('button', { name: 'Listen to Take 2' }).waitFor({ timeout: 10_000 });
    await row(2).getByRole('button', { name: 'Circle Take 2' }).click();
    await row(2).getByLabel('Note on Take 2').fill('warmer');
    await row(2).getByLabel('Note on Take 2').press('Enter');
    await saved(page);
    await page.reload();
    await page.getByRole('tab', { name: 'Takes 2' }).click();
    await row(2).getByRole('button', { name: 'Take the circle from Take 2' }).waitFor();
    expect(await row(2).getByLabel('Note on Take 2').inputValue()).toBe('warmer');
    await page.getByRole('button', { name: 'Select circled' }).click();
    await expect(page.getByRole('checkbox', { name: 'Select Take 2' }).isChecked()).resolves.toBe(true);
    await expect(page.getByRole('checkbox', { name: 'Select Take 1' }).isChecked()).resolves.toBe(false);
  });

  test('two are compared at equal loudness, the other one going on from the same moment', async () => {
    await page.getByRole('checkbox', { name: 'Select Take 1' }).check();
    await page.getByRole('button', { name: 'Compare: hear Take 1' }).click();
    await page.getByRole('button', { name: 'Stop Take 1' }).waitFor();
    await page.waitForTimeout(500);
    await page.getByRole('button', { name: 'Compare: hear Take 2' }).click();
    await page.getByRole('button', { name: 'Stop Take 2' }).waitFor();
    // One of them plays as it is, the louder one is taken down.
    const titles = await page
      .getByRole('button', { name: /^Compare: hear/ })
      .evaluateAll((buttons) => buttons.map((button) => button.getAttribute('title') ?? ''));
    expect(titles.filter((title) => title === 'As it is')).toHaveLength(1);
    expect(titles.some((title) => /^−\d+\.\d dB/.test(title))).toBe(true);
    await page.getByRole('button', { name: 'Stop Take 2' }).click();
  });

  test('where they overlap, the selection says which one is heard; time does not move', async () => {
    const whole = await sheetFrames(page);
    const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
    await sheet.dragTo(sheet, { sourcePosition: { x: 100, y: 60 }, targetPosition: { x: 160, y: 60 } });
    const first = page.getByRole('radio', { name: 'Hear Take 1' });
    await expect(page.getByRole('radio', { name: 'Hear Take 2' }).getAttribute('aria-checked')).resolves.toBe(
      'true',
    );
    await first.click();
    await page.locator('[role=radio][aria-label="Hear Take 1"][aria-checked=true]').waitFor();
    expect(await sheetFrames(page)).toBe(whole);
    await page.keyboard.press('Control+z');
    await page.locator('[role=radio][aria-label="Hear Take 2"][aria-checked=true]').waitFor();
  });

  test('a take on the sheet is not deleted; put another one in its place first. Deleted ones come back until the project is closed', async () => {
    await row(2).getByRole('button', { name: 'Delete Take 2' }).click();
    await page.getByText(/Take 2 is on the sheet\. Put another take in its place/).waitFor();
    await row(1).getByRole('button', { name: 'Put Take 1 in place' }).click();
    await row(2)
      .getByText(/in the stack at 00:00\.000/)
      .waitFor();
    await row(2).getByRole('button', { name: 'Delete Take 2' }).click();
    await page.getByRole('tab', { name: 'Takes 1' }).waitFor();
    await page.getByRole('button', { name: 'Bring back' }).click();
    await page.getByRole('tab', { name: 'Takes 2' }).waitFor();
    await row(2).getByRole('button', { name: 'Delete Take 2' }).click();
    await saved(page);
    expect(await storedTakes(page)).toHaveLength(2);
    const whole = await sheetFrames(page);
    // Closing the project ends what can be brought back: the audio goes, and with it the steps that heard it.
    await page.getByRole('link', { name: 'Parola: all projects' }).click();
    await page.getByRole('heading', { name: 'Projects' }).waitFor();
    await page.waitForTimeout(500);
    expect(await storedTakes(page)).toHaveLength(1);
    await page.getByRole('link', { name: 'Takes', exact: true }).click();
    await page.getByTestId('sheet').waitFor();
    expect(await sheetFrames(page)).toBe(whole);
    await expect(page.getByRole('button', { name: 'Nothing to undo' }).isDisabled()).resolves.toBe(true);
    expect(whole).toBeGreaterThan(4 * rate);
  });
});

test('a sound check says what to do in numbers, keeps the room tone, and compares the next session with this one', async () => {
  const app = await openApp();
  const { page } = app;
  await openDemo(page);
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('k');
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Begin' }).click();
  await dialog.getByText('Be silent').waitFor();
  await dialog.getByRole('button', { name: 'Check again' }).waitFor({ timeout: 60_000 });
  await dialog
    .getByRole('list', { name: 'What to do' })
    .getByText(/loudest passage/)
    .waitFor();
  await dialog.getByText(/The room is quiet enough: −6\d\.\d dBFS/).waitFor();
  // The advice follows the profile; own values are checked beside their fields.
  await dialog.getByLabel('Level profile').click();
  await page.getByRole('option', { name: 'Headroom first' }).click();
  await dialog
    .getByText(/turn the gain down about \d+ dB \(aim: −18 to −12 dBFS, headroom first\)/)
    .waitFor();
  await dialog.getByLabel('Level profile').click();
  await page.getByRole('option', { name: 'Own values' }).click();
  await dialog.getByLabel('Quietest peak, dBFS').fill('-3');
  await dialog.getByRole('alert').getByText('The loudest peak is under the quietest. Swap them.').waitFor();
  await dialog.getByLabel('Quietest peak, dBFS').fill('-12');
  await dialog.getByRole('alert').waitFor({ state: 'detached' });
  await dialog.getByRole('button', { name: 'Check again' }).click();
  await dialog.getByText('Be silent').waitFor();
  await dialog.getByRole('button', { name: 'Check again' }).waitFor({ timeout: 60_000 });
  await dialog.getByText(/Against the reference of/).waitFor();
  await expect(
    dialog.getByRole('list', { name: 'To match the reference' }).getByRole('listitem').count(),
  ).resolves.toBeGreaterThan(0);
  // Called off half-way, nothing is kept of it.
  await dialog.getByRole('button', { name: 'Check again' }).click();
  await page.waitForTimeout(1500);
  await dialog.getByRole('button', { name: 'Call off' }).click();
  const tones = () =>
    page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          const open = indexedDB.open('parola');
          open.onsuccess = () => {
            const all = open.result.transaction('sources').objectStore('sources').getAll();
            all.onsuccess = () => {
              open.result.close();
              resolve(
                all.result.filter(({ role }: { role?: string }) => role === 'tone' || role === 'check')
                  .length,
              );
            };
          };
        }),
    );
  await page.waitForTimeout(11_000);
  expect(await tones()).toBe(2);
  expect(app.complaints).toEqual([]);
  await app.close();
});
