import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer, request, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode } from './support/audio';
import {
  chooseInput,
  closeOpened,
  createProject,
  exportFloat,
  goTo,
  openApp,
  recorded,
  recordFor,
  sheetFrames,
  takePlaced,
} from './support/app';
import { port } from './support/server';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-offline-'));
afterEach(closeOpened);
afterAll(() => rmSync(folder, { recursive: true }));

/**
 * A way to the server that can be cut, and that gives another version of the service worker when it is told
 * to.
 */
class Way {
  private server: Server | null = null;
  newer = false;

  constructor(readonly at: number) {}

  get address() {
    return `http://localhost:${this.at}`;
  }

  open(): Promise<void> {
    this.server = createServer((asked, answer) => {
      if (this.newer && asked.url === '/service-worker.js') {
        const text = readFileSync('public/service-worker.js', 'utf8');
        answer.writeHead(200, { 'Content-Type': 'text/javascript' });
        answer.end(`${text}\n// a newer one\n`);
        return;
      }
      const onward = request(
        {
          port,
          path: asked.url,
          method: asked.method,
          headers: { ...asked.headers, host: `localhost:${port}` },
        },
        (response) => {
          answer.writeHead(response.statusCode ?? 502, response.headers);
          response.pipe(answer);
        },
      );
      onward.on('error', () => answer.destroy());
      asked.pipe(onward);
    });
    return new Promise((resolve) => this.server?.listen(this.at, '127.0.0.1', resolve));
  }

  cut(): Promise<void> {
    this.server?.closeAllConnections();
    return new Promise((resolve) => this.server?.close(() => resolve()));
  }
}

/** The application is kept once its service worker has the page. */
const kept = async (page: Page) => {
  for (let tries = 0; tries < 300; tries++) {
    if (await page.evaluate(() => navigator.serviceWorker.controller !== null)) return;
    await page.waitForTimeout(100);
  }
  throw new Error('the application was not kept');
};

test('with the server stopped the application opens, records, proves and exports', async () => {
  const way = new Way(port + 300);
  await way.open();
  const app = await openApp({ offline: true });
  const { page } = app;
  await page.goto(way.address);
  // What a browser wants to know before it installs an application; its icons are what they are said to be.
  const sizes = await page.evaluate(async () => {
    const link = document.querySelector<HTMLLinkElement>('link[rel=manifest]')?.href ?? '';
    const { icons } = (await (await fetch(link)).json()) as { icons: { src: string; sizes: string }[] };
    const pictures = icons.filter(({ sizes: told }) => told !== 'any');
    return Promise.all(
      pictures.map(async ({ src, sizes: told }) => {
        const { width, height } = await createImageBitmap(await (await fetch(src)).blob());
        return [told, `${width}x${height}`];
      }),
    );
  });
  expect(sizes).toEqual([
    ['192x192', '192x192'],
    ['512x512', '512x512'],
  ]);
  await kept(page);
  await createProject(page, 'Far out', 'Dry voice');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 1);
  const before = await sheetFrames(page);
  await way.cut();
  await page.reload();
  await page.getByTestId('sheet').waitFor();
  // The same project, and its shared memory, without which nothing is recorded.
  expect(await sheetFrames(page)).toBe(before);
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 1.5);
  const frames = await sheetFrames(page);
  expect(frames).toBeGreaterThan(before);
  const file = await exportFloat(page, folder);
  expect(decode(file)).toHaveLength(frames);
  await page.goto(way.address);
  await page.getByRole('link', { name: 'Far out' }).click();
  await page.getByTestId('sheet').waitFor();
  await goTo(page, 'Brief');
  await page.getByLabel('Script', { exact: true }).waitFor();
  await page.goto(`${way.address}/help`);
  await page.getByLabel('Find in the help').fill('copy in a folder');
  await page.getByRole('heading', { name: 'Where it is kept', exact: true }).waitFor();
  await page.getByRole('heading', { name: 'Finish', exact: true }).waitFor({ state: 'detached' });
  await app.close();
});

test('a version that comes during a recording waits until it is asked to take over; nothing is lost', async () => {
  const way = new Way(port + 301);
  await way.open();
  const app = await openApp({ offline: true });
  const { page } = app;
  await page.goto(way.address);
  await kept(page);
  await createProject(page, 'On and on', 'Dry voice');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('Enter');
  await recorded(page, 0.5);
  way.newer = true;
  await page.evaluate(async () => (await navigator.serviceWorker.getRegistration())?.update());
  await page.getByText(/A new version of Parola is here/).waitFor();
  await expect(page.getByRole('button', { name: 'Use it now' }).isDisabled()).resolves.toBe(true);
  await recorded(page, 1);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  const frames = await sheetFrames(page);
  const loaded = page.waitForEvent('load');
  await page.getByRole('button', { name: 'Use it now' }).click();
  await loaded;
  await page.getByTestId('sheet').waitFor();
  expect(await sheetFrames(page)).toBe(frames);
  await page.getByText(/A new version of Parola is here/).waitFor({ state: 'detached' });
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 0.5);
  expect(app.complaints.filter((text) => !/localhost:\d+|ERR_CONNECTION/.test(text))).toEqual([]);
  await way.cut();
});
