import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode } from './support/audio';
import {
  chooseFileInput,
  closeOpened,
  createProject,
  dialogGone,
  goTo,
  killBrowser,
  openApp,
  recorded,
  recordFor,
  saved,
  sheetFrames,
  sheetHas,
} from './support/app';
import { copiedFiles, folderChosen } from './support/copies';
import { noiseFile } from './support/noise';
import { baseUrl } from './support/server';
import { storedTakes } from './support/stored';

afterEach(closeOpened);

/** Chromium says that it allows 10 GiB more than is used, whatever there is: so what it says stands in. */
function littleRoom(): void {
  const { storage } = navigator;
  const estimate = storage.estimate.bind(storage);
  storage.estimate = async () => {
    const { usage = 0 } = await estimate();
    const left = localStorage.getItem('little-room') ? 20 * 60 * 44_100 * 4.05 : 1e10;
    return { usage, quota: usage + left };
  };
}

/** Within which a take is to be in the folder, from its end on. */
const copiedWithinMs = 10_000;

const dialog = (page: Page) => page.getByRole('dialog');
const button = (page: Page, name: string | RegExp) => page.getByRole('button', { name });

async function chooseFolder(page: Page): Promise<void> {
  await page.keyboard.press('8');
  await dialog(page)
    .getByRole('button', { name: /for all projects/ })
    .click();
  await dialog(page)
    .getByText(/All of it is in “Backup disk”/)
    .waitFor();
  await page.keyboard.press('Escape');
  await dialogGone(page);
}

/** Resolves when so many whole recordings are in the folder. */
async function copied(page: Page, takes: number): Promise<Map<string, Buffer>> {
  const until = Date.now() + copiedWithinMs;
  for (;;) {
    const files = await copiedFiles(page);
    const whole = [...files].filter(([name, { length }]) => name.endsWith('.wav') && length > 0);
    if (whole.length >= takes) return files;
    if (Date.now() > until) throw new Error(`only ${whole.length} of ${takes} takes were copied in time`);
    await page.waitForTimeout(200);
  }
}

/** The folder as a directory of this machine, for programs that know nothing of Parola. */
function onDisk(files: Map<string, Buffer>): string {
  const directory = mkdtempSync(path.join(tmpdir(), 'parola-copied-'));
  for (const [name, bytes] of files) {
    mkdirSync(path.dirname(path.join(directory, name)), { recursive: true });
    writeFileSync(path.join(directory, name), bytes);
  }
  return directory;
}

