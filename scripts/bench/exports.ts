import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { choose, download, goTo, openApp, type App } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { makeHour } from './core';
import { createEmptyProject, plantParts, type PlantedPart } from './plant';
import { cpuOf, usedBy, type Used } from './processes';
import type { Row } from './row';

type Exported = Used & { bytes: number };

async function exportAs({ page, profile }: App, format: string, folder: string): Promise<Exported> {
  await choose(page, 'Format', format);
  const { result, ...used } = await usedBy(profile, () =>
    download(page, () => page.getByRole('button', { name: /^Export \d/ }).click(), folder),
  );
  console.log(`${format}: ${used.seconds.toFixed(1)} s`);
  return { ...used, bytes: statSync(result).size };
}

async function prepare(page: Page, parts: PlantedPart[]) {
  await plantParts(page, parts);
  await page.goto(new URL('/', page.url()).href);
  await page.locator('tbody a').click();
  await page.waitForURL(/booth$/);
  await goTo(page, 'Proof');
  await page
    .getByRole('button', { name: 'Stop measuring' })
    .click({ timeout: 5000 })
    .catch(() => undefined);
}

const hours = (count: number, seconds: number): PlantedPart[] =>
  Array.from({ length: count }, (_, index) => ({ name: `Part ${index + 1}`, seconds, pieces: 200 }));

/** A browser with these parts, for one round of exports. */
async function round<T>(parts: PlantedPart[], work: (app: App, folder: string) => Promise<T>): Promise<T> {
  const app = await openApp();
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-bench-'));
  try {
    app.page.context().setDefaultTimeout(900_000);
    await createEmptyProject(app, 'Bench');
    await prepare(app.page, parts);
    return await work(app, folder);
  } finally {
    await app.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

export async function benchExports(): Promise<Row[]> {
  const hour = makeHour();
  const references = {
    wav: cpuOf('ffmpeg', '-y', '-threads', '1', '-i', hour, '-c:a', 'pcm_s24le', '.cache/bench.wav'),
    flac: cpuOf('flac', '-s', '-f', '-5', '-o', '.cache/bench.flac', hour),
    mp3: cpuOf('lame', '--quiet', '-b', '192', '-m', 'm', '--resample', '44.1', hour, '.cache/bench.mp3'),
  };
  const server = await startServer();
  try {
    const rows: Row[] = [];
    const row = (what: string, { seconds, cpu, bytes }: Exported, reference: number, by: string) =>
      rows.push([
        `One hour to ${what}, click to finished download, read back and checksum included`,
        `${seconds.toFixed(1)} s, ${Math.round(3600 / seconds)}× real time, ${Math.round(bytes / 1e6)} MB; ${cpu.toFixed(1)} s of CPU, ${by} alone ${reference.toFixed(1)} s (${(cpu / reference).toFixed(1)}×)`,
        'CPU against the tool with one thread',
      ]);
    await round(hours(1, 3600), async (app, folder) => {
      row('24-bit WAV', await exportAs(app, 'WAV · 24-bit', folder), references.wav, 'ffmpeg');
      row('24-bit FLAC', await exportAs(app, 'FLAC · 24-bit', folder), references.flac, 'flac -5');
      row('MP3, 192 kbit/s', await exportAs(app, 'MP3 · constant bit rate', folder), references.mp3, 'lame');
    });
    const alone = await round(hours(1, 1200), (app, folder) =>
      exportAs(app, 'MP3 · constant bit rate', folder),
    );
    const three = await round(hours(3, 1200), (app, folder) =>
      exportAs(app, 'MP3 · constant bit rate', folder),
    );
    rows.push([
      'Three parts of 20 minutes to MP3 at once, against one of them alone',
      `${three.seconds.toFixed(1)} s against ${alone.seconds.toFixed(1)} s (${(three.seconds / alone.seconds).toFixed(2)}×); ${(three.cpu / three.seconds).toFixed(2)} cores busy, the third part alone at the end`,
      'both cores busy',
    ]);
    const long = await round(hours(1, 10_800), (app, folder) => exportAs(app, 'WAV · 24-bit', folder));
    rows.push([
      'Private memory of the page and its workers while three hours are exported',
      `${Math.round(long.peakMb)} MB at most, ${Math.round(long.beforeMb)} MB before`,
      'under 500 MB',
    ]);
    return rows;
  } finally {
    server.kill();
  }
}
