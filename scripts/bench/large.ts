import type { Page } from 'playwright-core';
import { openApp } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { scrollTrace } from './browser';
import { createEmptyProject, plantParts } from './plant';
import { tabMegabytes } from './processes';
import { median, type Row } from './row';

const hours = 3;

async function openBooth(page: Page) {
  await page.goto(new URL('/', page.url()).href);
  await page.locator('tbody a').first().click();
  await page.waitForURL(/booth$/);
  await page.getByTestId('sheet').waitFor();
  await page.waitForTimeout(3000);
}

async function setRow(page: Page, name: string) {
  await page.getByRole('button', { name: /per row/ }).click();
  await page
    .getByRole('group', { name: 'Seconds per row' })
    .getByRole('button', { name, exact: true })
    .click();
  await page.waitForTimeout(1500);
}

/**
 * From the key to the first frame in which the edit is drawn, and to where it is stored; medians, in
 * milliseconds.
 */
async function editTimes(page: Page): Promise<{ drawn: number; stored: number }> {
  const drawn: number[] = [];
  const stored: number[] = [];
  for (let i = 0; i < 9; i++) {
    await page.keyboard.press('ArrowRight');
    await page.waitForTimeout(150);
    await page.keyboard.press('d');
    const times = await page.evaluate(async () => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=sheet] canvas');
      const saved = () => document.querySelector('[role=status]')?.textContent === 'Saved';
      const started = performance.now();
      window.dispatchEvent(
        new KeyboardEvent('keydown', { key: 'Backspace', code: 'Backspace', bubbles: true }),
      );
      await new Promise(requestAnimationFrame);
      await new Promise((resolve) => setTimeout(resolve, 0));
      const drawnAfter = canvas ? performance.now() - started : Infinity;
      while (!saved()) await new Promise((resolve) => setTimeout(resolve, 5));
      return { drawn: drawnAfter, stored: performance.now() - started };
    });
    drawn.push(times.drawn);
    stored.push(times.stored);
    await page.keyboard.press('Control+z');
    await page.waitForTimeout(300);
  }
  return { drawn: median(drawn), stored: median(stored) };
}

/** Memory of the tab with its workers, after the browser has cleaned up. */
const countedMegabytes = (page: Page) =>
  page.evaluate(async () => {
    const measured = await (
      performance as unknown as { measureUserAgentSpecificMemory(): Promise<{ bytes: number }> }
    ).measureUserAgentSpecificMemory();
    return measured.bytes / 1e6;
  });

export async function benchLarge(): Promise<Row[]> {
  const server = await startServer();
  const app = await openApp();
  const { page } = app;
  page.setDefaultTimeout(120_000);
  try {
    await createEmptyProject(app, 'Long');
    await plantParts(page, [
      { name: 'Three hours', seconds: hours * 3600, pieces: 20_000 },
      { name: 'To look through', seconds: hours * 3600, pieces: 1 },
      ...Array.from({ length: 28 }, (_, i) => ({ name: `Part ${i + 3}`, seconds: 1800, pieces: 650 })),
    ]);
    await openBooth(page);
    const rows: Row[] = [];
    const add = (...more: Row[]) => {
      rows.push(...more);
      for (const row of more) console.log(row.join(' | '));
    };
    for (const name of ['0.5 s', '12 s', '2 min', '10 min']) {
      await setRow(page, name);
      const { drawn, dropped, seconds } = await scrollTrace(page);
      add([
        `Scrolling three hours in 20,000 pieces for ${seconds} s, ${name} a row (DevTools trace)`,
        `${drawn} frames drawn, ${dropped} dropped`,
        'none dropped at 60 fps',
      ]);
    }
    await setRow(page, '12 s');
    const { drawn, stored } = await editTimes(page);
    add(
      ['A strike in it, key to drawn', `${drawn.toFixed(0)} ms`, 'one frame (16 ms) and the wait for it'],
      ['The same, key to “Saved”', `${stored.toFixed(0)} ms`, 'under 500 ms'],
      [
        'Memory of the tab and its workers, project of 30 parts and 20 hours open',
        `${(await countedMegabytes(page)).toFixed(0)} MB counted by the browser, ${tabMegabytes(app.profile).toFixed(0)} MB private to its process`,
        'under 400 MB',
      ],
    );
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: 'To look through' }).click();
    await page.waitForTimeout(1000);
    const started = Date.now();
    await page.keyboard.press('x');
    await page.getByRole('button', { name: 'Look again' }).waitFor({ timeout: 600_000 });
    add([
      'Looking through three hours for everything, two workers',
      `${((Date.now() - started) / 1000).toFixed(0)} s`,
      'under 90 s on 2 cores',
    ]);
    return rows;
  } finally {
    await app.close();
    server.kill();
  }
}