test('a folder is chosen once: each take is there within 10 s, whole, also one that a kill cut off; it opens as an equal project', async () => {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-keep-'));
  const first = await openApp({ profile, before: folderChosen });
  let { page } = first;
  await createProject(page, 'Kept', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseFileInput(page, noiseFile(60, 31).file);
  await chooseFolder(page);
  await recordFor(page, 2);
  await copied(page, 1);
  await button(page, /^Saved · copied/).waitFor();
  // While the second take is made, it is copied as far as it is; then the browser is killed.
  await page.keyboard.press('Enter');
  await recorded(page, 6);
  killBrowser(profile);
  await first.close();
  const again = await openApp({ profile, before: folderChosen });
  ({ page } = again);
  await page.getByRole('link', { name: 'Kept' }).click();
  await page.getByText(/Take 2 of “Part 1” is recovered/).waitFor();
  const files = await copied(page, 2);
  await button(page, /^Saved · copied/).waitFor();
  const takes = await storedTakes(page);
  const directory = onDisk(files);
  const [home] = [...files.keys()].map((name) => path.join(directory, name.split('/')[0]));
  // GNU coreutils and ffmpeg say what is in the folder.
  const sums = execFileSync('sha256sum', ['--check', 'SHA256SUMS'], { cwd: home, encoding: 'utf8' });
  expect(sums.match(/: OK$/gm)).toHaveLength(2);
  for (const { id, channels } of takes) {
    const audio = decode(path.join(home, 'audio', `${id}.wav`));
    expect(Buffer.from(audio.buffer).equals(Buffer.from(channels[0].buffer))).toBe(true);
  }
  rmSync(directory, { recursive: true });
  // The next take can be recorded as ever.
  const before = await sheetFrames(page);
  await chooseFileInput(page, noiseFile(60, 31).file);
  await recordFor(page, 1);
  await copied(page, 3);
  const frames = await sheetFrames(page);
  expect(frames).toBeGreaterThan(before);
  await button(page, /^Saved · copied/).waitFor();
  await page.keyboard.press('8');
  await dialog(page).getByRole('button', { name: 'Check the copy' }).click();
  await page.getByText('The copy is whole: 3 files, each as its checksum says.').waitFor();
  // Somewhere else it is a project again.
  await page.goto(baseUrl);
  await button(page, 'Open a folder').click();
  await page.waitForURL(/booth$/);
  await sheetHas(page, frames);
  expect([...first.complaints, ...again.complaints]).toEqual([]);
  await again.close();
  rmSync(profile, { recursive: true, force: true });
});

test('permission taken back: it is said, recording goes on, and one key makes up for it; a full disk as well', async () => {
  const app = await openApp({ before: folderChosen });
  const { page } = app;
  await createProject(page, 'Kept', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseFileInput(page, noiseFile(60, 31).file);
  await chooseFolder(page);
  await recordFor(page, 1);
  await copied(page, 1);
  await page.evaluate(() => localStorage.setItem('folder-permission', 'prompt'));
  await page.reload();
  await button(page, /copy waits/).waitFor();
  await chooseFileInput(page, noiseFile(60, 31).file);
  await recordFor(page, 1);
  expect([...(await copiedFiles(page)).keys()].filter((name) => name.endsWith('.wav'))).toHaveLength(1);
  await page.keyboard.press('8');
  await dialog(page).getByRole('button', { name: 'Allow it' }).click();
  await copied(page, 2);
  await dialog(page)
    .getByText(/All of it is in/)
    .waitFor();
  await page.keyboard.press('Escape');
  await dialogGone(page);
  expect(app.complaints).toEqual([]);
});

test('little room is said before recording; without a folder a project file is asked for, and only what is new is saved', async () => {
  const app = await openApp({ before: littleRoom });
  const { page } = app;
  const files = mkdtempSync(path.join(tmpdir(), 'parola-backups-'));
  await createProject(page, 'Kept', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseFileInput(page, noiseFile(60, 31).file);
  await recordFor(page, 1);
  await page.keyboard.press('8');
  await dialog(page)
    .getByText(/None has been saved from this browser yet/)
    .waitFor();
  const save = async (name: string) => {
    const [written] = await Promise.all([
      page.waitForEvent('download'),
      dialog(page).getByRole('button', { name }).click(),
    ]);
    const target = path.join(files, written.suggestedFilename());
    await written.saveAs(target);
    return target;
  };
  const whole = await save('Save the whole project');
  await dialog(page)
    .getByText(/The last one was saved/)
    .waitFor();
  await page.keyboard.press('Escape');
  await dialogGone(page);
  await recordFor(page, 1);
  const frames = await sheetFrames(page);
  await page.keyboard.press('8');
  const fresh = await save('Save only what is new');
  expect(path.basename(fresh)).toBe('Kept-2.parola');
  const entries = execFileSync('unzip', ['-Z1', fresh], { encoding: 'utf8' });
  expect(entries.match(/sources\/.*\.wav/g)).toHaveLength(1);
  // The new one alone says which other it needs; together they are the project.
  await page.goto(baseUrl);
  await page.getByLabel('Project file').setInputFiles([fresh]);
  await page.getByText(/The rest is in “Kept.parola”: choose it together with this one/).waitFor();
  await page.getByLabel('Project file').setInputFiles([fresh, whole]);
  await page.waitForURL(/booth$/);
  await sheetHas(page, frames);
  await saved(page);
  // Twenty minutes are left, as far as the browser says.
  await page.evaluate(() => localStorage.setItem('little-room', 'yes'));
  await page.reload();
  await page.getByText(/There is room for (19|20) minutes of recording/).waitFor();
  rmSync(files, { recursive: true });
  expect(app.complaints).toEqual([]);
});
