import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { dialogGone, goTo, openApp, saved } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { createEmptyProject } from './plant';
import { cpuOf, tabMegabytes, usedBy } from './processes';
import type { Row } from './row';

/** A little less comes out of ffmpeg, which leaves out a gap at every turn. */
const twoHours = 7200;

/** The demo's reading over and over, as a client's file at another rate might be. */
function makeTwoHours(): string {
  const file = '.cache/bench-two-hours.wav';
  const reading = ['-stream_loop', '-1', '-i', 'public/demo/stair.mp3'];
  const form = ['-t', String(twoHours), '-ac', '2', '-ar', '44100'];
  if (!existsSync(file)) execFileSync('ffmpeg', ['-v', 'error', '-y', ...reading, ...form, file]);
  return file;
}

/** Small files of every kind, one after another: what is held on to by each adds up. */
export async function benchSmallImports(count: number): Promise<Row[]> {
  const kinds = ['wav', 'flac', 'mp3', 'm4a', 'ogg', 'aiff'];
  const files = kinds.map((kind) => {
    const file = `.cache/bench-small.${kind}`;
    const reading = ['-i', 'public/demo/stair.mp3', '-t', '10'];
    if (!existsSync(file)) execFileSync('ffmpeg', ['-v', 'error', '-y', ...reading, file]);
    return file;
  });
  const server = await startServer();
  const app = await openApp();
  const { page, profile } = app;
  const importEach = async (count: number) => {
    for (let i = 0; i < count; i++) {
      await goTo(page, 'Booth');
      await page.getByTestId('sheet').waitFor();
      await page.keyboard.press('Shift+I');
      await page.getByLabel('Sound files').setInputFiles(files[i % files.length]);
      await page.getByRole('button', { name: 'Import 1 file' }).click();
      await dialogGone(page);
      await saved(page);
    }
    // What can be let go of is: only what is still held when nothing goes on any more counts.
    const devTools = await page.context().newCDPSession(page);
    await page.waitForTimeout(10_000);
    await devTools.send('HeapProfiler.collectGarbage');
    await page.waitForTimeout(5000);
    return Math.round(tabMegabytes(profile));
  };
  try {
    page.context().setDefaultTimeout(60_000);
    await createEmptyProject(app, 'Bench');
    const few = await importEach(12);
    const many = await importEach(count);
    return [
      [
        `Importing ${count} files of ten seconds in six formats, one after another, after a first twelve`,
        `${many} MB held by page and workers, ${few} MB before`,
        'no more than before',
      ],
    ];
  } finally {
    await app.close();
    server.kill();
  }
}

export async function benchImports(): Promise<Row[]> {
  const file = makeTwoHours();
  const converted = ['-ac', '1', '-ar', '48000', '-c:a', 'pcm_f32le', '-f', 'null', '-'];
  const limit = cpuOf('ffmpeg', '-threads', '1', '-i', file, ...converted);
  const server = await startServer();
  const app = await openApp();
  const { page, profile } = app;
  try {
    page.context().setDefaultTimeout(60_000);
    await createEmptyProject(app, 'Bench');
    await goTo(page, 'Booth');
    await page.keyboard.press('Shift+I');
    await page.getByLabel('Sound files').setInputFiles(file);
    await page.getByText(/ stereo · 1:59:\d\d/).waitFor();
    const { seconds, peakMb, beforeMb } = await usedBy(profile, async () => {
      await page.getByRole('button', { name: 'Import 1 file' }).click();
      await page.getByRole('dialog').waitFor({ state: 'detached', timeout: 900_000 });
    });
    return [
      [
        'Importing two hours of 16-bit stereo at 44.1 kHz as mono at 48 kHz',
        `${seconds.toFixed(1)} s, ${Math.round(twoHours / seconds)}× real time; ${Math.round(peakMb)} MB at most, ${Math.round(beforeMb)} MB before`,
        'at most 75 s',
      ],
      [
        'Of this: the same conversion by ffmpeg, from disk to nowhere, one thread',
        `${limit.toFixed(1)} s of CPU; all of it takes ${(seconds / limit).toFixed(1)} times as long`,
        'the limit of this machine',
      ],
    ];
  } finally {
    await app.close();
    server.kill();
  }
}
