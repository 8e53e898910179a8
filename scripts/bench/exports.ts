import { statSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { choose, goTo, openApp, type App } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { makeHour } from './core';
import { limitsOf } from './limits';
import { createEmptyProject, plantParts, type PlantedPart } from './plant';
import { cpuOf, usedBy, type Used } from './processes';
import type { Row } from './row';

type Exported = Used & { bytes: number };

async function exportAs({ page, profile }: App, format: string): Promise<Exported> {
  await choose(page, 'Format', format);
  const { result, ...used } = await usedBy(profile, () =>
    finishedDownload(page, () => page.getByRole('button', { name: /^Export \d/ }).click()),
  );
  console.log(`${format}: ${used.seconds.toFixed(1)} s`);
  return { ...used, bytes: statSync(result).size };
}

/** Where a download stands once it is finished: nothing is copied once more. */
async function finishedDownload(page: Page, start: () => Promise<void>): Promise<string> {
  const [file] = await Promise.all([page.waitForEvent('download'), start()]);
  return file.path();
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
async function round<T>(parts: PlantedPart[], work: (app: App) => Promise<T>): Promise<T> {
  const app = await openApp();
  try {
    app.page.context().setDefaultTimeout(900_000);
    await createEmptyProject(app, 'Bench');
    await prepare(app.page, parts);
    return await work(app);
  } finally {
    await app.close();
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
    const row = (
      what: string,
      { seconds, cpu, bytes, peakMb }: Exported,
      reference: number,
      by: string,
      wanted: string,
    ) =>
      rows.push([
        `One hour to ${what}, click to finished download, read back and checksum included`,
        `${seconds.toFixed(1)} s, ${Math.round(3600 / seconds)}× real time, ${Math.round(bytes / 1e6)} MB; ${Math.round(peakMb)} MB of memory at most; ${cpu.toFixed(1)} s of CPU, ${by} alone ${reference.toFixed(1)} s (${(cpu / reference).toFixed(1)}×)`,
        wanted,
      ]);
    await round(hours(1, 3600), async (app) => {
      const wav = await exportAs(app, 'WAV · 24-bit');
      row('24-bit WAV', wav, references.wav, 'ffmpeg', 'at most 18 s');
      row('24-bit FLAC', await exportAs(app, 'FLAC · 24-bit'), references.flac, 'flac -5', 'at most 48 s');
      row(
        'MP3, 192 kbit/s',
        await exportAs(app, 'MP3 · constant bit rate'),
        references.mp3,
        'lame',
        'at most 62 s',
      );
      const { reading, writing, readingBack } = await limitsOf(app.page, wav.bytes);
      const limit = reading + writing + readingBack;
      rows.push([
        'Of the WAV: reading the recording alone, writing the file alone, reading it back alone',
        `${reading.toFixed(1)}, ${writing.toFixed(1)} and ${readingBack.toFixed(1)} s; all of it takes ${(wav.seconds / limit).toFixed(1)} times as long`,
        'the limit of this machine',
      ]);
    });
    const alone = await round(hours(1, 1200), (app) => exportAs(app, 'MP3 · constant bit rate'));
    const three = await round(hours(3, 1200), (app) => exportAs(app, 'MP3 · constant bit rate'));
    rows.push([
      'Three parts of 20 minutes to MP3 at once, against one of them alone',
      `${three.seconds.toFixed(1)} s against ${alone.seconds.toFixed(1)} s (${(three.seconds / alone.seconds).toFixed(2)}×); ${(three.cpu / three.seconds).toFixed(2)} cores busy`,
      'at most 1.7 times',
    ]);
    const long = await round(hours(1, 10_800), (app) => exportAs(app, 'WAV · 24-bit'));
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
