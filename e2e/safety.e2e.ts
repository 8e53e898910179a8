import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { decode } from './support/audio';
import {
  chooseInput,
  closeOpened,
  createProject,
  exportFloat,
  goTo,
  openApp,
  recordFor,
  saved,
  sheetFrames,
  sheetHas,
  takePlaced,
} from './support/app';
import { killNoise, killWhileRecording } from './support/kill';
import { differencesFrom } from './support/noise';
import { storedTakes } from './support/stored';
import { baseUrl } from './support/server';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-files-'));
const blockFrames = 16_384;
const kills = 2;

afterEach(closeOpened);

describe('no take is ever lost', () => {
  test.each(Array.from({ length: kills }, (_, kill) => kill + 1))(
    'a browser killed while recording: the take is there on the next visit, and nothing else has changed (%d)',
    async () => {
      const profile = mkdtempSync(path.join(tmpdir(), 'parola-killed-'));
      const {
        again,
        before,
        shown,
        recovered: after,
      } = await killWhileRecording(profile, 'Killed', 2 + Math.random() * 2, (page) => recordFor(page, 1.5));
      const message = again.page.getByText(/Take 2 of “Part 1” is recovered/);
      await message.waitFor();
      await expect(message.textContent()).resolves.toContain('Nothing else was changed');
      const recovered = after - before;
      // At most one block that was not full, and one that was on its way to the disk.
      expect(recovered).toBeGreaterThanOrEqual(shown - before - 2 * blockFrames);
      const heard = decode(await exportFloat(again.page, folder));
      expect(heard).toHaveLength(before + recovered);
      const [noise] = killNoise().channels;
      // Around the seam of the two takes both are heard, for some milliseconds.
      for (const take of [heard.slice(0, before - 300), heard.slice(before + 300)])
        expect(differencesFrom(take, noise)).toMatchObject({ different: 0 });
      // The recovery is a step like any other, and happens once.
      await goTo(again.page, 'Booth');
      await sheetHas(again.page, before + recovered);
      await again.page.keyboard.press('Control+z');
      await sheetHas(again.page, before);
      await again.page.keyboard.press('Control+Shift+z');
      await sheetHas(again.page, before + recovered);
      await saved(again.page);
      await again.page.reload();
      await again.page.getByTestId('sheet').waitFor();
      expect(await sheetFrames(again.page)).toBe(before + recovered);
      await expect(again.page.getByText(/is recovered/).count()).resolves.toBe(0);
      expect(again.complaints).toEqual([]);
      await again.close();
      rmSync(profile, { recursive: true, force: true });
    },
  );

  test('killed while retaking: the part is as before, with the take where it was being recorded', async () => {
    const profile = mkdtempSync(path.join(tmpdir(), 'parola-killed-'));
    const { again, before, recovered } = await killWhileRecording(profile, 'Retaken', 1.6, async (page) => {
      await recordFor(page, 6);
      await page.keyboard.press('2');
      await page.keyboard.press('Home');
    });
    await again.page.getByText(/stands where it was being recorded/).waitFor();
    expect(recovered).toBe(before);
    const [first, second] = await storedTakes(again.page);
    expect(second.frames - second.handleFrames).toBeGreaterThan(0.8 * 44_100);
    const heard = decode(await exportFloat(again.page, folder));
    // The new reading from its first frame, then the old one where the new one ends; joins are a few
    // milliseconds.
    const taken = second.frames - second.handleFrames;
    const part = (from: number, to: number, source: typeof first, at: number) =>
      heard
        .subarray(from, to)
        .every((value, i) => value === source.channels[0][source.handleFrames + at + i]);
    expect(part(0, taken - 600, second, 0)).toBe(true);
    expect(part(taken + 600, before - 600, first, taken + 600)).toBe(true);
    await again.close();
    rmSync(profile, { recursive: true, force: true });
  });

  test('storage that runs full: recording stops by itself, and everything up to then is kept', async () => {
    const app = await openApp();
    const { page } = app;
    await createProject(page, 'Full', 'Podcast mono');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Microphone');
    await recordFor(page, 1);
    const before = await sheetFrames(page);
    const devtools = await app.context.newCDPSession(page);
    const { usage } = await devtools.send('Storage.getUsageAndQuota', { origin: baseUrl });
    await devtools.send('Storage.overrideQuotaForOrigin', { origin: baseUrl, quotaSize: usage + 700_000 });
    await page.keyboard.press('Enter');
    await page
      .getByText(/disk space this browser allows is used up/)
      .first()
      .waitFor({ timeout: 60_000 });
    await page.waitForTimeout(500);
    const shown = await sheetFrames(page);
    expect(shown).toBeGreaterThan(before + blockFrames);
    await devtools.send('Storage.overrideQuotaForOrigin', { origin: baseUrl });
    await page.reload();
    await page.getByTestId('sheet').waitFor();
    await page.waitForTimeout(500);
    expect(await sheetFrames(page)).toBe(shown);
    await app.close();
  });

  test('a project open in two tabs: the second listens and looks, and takes over when the first is closed', async () => {
    const app = await openApp();
    const { page, context } = app;
    await createProject(page, 'Twice', 'Dry voice');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await recordFor(page, 1.5);
    const second = await context.newPage();
    await second.goto(page.url());
    await second.getByText(/open in another tab/).waitFor();
    const frames = await sheetFrames(second);
    await second.keyboard.press('Control+a');
    await second.keyboard.press('Backspace');
    await second.keyboard.press('Control+j');
    await second.keyboard.press('f');
    await second.keyboard.press('Enter');
    expect(await sheetFrames(second)).toBe(frames);
    await expect(second.getByRole('button', { name: /^Record: / }).isDisabled()).resolves.toBe(true);
    const third = await context.newPage();
    await third.goto(baseUrl);
    await third.getByRole('button', { name: 'More about Twice' }).click();
    await third.getByRole('menuitem', { name: 'Delete' }).click();
    await third.getByRole('button', { name: 'Delete', exact: true }).click();
    await third.getByText('This project is open in another tab. Close it there, then delete it.').waitFor();
    await third.close();
    await page.close();
    await second.getByRole('button', { name: 'Edit it here' }).click();
    await second.getByText(/open in another tab/).waitFor({ state: 'detached' });
    await chooseInput(second, 'Practice reader');
    await recordFor(second, 1);
    expect(await sheetFrames(second)).toBeGreaterThan(frames);
    expect(app.complaints).toEqual([]);
    await app.close();
  });
});

