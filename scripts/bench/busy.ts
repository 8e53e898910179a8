import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import {
  chooseFileInput,
  createProject,
  exportFloat,
  goTo,
  openApp,
  recorded,
  takePlaced,
} from '../../e2e/support/app';
import { decode, makeSpeechFile } from '../../e2e/support/audio';
import { differencesFrom, noiseFile } from '../../e2e/support/noise';
import { startServer } from '../../e2e/support/server';
import type { Row } from './row';

/** Keeps a core busy until it is ended. */
const load = () => new Worker('for (let i = 0; ; i++) Math.sqrt(i);', { eval: true });

/** Records noise for so many minutes while every core of the machine has something else to do. */
export async function benchBusy(minutes: number): Promise<Row[]> {
  makeSpeechFile();
  const server = await startServer();
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-bench-busy-'));
  const noise = noiseFile(minutes * 60 + 20, 31);
  const app = await openApp();
  const loads = cpus().map(load);
  try {
    const { page } = app;
    page.setDefaultTimeout(120_000);
    await createProject(page, 'Busy', 'Podcast mono');
    await goTo(page, 'Booth');
    await chooseFileInput(page, noise.file);
    await page.keyboard.press('Enter');
    await recorded(page, minutes * 60);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await Promise.all(loads.map((worker) => worker.terminate()));
    const heard = decode(await exportFloat(page, folder));
    const { different } = differencesFrom(heard, noise.channels[0]);
    return [
      [
        `Frames of a recording of ${minutes} minutes that are not those of the noise, while all ${loads.length} cores are busy`,
        `${different} of ${heard.length.toLocaleString('en')}`,
        '0',
      ],
    ];
  } finally {
    await Promise.all(loads.map((worker) => worker.terminate()));
    await app.close();
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}
