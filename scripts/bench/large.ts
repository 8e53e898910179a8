import type { Page } from 'playwright-core';
import { openApp, type App } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { limitsOf, partLimits } from './limits';
import { createEmptyProject, plantParts } from './plant';
import { tabMegabytes, usedBy, type Used } from './processes';
import { median, type Row } from './row';
import { scrollLimit, scrollTrace, toldScrollLimit } from './scrolling';

const hours = 3;
const scrollRuns = 5;

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
    .getByRole('menuitemradio', { name, exact: true })
    .click();
  await page.waitForTimeout(1500);
}

/** Commands and their keys, one after another; each has a piece selected before it. */
const commands = [
  { name: 'strike', key: 'Backspace' },
  { name: 'undo', key: 'z', ctrlKey: true },
  { name: 'redo', key: 'y', ctrlKey: true },
  { name: 'louder', key: '=' },
  { name: 'split', key: 's' },
  { name: 'flub mark', key: 'f' },
  { name: 'close up', key: 'J', ctrlKey: true, shiftKey: true },
  { name: 'cut', key: 'x', ctrlKey: true },
  { name: 'paste', key: 'v', ctrlKey: true },
];

/** Notes when transactions that write have ended, in `window.writes`. */
async function watchWrites(page: Page) {
  await page.evaluate(() => {
    const writes: number[] = ((window as unknown as { writes: number[] }).writes = []);
    const original = IDBDatabase.prototype.transaction;
    IDBDatabase.prototype.transaction = function (names, mode, options) {
      const transaction = original.call(this, names, mode, options);
      if (mode === 'readwrite')
        transaction.addEventListener('complete', () => writes.push(performance.now()));
      return transaction;
    };
  });
}

/**
 * Of each command, milliseconds from the key to the first frame in which it is drawn, and to the end of the
 * transaction that stores it; medians of three.
 */
async function commandTimes(page: Page) {
  await watchWrites(page);
  const times = commands.map(({ name }) => ({ name, drawn: [] as number[], stored: [] as number[] }));
  for (let round = 0; round < 3; round++)
    for (const [index, { key, ctrlKey = false, shiftKey = false }] of commands.entries()) {
      await page.keyboard.press('ArrowRight');
      if (!['z', 'y', 'v'].includes(key)) await page.keyboard.press('d');
      await page.waitForTimeout(700);
      const { drawn, stored } = await page.evaluate(
        async (pressed) => {
          const { writes } = window as unknown as { writes: number[] };
          writes.length = 0;
          const started = performance.now();
          document.body.dispatchEvent(
            new KeyboardEvent('keydown', { ...pressed, bubbles: true, cancelable: true }),
          );
          await new Promise(requestAnimationFrame);
          await new Promise((resolve) => setTimeout(resolve, 0));
          const drawnAfter = performance.now() - started;
          // The caret is stored when it has rested, much later.
          await new Promise((resolve) => setTimeout(resolve, 600));
          return { drawn: drawnAfter, stored: (writes[0] ?? Infinity) - started };
        },
        { key, ctrlKey, shiftKey },
      );
      times[index].drawn.push(drawn);
      times[index].stored.push(stored);
    }
  return times.map(({ name, drawn, stored }) => ({ name, drawn: median(drawn), stored: median(stored) }));
}

/** Memory of the tab with its workers, after the browser has cleaned up. */
const countedMegabytes = (page: Page) =>
  page.evaluate(async () => {
    const measured = await (
      performance as unknown as { measureUserAgentSpecificMemory(): Promise<{ bytes: number }> }
    ).measureUserAgentSpecificMemory();
    return measured.bytes / 1e6;
  });

/** Looks through a part in a tab of its own: this one holds what it has planted and edited. */
async function lookThrough(
  { context, page: before, profile }: App,
  part: string,
): Promise<Used & { reading: number }> {
  const page = await context.newPage();
  await page.goto(new URL('/', before.url()).href);
  await before.close();
  page.setDefaultTimeout(120_000);
  await openBooth(page);
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name: part }).click();
  await page.waitForTimeout(1000);
  const used = await usedBy(profile, async () => {
    await page.keyboard.press('x');
    await page.getByRole('button', { name: 'Look again' }).waitFor({ timeout: 600_000 });
  });
  const { reading } = await limitsOf(page, 1);
  return { ...used, reading };
}

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
      const runs = [];
      while (runs.length < scrollRuns) runs.push(await scrollTrace(page));
      add([
        `Scrolling three hours in 20,000 pieces for ${runs[0].seconds} s, ${name} a row, ${scrollRuns} times (DevTools trace)`,
        `${median(runs.map(({ drawn }) => drawn))} frames drawn; dropped ${runs.map(({ dropped }) => dropped).join(', ')}`,
        'none dropped at 60 fps in any of them',
      ]);
    }
    add(toldScrollLimit(await scrollLimit(app.context, scrollRuns)));
    await page.bringToFront();
    await setRow(page, '12 s');
    const times = await commandTimes(page);
    const told = (by: 'drawn' | 'stored') => {
      const slowest = times.reduce((most, one) => (one[by] > most[by] ? one : most));
      return `${slowest[by].toFixed(0)} ms (${slowest.name}); the others ${times
        .filter((one) => one !== slowest)
        .map((one) => `${one.name} ${one[by].toFixed(0)}`)
        .join(', ')}`;
    };
    const alone = await partLimits(page);
    add(
      ['Commands in it, key to drawn: the slowest', told('drawn'), 'one frame (16 ms) and the wait for it'],
      ['The same, key to the end of what stores it', told('stored'), 'at most 100 ms'],
      [
        'Of this: writing the part’s record by itself, its pieces and places as they are',
        `${Math.round(alone.writing)} ms`,
        'the limit of this machine',
      ],
      [
        'Memory of the tab and its workers, project of 30 parts and 20 hours open',
        `${(await countedMegabytes(page)).toFixed(0)} MB counted by the browser, ${tabMegabytes(app.profile).toFixed(0)} MB private to its process`,
        'under 400 MB',
      ],
    );
    const looked = await lookThrough(app, 'To look through');
    add([
      'Looking through three hours for everything, two workers',
      `${looked.seconds.toFixed(0)} s; ${Math.round(looked.peakMb)} MB at most, ${Math.round(looked.beforeMb)} MB before; reading the recording alone takes ${looked.reading.toFixed(1)} s`,
      'at most 60 s on 2 cores, under 400 MB',
    ]);
    return rows;
  } finally {
    await app.close();
    server.kill();
  }
}
