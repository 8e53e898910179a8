import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { chooseInput, createProject, goTo, openApp, recorded, takePlaced } from '../../e2e/support/app';
import { folderChosen } from '../../e2e/support/copies';
import { makeSpeechFile } from '../../e2e/support/audio';
import { baseUrl, startServer } from '../../e2e/support/server';
import { createEmptyProject, plantParts } from './plant';
import { cpuNow, tabMegabytes, usedBy } from './processes';
import type { Row } from './row';

const planted = { hours: 2, parts: 4 };

async function chooseFolder(page: Page): Promise<void> {
  await page.keyboard.press('8');
  await page.getByRole('button', { name: /for all projects/ }).click();
  await page.getByText(/All of it is in/).waitFor({ timeout: 600_000 });
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => document.querySelector('[role=dialog]') === null);
}

/** Two tracks recorded for so many minutes, with a copy in a folder or without: the share of one core. */
async function recording(minutes: number, copied: boolean) {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-bench-keep-'));
  const app = await openApp({ profile, before: folderChosen });
  const { page } = app;
  page.setDefaultTimeout(120_000);
  try {
    await createProject(page, 'Kept', 'Podcast stereo');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Two voices');
    if (copied) await chooseFolder(page);
    await page.keyboard.press('Enter');
    await recorded(page, 5);
    const before = { ...cpuNow(profile), mb: tabMegabytes(profile), ms: Date.now() };
    await recorded(page, minutes * 60);
    const share = (cpuNow(profile).browser - before.browser) / ((Date.now() - before.ms) / 1000);
    const grown = tabMegabytes(profile) - before.mb;
    await page.keyboard.press('Enter');
    await takePlaced(page);
    const endedMs = Date.now();
    if (copied) await page.getByRole('button', { name: /^Saved · copied (just|[0-4] s)/ }).waitFor();
    const copiedAfter = (Date.now() - endedMs) / 1000;
    const lost = await page.getByText(/were lost/).count();
    return { share, grown, copiedAfter, lost };
  } finally {
    await app.close();
    rmSync(profile, { recursive: true, force: true });
  }
}

/** What a copy costs while it is recorded, and opening a long project from one. */
export async function benchKeep(minutes: number): Promise<Row[]> {
  makeSpeechFile();
  const server = await startServer();
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-bench-keep-'));
  try {
    const alone = await recording(minutes, false);
    const kept = await recording(minutes, true);
    const app = await openApp({ profile, before: folderChosen });
    const { page } = app;
    page.setDefaultTimeout(900_000);
    await createEmptyProject(app, 'Long');
    const seconds = (planted.hours * 3600) / planted.parts;
    await plantParts(
      page,
      Array.from({ length: planted.parts }, (_, index) => ({ name: `Part ${index}`, seconds, pieces: 500 })),
    );
    await page.goto(baseUrl);
    await page.getByRole('link', { name: 'Long' }).click();
    await page.getByTestId('sheet').waitFor();
    const first = await usedBy(profile, () => chooseFolder(page));
    await page.goto(baseUrl);
    const opened = await usedBy(profile, async () => {
      await page.getByRole('button', { name: 'Open a folder' }).click();
      await page.waitForURL(/booth$/);
      await page.getByTestId('sheet').waitFor();
    });
    await app.close();
    const percent = (share: number) => `${(100 * share).toFixed(1)} % of a core`;
    const hours = seconds / 3600;
    return [
      [
        `Two tracks recorded for ${minutes} minutes, copied into a folder meanwhile`,
        `${percent(kept.share)}, without a copy ${percent(alone.share)}: ${percent(kept.share - alone.share)} for the copy; page ${kept.grown.toFixed(0)} MB larger, without ${alone.grown.toFixed(0)}`,
        'under 5 % more',
      ],
      ['Takes of which something was lost meanwhile', String(kept.lost), '0'],
      ['From the end of that take to its copy, read back', `${kept.copiedAfter.toFixed(1)} s`, 'under 10 s'],
      [
        `The first copy of a recording of ${(60 * hours).toFixed(0)} minutes, read back with its checksum`,
        `${first.seconds.toFixed(1)} s, ${((hours * 3600) / first.seconds).toFixed(0)} × real time; at most ${(first.peakMb - first.beforeMb).toFixed(0)} MB more in the page`,
        '',
      ],
      [
        `That project (${planted.parts} parts, ${planted.hours} hours heard) opened from its folder`,
        `${opened.seconds.toFixed(1)} s, ${((hours * 3600) / opened.seconds).toFixed(0)} × real time of its audio; at most ${(opened.peakMb - opened.beforeMb).toFixed(0)} MB more`,
        '',
      ],
    ];
  } finally {
    server.kill();
    rmSync(profile, { recursive: true, force: true });
  }
}
