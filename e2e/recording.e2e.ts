import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { compareWithPlayed, decode, fakeDeviceSamples, speechFile } from './support/audio';
import {
  chooseFileInput,
  chooseInput,
  clockSeconds,
  createProject,
  exportFloat,
  goTo,
  openApp,
  recordFor,
  recorded as recordedSeconds,
  takePlaced,
  type App,
} from './support/app';

import { differencesFrom, noiseFile } from './support/noise';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-files-'));

/** What is recorded is what was played, sample for sample. */
describe('recording', () => {
  let app: App;
  let page: Page;
  beforeEach(async () => {
    app = await openApp();
    page = app.page;
  });
  afterEach(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('the practice reader arrives bit for bit, from its first sample on', async () => {
    await createProject(page, 'Reader', 'Dry voice');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await recordFor(page, 4);
    const recorded = decode(await exportFloat(page, folder));
    const played = decode('public/demo/practice-reader.mp3');
    expect(recorded.length).toBeGreaterThan(3.5 * 48_000);
    let worst = 0;
    for (let i = 0; i < recorded.length; i++) worst = Math.max(worst, Math.abs(recorded[i] - played[i]));
    // Chromium and ffmpeg decode MP3 with arithmetic of their own; a frame of offset would differ by far
    // more.
    expect(worst).toBeLessThan(1e-6);
  });

  test('a microphone is recorded, speech as it is played', async () => {
    await createProject(page, 'Microphone', 'Podcast mono');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Microphone');
    await recordFor(page, 3);
    const recorded = decode(await exportFloat(page, folder));
    // The fake device leaves buffers out or puts some in when it is short of time: stretches are compared,
    // not the whole.
    const { matched } = compareWithPlayed(recorded, fakeDeviceSamples(speechFile));
    expect(matched).toBeGreaterThan(44_100);
  });

  test('a page that hangs for 3 s loses no sample', async () => {
    const noise = noiseFile(60, 5);
    await createProject(page, 'Hanging', 'Podcast mono');
    await goTo(page, 'Booth');
    await chooseFileInput(page, noise.file);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Stop recording' }).waitFor();
    await page.waitForTimeout(1000);
    await page.evaluate(() => {
      const until = performance.now() + 3000;
      while (performance.now() < until);
    });
    // What was recorded meanwhile is on the clock first: it is counted on from there.
    for (let wait = 0; wait < 100 && (await clockSeconds(page)) < 3.5; wait++) await page.waitForTimeout(50);
    await recordedSeconds(page, 1.5);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    const recorded = decode(await exportFloat(page, folder));
    expect(recorded.length).toBeGreaterThan(4.8 * 44_100);
    expect(differencesFrom(recorded, noise.channels[0])).toEqual({ at: 0, different: 0 });
    await page.getByRole('link', { name: 'Booth' }).click();
    await page.getByRole('tab', { name: /Takes/ }).click();
    await expect(page.getByText(/frames lost/).count()).resolves.toBe(0);
  });

  test('takes follow one another without a seam that clicks, marks are set while recording, the level moves', async () => {
    await createProject(page, 'Two takes', 'Dry voice');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await expect(page.getByTestId('level-word').textContent()).resolves.toBe('Waiting');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Stop recording' }).waitFor();
    await recordedSeconds(page, 2.5);
    await page.keyboard.press('f');
    await expect(page.getByTestId('level-heldDb').textContent()).resolves.toMatch(/^−\d+\.\d dB$/);
    await expect(page.getByTestId('level-word').textContent()).resolves.toMatch(/On target|Hot|Thin/);
    await page.waitForTimeout(500);
    await page.keyboard.press('n');
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await expect(page.getByRole('button', { name: /^Record: / }).textContent()).resolves.toContain('take 2');
    await recordFor(page, 1.5);
    await page.getByRole('tab', { name: 'Marks 2' }).click();
    await expect(page.getByRole('textbox', { name: /Name of the flub mark/ }).inputValue()).resolves.toBe(
      'Flub 1',
    );
    await page.getByRole('tab', { name: 'Takes 2' }).click();
    const recorded = decode(await exportFloat(page, folder));
    const played = decode('public/demo/practice-reader.mp3');
    // The reader goes on where it stopped: beyond the join, the second take is the rest of the reading.
    const tail = recorded.subarray(recorded.length - 20_000);
    let best = Infinity;
    for (let at = 60_000; at < 400_000; at++) {
      let error = 0;
      for (let i = 0; i < 20_000 && error < best; i += 97) error += (tail[i] - played[at + i]) ** 2;
      best = Math.min(best, error);
    }
    expect(best).toBeLessThan(1e-8);
  });
});
