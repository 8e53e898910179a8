import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { choose, download, goTo, openApp, openDemo } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { demoLimit, frameworkKilobytes, partLimits } from './limits';
import { createEmptyProject, plantParts } from './plant';
import { median, type Row } from './row';
import { scrollLimit, scrollTrace, toldScrollLimit } from './scrolling';

const rateHz = 48_000;

/** From the click on the project to the first frame in which the sheet has ink. */
async function openMilliseconds(page: Page): Promise<number> {
  return page.evaluate(async () => {
    const started = performance.now();
    document.querySelector<HTMLAnchorElement>('tbody a')?.click();
    const inked = () => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=sheet] canvas');
      if (!canvas || canvas.width === 0) return false;
      const { data } = canvas
        .getContext('2d')
        ?.getImageData(Math.floor(canvas.width / 2) - 100, 20, 200, 80) ?? { data: [] };
      let dark = 0;
      for (let i = 3; i < data.length; i += 4) if (data[i] > 200) dark++;
      return dark > 600;
    };
    while (!inked()) await new Promise(requestAnimationFrame);
    return performance.now() - started;
  });
}

async function exportSeconds(page: Page, folder: string): Promise<{ seconds: number; bytes: number }> {
  await goTo(page, 'Proof');
  await choose(page, 'Format', 'WAV · 24-bit');
  await page
    .getByRole('button', { name: 'Stop measuring' })
    .click()
    .catch(() => undefined);
  const started = Date.now();
  page.context().setDefaultTimeout(300_000);
  const file = await download(
    page,
    () => page.getByRole('button', { name: /^Export 1 file/ }).click(),
    folder,
  );
  return { seconds: (Date.now() - started) / 1000, bytes: statSync(file).size };
}

/** Frames dropped in five times four seconds of scrolling, while an export to MP3 runs. */
async function scrolledWhileExporting(page: Page): Promise<number[]> {
  await choose(page, 'Format', 'MP3 · constant bit rate');
  await page.getByRole('button', { name: /^Export 1 file/ }).click();
  await goTo(page, 'Booth');
  await page.getByTestId('sheet').waitFor();
  await page.waitForTimeout(1500);
  const dropped: number[] = [];
  for (let run = 0; run < 5; run++) dropped.push((await scrollTrace(page)).dropped);
  if ((await page.getByRole('button', { name: 'Cancel' }).count()) === 0)
    throw new Error('The export ended before the scrolling did');
  return dropped;
}

/** Compressed bytes of script and style until the first view is there, and seconds until the demo is open. */
async function firstVisit(): Promise<{ kilobytes: number; demoSeconds: number }> {
  const app = await openApp();
  const { page } = app;
  try {
    const devtools = await page.context().newCDPSession(page);
    const wanted = new Set<string>();
    let bytes = 0;
    devtools.on('Network.responseReceived', ({ requestId, type }) => {
      if (type === 'Script' || type === 'Stylesheet') wanted.add(requestId);
    });
    devtools.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
      if (wanted.has(requestId)) bytes += encodedDataLength;
    });
    await devtools.send('Network.enable');
    await devtools.send('Network.setCacheDisabled', { cacheDisabled: true });
    await page.reload({ waitUntil: 'networkidle' });
    await page.getByRole('button', { name: 'New project' }).waitFor();
    const kilobytes = bytes / 1000;
    const started = Date.now();
    await openDemo(page);
    await page.getByTestId('sheet').waitFor();
    return { kilobytes, demoSeconds: (Date.now() - started) / 1000 };
  } finally {
    await app.close();
  }
}

export async function benchBrowser(): Promise<Row[]> {
  const server = await startServer();
  const { kilobytes, demoSeconds } = await firstVisit();
  const demoAlone = await demoLimit();
  const app = await openApp();
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-bench-'));
  try {
    const { page } = app;
    await createEmptyProject(app, 'Hour');
    await plantParts(page, [{ name: 'Hour', seconds: 3600, pieces: 5000 }]);
    const opening: number[] = [];
    for (let i = 0; i < 5; i++) {
      await page.goto(new URL('/', page.url()).href);
      await page.locator('tbody a').waitFor();
      await page.waitForLoadState('networkidle');
      opening.push(await openMilliseconds(page));
    }
    await page.waitForTimeout(1500);
    const scroll = await scrollTrace(page);
    const scrollAlone = await scrollLimit(app.context, 5);
    await page.bringToFront();
    const partAlone = await partLimits(page);
    const written = await exportSeconds(page, folder);
    const busy = await scrolledWhileExporting(page);
    return [
      [
        'First visit: script and style before the first view, compressed; demo project open, click to sheet',
        `${kilobytes.toFixed(0)} kB; ${demoSeconds.toFixed(1)} s`,
        'at most 450 kB; 3 s',
      ],
      [
        'Of this: the framework’s own script, compressed; fetching and decoding the demo’s audio, nothing else',
        `${frameworkKilobytes().toFixed(0)} kB; ${demoAlone.toFixed(1)} s`,
        'the limit of this machine',
      ],
      [
        'Opening a part of one hour and 5,000 pieces, click to first drawn sheet',
        `${Math.round(median(opening))} ms`,
        'at most 300 ms',
      ],
      [
        'Of this: reading the part’s record out of the storage, and two frames',
        `${Math.round(partAlone.reading)} and 33 ms`,
        'the limit of this machine',
      ],
      [
        `Scrolling it for ${scroll.seconds} s (DevTools trace)`,
        `${scroll.drawn} frames drawn, ${scroll.dropped} dropped`,
        'none dropped at 60 fps',
      ],
      toldScrollLimit(scrollAlone),
      [
        'The same five times while an export to MP3 runs, frames dropped',
        busy.join(', '),
        'none in any of them',
      ],
      [
        'Exporting its heard 59 minutes to 24-bit WAV, click to finished download, read back and checksum included',
        `${written.seconds.toFixed(1)} s, ${Math.round(written.bytes / 3 / rateHz / written.seconds)}× real time`,
        'at least 200×',
      ],
    ];
  } finally {
    await app.close();
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}
