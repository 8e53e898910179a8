import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import puppeteer, { type Browser, type Page } from 'puppeteer-core';
import { baseUrl } from './server';

/** Firefox with a sound server of its own: without one its audio clock stands still. */
export interface Firefox {
  page: Page;
  /** Where files come to. */
  downloads: string;
  /** What must not happen: errors of the page. */
  complaints: string[];
  close(): Promise<void>;
}

const readyMs = 20_000;
const downloadMs = 90_000;

async function until(what: string, done: () => boolean, ms = readyMs): Promise<void> {
  const end = Date.now() + ms;
  while (!done()) {
    if (Date.now() > end) throw new Error(`${what} took too long`);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

/** A sound server whose one output plays into nothing, in real time. */
async function startSound(folder: string): Promise<{ server: ChildProcess; socket: string }> {
  const socket = path.join(folder, 'sound');
  const load = ['module-null-sink', `module-native-protocol-unix socket=${socket} auth-anonymous=1`];
  const server = spawn(
    'pulseaudio',
    [
      '-n',
      '--daemonize=no',
      '--exit-idle-time=-1',
      '--use-pid-file=no',
      ...load.flatMap((module) => ['-L', module]),
    ],
    { stdio: 'ignore', env: { ...process.env, HOME: folder, XDG_RUNTIME_DIR: folder } },
  );
  await until('Starting the sound server', () => existsSync(socket));
  return { server, socket };
}

/** Opens the application in a fresh profile of Firefox ESR. */
export async function openFirefox(locale = 'en-US'): Promise<Firefox> {
  const folder = mkdtempSync(path.join(tmpdir(), 'parola-firefox-'));
  const downloads = mkdtempSync(path.join(folder, 'files-'));
  const { server, socket } = await startSound(folder);
  let browser: Browser;
  try {
    browser = await puppeteer.launch({
      browser: 'firefox',
      executablePath: process.env.FIREFOX ?? '/usr/bin/firefox-esr',
      headless: true,
      env: { ...process.env, HOME: folder, PULSE_SERVER: `unix:${socket}` },
      extraPrefsFirefox: {
        'media.navigator.streams.fake': true,
        'media.navigator.permission.disabled': true,
        'media.autoplay.default': 0,
        'browser.download.folderList': 2,
        'browser.download.dir': downloads,
        'browser.download.always_ask_before_handling_new_types': false,
        'intl.accept_languages': locale,
      },
    });
  } catch (thrown) {
    server.kill();
    throw thrown;
  }
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  page.setDefaultTimeout(readyMs);
  const complaints: string[] = [];
  page.on('pageerror', (error) => complaints.push(error instanceof Error ? error.message : String(error)));
  await page.goto(baseUrl);
  return {
    page,
    downloads,
    complaints,
    async close() {
      await browser.close().catch(() => undefined);
      server.kill();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** What the page says to its user. */
const saidOn = (page: Page) =>
  page.$$eval('[role=alert], [role=status], [role=dialog]', (signs) =>
    signs.map((sign) => sign.textContent ?? '').filter(Boolean),
  );

/** The one file that has come, once all of it is there. */
export async function downloaded({ page, downloads }: Firefox): Promise<string> {
  const there = () =>
    readdirSync(downloads).map((name) => ({ name, bytes: statSync(path.join(downloads, name)).size }));
  const isWhole = () => {
    const files = there();
    return files.length === 1 && files[0].bytes > 0 && !files[0].name.endsWith('.part');
  };
  try {
    await until('The download', isWhole, downloadMs);
  } catch (thrown) {
    console.log('There is', JSON.stringify(there()), 'and the page says', await saidOn(page));
    throw thrown;
  }
  return path.join(downloads, there()[0].name);
}