describe('no microphone', () => {
  test('permission refused: the message says where to allow it, and Record stays off', async () => {
    const app = await openApp({ permission: false });
    await createProject(app.page, 'Refused');
    await goTo(app.page, 'Booth');
    await app.page.getByRole('button', { name: /^Input:/ }).click();
    await app.page.getByRole('menuitem', { name: /Microphone/ }).click();
    await app.page.getByText(/does not let Parola use the microphone\. Allow it/).waitFor();
    await expect(app.page.getByRole('button', { name: /^Record: / }).isDisabled()).resolves.toBe(true);
    await app.close();
  });

  test('no device at all: the message says so and names the practice reader', async () => {
    const app = await openApp({ microphone: null });
    await createProject(app.page, 'None');
    await goTo(app.page, 'Booth');
    await app.page.getByRole('button', { name: /^Input:/ }).click();
    await app.page.getByRole('menuitem', { name: /Microphone/ }).click();
    await app.page.getByText(/There is no microphone\. Plug one in/).waitFor();
    await chooseInput(app.page, 'Practice reader');
    await recordFor(app.page, 1);
    await takePlaced(app.page);
    await app.close();
  });
});

test('the browser that was killed is really gone', () => {
  expect(() => execFileSync('pgrep', ['-f', 'parola-killed-'])).toThrow();
});
