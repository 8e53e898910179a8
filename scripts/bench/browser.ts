import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { download, goTo, openApp } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import type { Row } from './run';

const rateHz = 48_000;
const hourFrames = 3600 * rateHz;

/** Writes a project with one recorded hour straight into the storage of the page: made-up speech-like noise in 5,000 pieces. */
async function plantHour(page: Page): Promise<void> {
  await page.evaluate(
    async ({ frames, rate }) => {
      const db = await new Promise<IDBDatabase>((resolve) => {
        const request = indexedDB.open('parola');
        request.onsuccess = () => resolve(request.result);
      });
      const done = (tx: IDBTransaction) =>
        new Promise<void>((resolve, reject) => {
          tx.oncomplete = () => resolve();
          tx.onabort = () => reject(tx.error);
        });
      const projects: { id: string; partIds: string[] }[] = await new Promise((resolve) => {
        const request = db.transaction('projects').objectStore('projects').getAll();
        request.onsuccess = () => resolve(request.result as never);
      });
      const [project] = projects;
      const id = 'bench-hour';
      const block = 16_384;
      const blocks = Math.ceil(frames / block);
      for (let from = 0; from < blocks; from += 200) {
        const tx = db.transaction(['blocks', 'peaks'], 'readwrite');
        for (let index = from; index < Math.min(blocks, from + 200); index++) {
          const length = Math.min(block, frames - index * block);
          const audio = new Float32Array(length);
          const loud = index % 9 < 6 ? 0.2 : 0.0006;
          for (let i = 0; i < length; i++) audio[i] = loud * Math.sin(i * 0.05 + Math.sin(i * 0.001) * 8);
          const peaks = new Float32Array(Math.ceil(length / 256) * 3);
          for (let i = 0; i < peaks.length; i += 3)
            peaks.set([-loud * ((i % 40) / 40), loud * ((i % 31) / 31), loud * loud * 0.5], i);
          tx.objectStore('blocks').put([audio], [id, index]);
          tx.objectStore('peaks').put([peaks], [id, index]);
        }
        await done(tx);
      }
      const tx = db.transaction(['sources', 'parts'], 'readwrite');
      const partId = project.partIds[0];
      tx.objectStore('sources').put({
        id,
        projectIds: [project.id],
        partId,
        trackId: 'track-1',
        take: 1,
        name: 'Take 1',
        rateHz: rate,
        channels: 1,
        state: 'kept',
        frames,
        handleFrames: 0,
        startedAt: 1,
        overrunFrames: 0,
        input: 'bench',
      });
      const pieces = Array.from({ length: 5000 }, (_, i) => {
        const length = Math.floor(frames / 5000);
        return {
          kind: 'audio',
          source: id,
          channel: 0,
          from: ((i * 7) % 5000) * length,
          length,
          gainDb: 0,
          struck: i % 50 === 0,
        };
      });
      const parts = tx.objectStore('parts');
      const part = await new Promise<Record<string, unknown>>((resolve) => {
        const request = parts.get(partId);
        request.onsuccess = () => resolve(request.result as never);
      });
      const heardFrames = pieces
        .filter((piece) => !piece.struck)
        .reduce((sum, piece) => sum + piece.length, 0);
      parts.put({
        ...part,
        heardFrames,
        timeline: { marks: [], tracks: [{ id: 'track-1', name: 'Voice', pieces }] },
      });
      await done(tx);
      db.close();
    },
    { frames: hourFrames, rate: rateHz },
  );
}

const median = (values: number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

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

interface TraceEvent {
  name: string;
}

/** Scrolls the sheet for some seconds under a DevTools trace; counts frames drawn and dropped in the compositor's timeline. */
async function scrollTrace(page: Page): Promise<{ drawn: number; dropped: number; seconds: number }> {
  const devtools = await page.context().newCDPSession(page);
  const events: TraceEvent[] = [];
  devtools.on('Tracing.dataCollected', ({ value }) => events.push(...(value as unknown as TraceEvent[])));
  await devtools.send('Tracing.start', {
    traceConfig: {
      includedCategories: [
        'devtools.timeline',
        'disabled-by-default-devtools.timeline.frame',
        'devtools.timeline.frame',
      ],
    },
    transferMode: 'ReportEvents',
  });
  const seconds = 4;
  await page.evaluate(async (length) => {
    const scroller = document.querySelector('[data-testid=sheet]')?.parentElement;
    const until = performance.now() + length * 1000;
    while (performance.now() < until) {
      if (scroller) scroller.scrollTop += 14;
      await new Promise(requestAnimationFrame);
    }
  }, seconds);
  const complete = new Promise((resolve) => devtools.once('Tracing.tracingComplete', resolve));
  await devtools.send('Tracing.end');
  await complete;
  const count = (name: string) => events.filter((event) => event.name === name).length;
  return {
    drawn: count('DrawFrame'),
    dropped: count('DroppedFrame'),
    seconds,
  };
}

async function exportSeconds(page: Page, folder: string): Promise<{ seconds: number; bytes: number }> {
  await goTo(page, 'Proof');
  await page.getByLabel('Format').click();
  await page.getByRole('option', { name: 'WAV · 24-bit' }).click();
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

export async function benchBrowser(): Promise<Row[]> {
  const server = await startServer();
  const app = await openApp();
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-bench-'));
  try {
    const { page } = app;
    // The runner of this script marks functions with their names; in the page there is nothing that does.
    const named = 'globalThis.__name = (value) => value';
    await app.context.addInitScript(named);
    await page.evaluate(named);
    await page.getByRole('button', { name: 'New project' }).click();
    await page.getByRole('textbox', { name: 'Name' }).fill('Hour');
    await page.getByLabel('Delivery specification').click();
    await page.getByRole('option', { name: 'Dry voice' }).click();
    await page.getByRole('button', { name: 'Create' }).click();
    await page.waitForURL(/brief$/);
    await plantHour(page);
    const opening: number[] = [];
    for (let i = 0; i < 5; i++) {
      await page.goto(new URL('/', page.url()).href);
      await page.locator('tbody a').waitFor();
      opening.push(await openMilliseconds(page));
    }
    await page.waitForTimeout(1500);
    const scroll = await scrollTrace(page);
    const written = await exportSeconds(page, folder);
    return [
      [
        'Opening a part of one hour and 5,000 pieces, click to first drawn sheet',
        `${Math.round(median(opening))} ms`,
        'under 1,000 ms',
      ],
      [
        `Scrolling it for ${scroll.seconds} s (DevTools trace)`,
        `${scroll.drawn} frames drawn, ${scroll.dropped} dropped`,
        'none dropped at 60 fps',
      ],
      [
        'Exporting its heard 59 minutes to 24-bit WAV, click to finished download',
        `${written.seconds.toFixed(1)} s, ${Math.round(written.bytes / 3 / rateHz / written.seconds)}× real time`,
        'at least 100×',
      ],
    ];
  } finally {
    await app.close();
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}
