import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { choose, dialogGone, goTo, openApp, openDemo, saved } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { noise, writeWav } from '../../src/core/testing/signals';
import { listenIn } from './loudspeaker';
import { createEmptyProject } from './plant';
import { median, type Row } from './row';
import { scrollTrace } from './scrolling';

const scrollRuns = 5;
const changes = 9;

async function importOver(page: Page, file: string, place: RegExp, track?: string): Promise<void> {
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles([file]);
  await choose(page, 'Where to', place);
  if (track) await choose(page, 'Track', track);
  await page.getByRole('button', { name: 'Import 1 file' }).click();
  await dialogGone(page);
  await saved(page);
}

/** Three voices, a guide and a bed: the demo's interview with two more. */
async function scrolledWithFive(page: Page): Promise<number[]> {
  await openDemo(page);
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name: /boat builder/i }).click();
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
  await page.getByRole('button', { name: 'Add a track' }).click();
  await page.getByRole('button', { name: 'Done' }).click();
  await dialogGone(page);
  await importOver(page, 'public/demo/arrival.mp3', /^Over a track/, 'Voice 3');
  await importOver(page, 'public/demo/visitor.mp3', /^As a guide/);
  for (let i = 0; i < 12; i++) await page.keyboard.press('Control+=');
  await page.waitForTimeout(3000);
  const dropped: number[] = [];
  while (dropped.length < scrollRuns) dropped.push((await scrollTrace(page)).dropped);
  return dropped;
}

/**
 * From the key that changes a level while noise plays to the moment at which what goes to the loudspeakers
 * has fallen by 20 dB, ms; the device behind it is not counted.
 */
async function levelHeard(page: Page): Promise<number[]> {
  await listenIn(page);
  await page.reload();
  await goTo(page, 'Finish');
  const level = page.getByRole('spinbutton', { name: 'Level of All together, dB' });
  await level.waitFor();
  await page.getByTestId('sheet').click({ position: { x: 400, y: 30 } });
  await page.keyboard.press('Home');
  await page.keyboard.press('Space');
  await page.waitForTimeout(1500);
  const told: number[] = [];
  while (told.length < changes) {
    const falling = page.evaluate(async () => {
      const { hook } = window as unknown as { hook: { heard: AnalyserNode; keyAt: number } };
      const samples = new Float32Array(256);
      const level = () => {
        hook.heard.getFloatTimeDomainData(samples);
        return Math.sqrt(samples.reduce((sum, value) => sum + value * value, 0) / 256);
      };
      const before = level();
      hook.keyAt = 0;
      const until = performance.now() + 5000;
      while (performance.now() < until) {
        if (hook.keyAt > 0 && level() < before / 10) return performance.now() - hook.keyAt;
        await new Promise((resolve) => setTimeout(resolve, 1));
      }
      return NaN;
    });
    await level.fill('-40');
    await page.waitForTimeout(200);
    await level.press('Enter');
    told.push(await falling);
    await level.fill('0');
    await level.press('Enter');
    await page.waitForTimeout(900);
  }
  await page.keyboard.press('Escape');
  return told;
}

/** Several sounds in one part, in Chromium. */
export async function benchStaves(): Promise<Row[]> {
  const server = await startServer();
  try {
    const five = await openApp();
    const dropped = await scrolledWithFive(five.page);
    await five.close();
    const app = await openApp();
    await createEmptyProject(app, 'Noise');
    await goTo(app.page, 'Booth');
    const file = path.join(mkdtempSync(path.join(tmpdir(), 'parola-bench-')), 'noise.wav');
    writeWav(file, 48_000, [noise(90 * 48_000, -20, 3)]);
    await importOver(app.page, file, /^Over a track/);
    const heard = await levelHeard(app.page);
    await app.close();
    return [
      [
        `Scrolling five staves (three voices, a guide, a bed) for 4 s at half a second a row, ${scrollRuns} times, frames dropped`,
        dropped.join(', '),
        'none in any of them',
      ],
      [
        'A level changed while it plays, key to loudspeaker (the device not counted): median and longest of nine',
        `${median(heard).toFixed(0)} and ${Math.max(...heard).toFixed(0)} ms`,
        'at most 150 ms',
      ],
    ];
  } finally {
    server.kill();
  }
}
