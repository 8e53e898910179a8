import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { download, goTo, openApp, type App } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { makeHour } from './core';
import { createEmptyProject, plantParts, type PlantedPart } from './plant';
import type { Row } from './row';

const pollMs = 250;

/** Processor seconds of a command that runs in one thread, its children counted. */
function cpuOf(command: string, ...args: string[]): number {
  const times = execFileSync(
    'bash',
    ['-c', 'TIMEFORMAT="%U %S"; { time "$@" >/dev/null 2>&1; } 2>&1', '-', command, ...args],
    {
      encoding: 'utf8',
    },
  );
  return times
    .trim()
    .split(/\s+/)
    .reduce((sum, part) => sum + Number(part), 0);
}

/** The renderer processes of a browser profile: the page and its workers. */
function renderers(profile: string): number[] {
  return readdirSync('/proc')
    .filter((entry) => /^\d+$/.test(entry))
    .map(Number)
    .filter((pid) => {
      try {
        const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
        return command.includes('--type=renderer') && command.includes(profile);
      } catch {
        return false;
      }
    });
}

const megabytes = (pid: number) => {
  try {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1000;
  } catch {
    return 0;
  }
};

/** Processor seconds of those processes so far. */
const cpuSeconds = (pids: number[]) =>
  pids.reduce((sum, pid) => {
    try {
      const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
      return sum + (Number(fields[11]) + Number(fields[12])) / 100;
    } catch {
      return sum;
    }
  }, 0);

interface Exported {
  seconds: number;
  cpu: number;
  bytes: number;
  /** Most memory of the page with its workers, and what it had before, MB. */
  peakMb: number;
  beforeMb: number;
}

async function exportAs(app: App, format: string, folder: string): Promise<Exported> {
  const { page, profile } = app;
  await page.getByLabel('Format', { exact: true }).click();
  await page.getByRole('option', { name: format, exact: true }).click();
  const pids = renderers(profile);
  const memory = () => Math.max(...pids.map(megabytes));
  const beforeMb = memory();
  let peakMb = beforeMb;
  const timer = setInterval(() => (peakMb = Math.max(peakMb, memory())), pollMs);
  const cpuBefore = cpuSeconds(pids);
  const started = Date.now();
  const file = await download(page, () => page.getByRole('button', { name: /^Export \d/ }).click(), folder);
  clearInterval(timer);
  return {
    seconds: (Date.now() - started) / 1000,
    cpu: cpuSeconds(pids) - cpuBefore,
    bytes: statSync(file).size,
    peakMb,
    beforeMb,
  };
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

/** Two hours of stereo at another rate, read into the project. */
async function importRow(): Promise<Row> {
  const file = '.cache/bench-two-hours.wav';
  if (!existsSync(file))
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-stream_loop',
      '-1',
      '-i',
      'public/demo/stair.mp3',
      '-t',
      '7200',
      '-ac',
      '2',
      '-ar',
      '44100',
      file,
    ]);
  return round(hours(1, 60), async ({ page, profile }) => {
    await goTo(page, 'Booth');
    await page.keyboard.press('Shift+I');
    await page.getByLabel('Sound files').setInputFiles(file);
    await page.getByText(/stereo · 2:00:00/).waitFor();
    const pids = renderers(profile);
    const memory = () => Math.max(...pids.map(megabytes));
    const beforeMb = memory();
    let peakMb = beforeMb;
    const timer = setInterval(() => (peakMb = Math.max(peakMb, memory())), pollMs);
    const started = Date.now();
    await page.getByRole('button', { name: 'Import 1 file' }).click();
    await page.waitForFunction(() => document.querySelector('[role=dialog]') === null);
    clearInterval(timer);
    const seconds = (Date.now() - started) / 1000;
    return [
      'Importing two hours of 16-bit stereo at 44.1 kHz as mono at 48 kHz',
      `${seconds.toFixed(1)} s, ${Math.round(7200 / seconds)}× real time; ${Math.round(peakMb)} MB at most, ${Math.round(beforeMb)} MB before`,
      'constant memory',
    ];
  });
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
      `${three.seconds.toFixed(1)} s against ${alone.seconds.toFixed(1)} s (${(three.seconds / alone.seconds).toFixed(2)}×); ${(three.cpu / three.seconds).toFixed(2)} cores busy`,
      'under 2.2× on two cores',
    ]);
    const long = await round(hours(1, 10_800), (app, folder) => exportAs(app, 'WAV · 24-bit', folder));
    rows.push([
      'Memory of the page and its workers while three hours are exported',
      `${Math.round(long.peakMb)} MB at most, ${Math.round(long.beforeMb)} MB before`,
      'under 500 MB',
    ]);
    rows.push(await importRow());
    return rows;
  } finally {
    server.kill();
  }
}
