import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { choose, dialogGone, goTo, openApp, saved } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { gridOf } from '../../src/core/chain/cells';
import type { ChainStep } from '../../src/core/chain/chain';
import { usualStep } from '../../src/core/chain/settings';
import { learnRoom } from '../../src/core/chain/softerRoom';
import { noise, writeWav } from '../../src/core/testing/signals';
import { listenIn } from './loudspeaker';
import { createEmptyProject, plantParts } from './plant';
import { median, type Row } from './row';

const rateHz = 48_000;
const changes = 15;

const band = (hertz: number) => ({ shape: 'bell' as const, hertz, gainDb: -2, q: 1 });
/** Seven steps; gain and ceiling come first, so that a change of the first step can be told by level. */
const seven: readonly ChainStep[] = [
  usualStep('ceiling', '1'),
  usualStep('rumble', '2'),
  { ...usualStep('room', '3'), profile: learnRoom(noise(2 * rateHz, -62, 9), gridOf(rateHz)) },
  { ...usualStep('pauses', '4'), thresholdDb: -70 },
  { ...usualStep('equaliser', '5'), bands: [160, 300, 600, 1200, 2400, 4000, 7000, 11_000].map(band) },
  usualStep('sibilance', '6'),
  { ...usualStep('even', '7'), thresholdDb: -24 },
];

/** Puts a chain on the voice of the project's first part, straight into storage. */
async function plantChain(page: Page): Promise<void> {
  await page.evaluate(async (steps) => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const tx = db.transaction('parts', 'readwrite');
    const parts = tx.objectStore('parts');
    const cursor = parts.openCursor();
    cursor.onsuccess = () => {
      const found = cursor.result;
      if (!found) return;
      const part = found.value as { timeline: { tracks: { id: string }[]; mix?: object } };
      const strips = part.timeline.tracks.map(({ id }) => ({
        ...{ id, levelDb: 0, place: 0, points: [] },
        chain: { name: 'Seven', steps },
      }));
      part.timeline.mix = { beds: [], ...part.timeline.mix, strips };
      found.update(part);
      found.continue();
    };
    await new Promise<void>((resolve, reject) => {
      tx.oncomplete = () => resolve();
      tx.onabort = () => reject(tx.error);
    });
    db.close();
  }, seven as ChainStep[]);
}

/**
 * Milliseconds from the next key to the moment at which what is heard is over `level`, or has fallen to a
 * third of what it is now where `level` is null.
 */
const heardAfterKey = (page: Page, level: number | null) =>
  page.evaluate(async (wanted) => {
    const { hook } = window as unknown as { hook: { heard: AnalyserNode | null; keyAt: number } };
    const samples = new Float32Array(256);
    const now = () => {
      hook.heard?.getFloatTimeDomainData(samples);
      return Math.sqrt(samples.reduce((sum, value) => sum + value * value, 0) / 256);
    };
    const before = now();
    hook.keyAt = 0;
    const until = performance.now() + 8000;
    while (performance.now() < until) {
      const there = wanted === null ? now() < before / 3 : now() > wanted;
      if (hook.keyAt > 0 && there) return performance.now() - hook.keyAt;
      await new Promise((resolve) => setTimeout(resolve, 1));
    }
    return NaN;
  }, level);

/** Gaps between frames over some seconds, ms, in rising order. */
const frameGaps = (page: Page, seconds: number) =>
  page.evaluate(async (lasting) => {
    const gaps: number[] = [];
    const until = performance.now() + lasting * 1000;
    let last = await new Promise(requestAnimationFrame);
    while (performance.now() < until) {
      const now = await new Promise(requestAnimationFrame);
      gaps.push(now - last);
      last = now;
    }
    return gaps.sort((a, b) => a - b);
  }, seconds);

/** Playing begins at places all over three hours. */
async function starts(): Promise<number[]> {
  const app = await openApp();
  const { page } = app;
  page.setDefaultTimeout(60_000);
  await createEmptyProject(app, 'Long');
  await plantParts(page, [{ name: 'Three hours', seconds: 3 * 3600, pieces: 3000 }]);
  await plantChain(page);
  await listenIn(page);
  await page.goto(new URL('/', page.url()).href);
  await page.locator('tbody a').first().click();
  await goTo(page, 'Finish');
  const sheet = page.getByTestId('sheet');
  await sheet.waitFor();
  await page.waitForTimeout(4000);
  await page.getByRole('button', { name: /per row/ }).click();
  await page.getByRole('menuitemradio', { name: '10 min', exact: true }).click();
  await page.waitForTimeout(2000);
  const taken: number[] = [];
  while (taken.length < changes) {
    await sheet.click({ position: { x: 120 + 37 * taken.length, y: 30 } });
    await page.waitForTimeout(600);
    const heard = heardAfterKey(page, 1e-6);
    await page.waitForTimeout(50);
    await page.keyboard.press('Space');
    taken.push(await heard);
    await page.waitForTimeout(800);
    await page.keyboard.press('Space');
    await page.waitForTimeout(400);
    // On, further down.
    for (let i = 0; i < 3; i++) await page.keyboard.press('PageDown');
  }
  await app.close();
  return taken;
}

