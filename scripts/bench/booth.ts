import type { Page } from 'playwright-core';
import { chooseInput, goTo, openApp, recorded } from '../../e2e/support/app';
import { startServer } from '../../e2e/support/server';
import { createEmptyProject } from './plant';
import { cpuNow } from './processes';
import { median, type Row } from './row';

const seconds = 10;

/**
 * Shares of a core that the page and the whole browser use, in percent: medians of three times ten seconds.
 */
async function shares(profile: string): Promise<{ page: number; browser: number }> {
  const page: number[] = [];
  const browser: number[] = [];
  for (let i = 0; i < 3; i++) {
    const before = cpuNow(profile);
    const started = Date.now();
    await new Promise((resolve) => setTimeout(resolve, seconds * 1000));
    const after = cpuNow(profile);
    const percent = (used: number) => (100_000 * used) / (Date.now() - started);
    page.push(percent(after.page - before.page));
    browser.push(percent(after.browser - before.browser));
  }
  return { page: median(page), browser: median(browser) };
}

/** The worklets of an open input, in a page that shows the projects and does nothing. */
async function openBareContext(page: Page): Promise<void> {
  await page.evaluate(async () => {
    const context = new AudioContext({ sampleRate: 48_000, latencyHint: 'interactive' });
    await context.resume();
    for (const name of ['capture', 'simulated'])
      await context.audioWorklet.addModule(`/worklets/${name}.worklet.js`);
    const reader = new AudioWorkletNode(context, 'parola-simulated', {
      outputChannelCount: [1],
      processorOptions: { reading: [new Float32Array(48_000)], room: { from: 0, to: 6000 }, delayFrames: 0 },
    });
    const capacityFrames = 2 ** 20;
    const ring = { buffer: new SharedArrayBuffer(4 * (2 * capacityFrames)), channels: 1, capacityFrames };
    reader.connect(
      new AudioWorkletNode(context, 'parola-capture', { numberOfOutputs: 0, processorOptions: { ring } }),
    );
  });
}

/** What the Booth costs while nothing happens in it, and while it records. */
export async function benchBooth(): Promise<Row[]> {
  const server = await startServer();
  const app = await openApp();
  const { page, profile } = app;
  const rows: Row[] = [];
  const add = async (what: string, wanted: string) => {
    const { page: own, browser } = await shares(profile);
    rows.push([
      `Processor of the Booth, page with its workers: ${what}`,
      `${own.toFixed(1)} % of a core; ${browser.toFixed(1)} % with the browser’s own processes`,
      wanted,
    ]);
    console.log(rows[rows.length - 1].join(' | '));
  };
  try {
    await page.waitForTimeout(3000);
    await openBareContext(page);
    await add('the limit, an audio context with the practice reader’s two worklets and nothing else', '–');
    await page.reload();
    await createEmptyProject(app, 'Bench');
    await goTo(page, 'Booth');
    await page.getByTestId('sheet').waitFor();
    await page.waitForTimeout(6000);
    await add('idle without an input', 'at most 1 %');
    await chooseInput(page, 'Practice reader');
    await page.waitForTimeout(4000);
    await add('idle with an input', 'at most 6 %');
    await page.keyboard.press('Enter');
    await recorded(page, 2);
    await add('recording one track', 'at most 20 %');
    await page.keyboard.press('Enter');
    return rows;
  } finally {
    await app.close();
    server.kill();
  }
}
