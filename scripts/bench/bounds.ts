import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { MemorySource } from '@/core/formats/bytes';
import { readSound } from '@/core/formats/readSound';
import { Meter } from '@/core/loudness/measure';
import { cuePoints, flacHead, id3Head, riff, silentFlac, wavFormatChunk } from '@/core/testing/hostile';
import { noise } from '@/core/testing/signals';
import { createProject, goTo, openApp } from '../../e2e/support/app';
import { baseUrl, startServer } from '../../e2e/support/server';
import { median, type Row } from './row';

type Bytes = Uint8Array<ArrayBuffer>;

async function readSeconds(bytes: Bytes): Promise<number> {
  const begun = performance.now();
  try {
    for await (const audio of readSound(new MemorySource(bytes), () => undefined)) void audio;
  } catch {
    // Refused, which is as good.
  }
  return (performance.now() - begun) / 1000;
}

function meterSeconds(samples: Float32Array): number {
  const begun = performance.now();
  const meter = new Meter(48_000, 1);
  for (let minute = 0; minute < 10; minute++) meter.process([samples]);
  meter.finish();
  return (performance.now() - begun) / 1000;
}

/** How long a page takes while a file is measured that takes long, in milliseconds. */
async function pageMilliseconds(): Promise<{ alone: number; meanwhile: number }> {
  const one = async () => {
    const begun = performance.now();
    await (await fetch(baseUrl)).text();
    return performance.now() - begun;
  };
  const several = async () => {
    const times: number[] = [];
    for (let i = 0; i < 15; i++) times.push(await one());
    return median(times);
  };
  await several();
  const alone = await several();
  const leaving = new AbortController();
  const measuring = fetch(`${baseUrl}/api/proof?spec=dry-voice`, {
    method: 'POST',
    body: silentFlac({ hours: 23, rateHz: 48_000, channels: 1 }),
    signal: leaving.signal,
  }).catch(() => undefined);
  await new Promise((resolve) => setTimeout(resolve, 1500));
  const meanwhile = await several();
  leaving.abort();
  await measuring;
  return { alone, meanwhile };
}

/** From the click to the list of marks, and the longest the page was busy in one go, in seconds. */
async function marksSeconds(page: Page, count: number, folder: string) {
  const file = `${folder}/${count}.wav`;
  const pcm = wavFormatChunk(1, 48_000, 16);
  const view = new DataView(pcm.buffer);
  view.setUint32(8, 96_000, true);
  view.setUint16(12, 2, true);
  writeFileSync(file, riff(['fmt ', pcm], ['data', new Uint8Array(480_000)], ['cue ', cuePoints(count)]));
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles([file]);
  await page.getByText(new RegExp(`${count} marks`)).waitFor();
  await page.evaluate(() => {
    const busy = { longest: 0 };
    Object.assign(window, { busy });
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) busy.longest = Math.max(busy.longest, duration);
    }).observe({ type: 'longtask' });
  });
  const begun = performance.now();
  await page.getByRole('button', { name: 'Import 1 file' }).click();
  await page.getByRole('tab', { name: `Marks ${count}` }).click({ timeout: 120_000 });
  await page
    .getByRole('button', { name: /^Go to/ })
    .first()
    .waitFor();
  const seconds = (performance.now() - begun) / 1000;
  const longest = await page.evaluate(
    () => (window as unknown as { busy: { longest: number } }).busy.longest,
  );
  return { seconds, longest: longest / 1000 };
}

export async function benchBounds(): Promise<Row[]> {
  const s = (seconds: number) => `${seconds.toFixed(2)} s`;
  const repeated = (piece: readonly number[], length: number) =>
    Uint8Array.from({ length }, (_, at) => piece[at % piece.length]);
  const join = (...parts: Uint8Array[]) => new Uint8Array(Buffer.concat(parts));
  const rows: Row[] = [
    [
      '1 MB of FLAC sync words (before: 5.5 s)',
      s(await readSeconds(join(flacHead(48_000, 2, 0), repeated([0xff, 0xf8], 1_000_000)))),
      '–',
    ],
    [
      'a tag of 200 MB behind an empty one (before: 177 s)',
      s(await readSeconds(join(id3Head(0), id3Head(200_000_000), new Uint8Array(200_000_000)))),
      '–',
    ],
    [
      '300,000 empty chunks (before: 25 s)',
      s(
        await readSeconds(
          riff(
            ['fmt ', wavFormatChunk(1, 48_000, 16)],
            Array.from({ length: 300_000 }, () => ['junk', new Uint8Array(0)] as [string, Uint8Array]),
            ['data', new Uint8Array(96_000)],
          ),
        ),
      ),
      '–',
    ],
    [
      'digital silence measured, against loud noise (before: ten times as long)',
      (meterSeconds(new Float32Array(2_880_000)) / meterSeconds(noise(2_880_000, -20, 1))).toFixed(2),
      '≤ 1',
    ],
  ];
  const server = await startServer();
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-bounds-'));
  const app = await openApp();
  try {
    const { alone, meanwhile } = await pageMilliseconds();
    rows.push([
      'a page, alone, and while a file of 23 hours is measured (before: 26 s)',
      `${Math.round(alone)} ms, ${Math.round(meanwhile)} ms`,
      '≤ 200 ms',
    ]);
    for (const [count, before] of [
      [1000, '2.3'],
      [5000, '14'],
      [20_000, 'over 90'],
    ] as const) {
      await app.page.goto(baseUrl);
      await createProject(app.page, `Marks ${count}`, 'Dry voice');
      await goTo(app.page, 'Booth');
      await app.page.getByTestId('sheet').waitFor();
      const { seconds, longest } = await marksSeconds(app.page, count, folder);
      rows.push([
        `a WAV with ${count} marks, from the click to their list; the longest the page was busy (before: ${before} s)`,
        `${s(seconds)}; ${s(longest)}`,
        '–',
      ]);
    }
  } finally {
    await app.close();
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
  return rows;
}