/** Noise of five minutes through the chain, playing in Finish. */
export async function playingNoise() {
  const app = await openApp();
  const { page } = app;
  await createEmptyProject(app, 'Noise');
  await goTo(page, 'Booth');
  const file = path.join(mkdtempSync(path.join(tmpdir(), 'parola-bench-')), 'noise.wav');
  writeWav(file, rateHz, [noise(300 * rateHz, -20, 3)]);
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles([file]);
  await choose(page, 'Where to', /^Over a track/);
  await page.getByRole('button', { name: 'Import 1 file' }).click();
  await dialogGone(page);
  await saved(page);
  await page.goto(new URL('/', page.url()).href);
  await page.locator('tbody a').first().waitFor();
  await plantChain(page);
  await listenIn(page);
  await page.reload();
  await page.locator('tbody a').first().click();
  await goTo(page, 'Finish');
  await page.getByTestId('sheet').click({ position: { x: 400, y: 30 } });
  await page.keyboard.press('Home');
  await page.keyboard.press('Space');
  await page.waitForTimeout(2500);
  return app;
}

/** A value of the first and of the last step is changed while noise plays; frames drawn meanwhile. */
async function changed() {
  const app = await playingNoise();
  const { page } = app;
  const plain = await frameGaps(page, 4);
  const heard: Record<'first' | 'last', number[]> = { first: [], last: [] };
  for (const [which, name, low, high] of [
    ['first', 'Gain', '-24', '0'],
    ['last', 'Threshold', '-60', '-24'],
  ] as const) {
    const value = page.getByRole('spinbutton', { name, exact: true }).first();
    while (heard[which].length < changes) {
      await value.fill(low);
      await page.waitForTimeout(300);
      const falling = heardAfterKey(page, null);
      await page.waitForTimeout(50);
      await value.press('Enter');
      heard[which].push(await falling);
      await value.fill(high);
      await value.press('Enter');
      await page.waitForTimeout(1200);
    }
  }
  // Held down: a key comes again thirty times a second.
  const value = page.getByRole('spinbutton', { name: 'Gain', exact: true }).first();
  await value.focus();
  const drawn = frameGaps(page, 4);
  for (let i = 0; i < 120; i++) {
    const [key, other] = i % 40 < 20 ? ['ArrowUp', 'ArrowDown'] : ['ArrowDown', 'ArrowUp'];
    if (i % 20 === 0) await page.keyboard.up(other);
    await page.keyboard.down(key);
    await page.waitForTimeout(30);
  }
  const gaps = await drawn;
  await app.close();
  return { heard, plain, gaps };
}

const told = (values: readonly number[]) =>
  `${median([...values]).toFixed(0)} and ${Math.max(...values).toFixed(0)} ms`;
const frames = (gaps: readonly number[]) =>
  `${gaps.filter((gap) => gap > 25).length} of ${gaps.length}, longest ${gaps[gaps.length - 1].toFixed(0)} ms`;

/** A chain of seven in Chromium, from key to loudspeaker; the device behind it is not counted. */
export async function benchFinish(): Promise<Row[]> {
  const server = await startServer();
  try {
    const { heard, plain, gaps } = await changed();
    const started = await starts();
    return [
      [
        'Playing with a chain of seven begins, at 15 places of three hours: key to loudspeaker, median and longest',
        told(started),
        'under 300 ms',
      ],
      [
        'A value of the first of seven steps is changed while it plays: key to loudspeaker, median and longest of 15',
        told(heard.first),
        'within 150 ms',
      ],
      ['The same, of the last step', told(heard.last), 'within 150 ms'],
      [
        'A value changed thirty times a second for 4 s while it plays: frames that came late, of all',
        frames(gaps),
        'none blocked',
      ],
      ['The same without a change', frames(plain), 'the limit of this machine'],
    ];
  } finally {
    server.kill();
  }
}
