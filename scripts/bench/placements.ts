import type { Page } from 'playwright-core';
import { fakeDeviceSamples, makeSpeechFile, speechFile } from '../../e2e/support/audio';
import {
  chooseInput,
  createProject,
  goTo,
  openApp,
  recordFor,
  recorded,
  sheetHas,
  sheetFrames,
  takePlaced,
} from '../../e2e/support/app';
import { lagOf, setSimulatedDevice } from '../../e2e/support/placement';
import { startServer } from '../../e2e/support/server';
import { storedPieces, storedTakes } from '../../e2e/support/stored';
import type { Row } from './row';

/** The fake device hands over 10 ms at a time; when it slips, it slips by that. */
const deviceFrames = 441;

async function prepare(page: Page, rateName: string, spec: string, input: 'Practice reader' | 'Microphone') {
  await createProject(page, rateName, spec);
  await goTo(page, 'Booth');
  await chooseInput(page, input);
  await page.getByRole('button', { name: /^Run-up/ }).click();
  await page.getByRole('slider', { name: 'Run-up in seconds' }).focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Escape');
  await page.waitForFunction(() => document.querySelector('[role=dialog]') === null);
  await recordFor(page, 11);
}

/**
 * One retake at a place of the first row, taken back afterwards; returns its caret in frames of the first
 * take.
 */
async function punchAt(page: Page, seconds: number) {
  const whole = await sheetFrames(page);
  const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
  const width = (await sheet.boundingBox())?.width ?? 0;
  await page.keyboard.press('2');
  await sheet.click({ position: { x: 78 + ((width - 104) * seconds) / 12, y: 60 } });
  await page.keyboard.press('Enter');
  await recorded(page, 0.4);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  const [{ length: caret }] = await storedPieces(page);
  await page.keyboard.press('Control+z');
  await sheetHas(page, whole);
  return caret;
}

async function simulated(times: number): Promise<number[]> {
  const app = await openApp();
  const lags: number[] = [];
  try {
    const { page } = app;
    await app.context.addInitScript('globalThis.__name = (value) => value');
    await page.reload();
    await prepare(page, 'Placement', 'Dry voice', 'Practice reader');
    const delays = [0, 997, 2400, 4801];
    for (const [index, delay] of delays.entries()) {
      await setSimulatedDevice(page, delay);
      for (let i = Math.floor((index * times) / 4); i < Math.floor(((index + 1) * times) / 4); i++) {
        const caret = await punchAt(page, 2 + Math.random() * 8);
        const [first, last] = await storedTakes(page, 'ends');
        const heard = first.channels[0].subarray(first.handleFrames, first.handleFrames + caret);
        lags.push(lagOf(last.channels[0].subarray(0, last.handleFrames), heard));
      }
    }
  } finally {
    await app.close();
  }
  return lags;
}

/** Where in what was played a recording begins; −1 when it cannot be found. */
function placeIn(recording: Float32Array, played: Float32Array): number {
  const start = recording.findIndex((value) => Math.abs(value) > 0.02);
  if (start < 0 || start + 400 > recording.length) return -1;
  for (let at = 0; at + 400 < played.length; at++) {
    let same = true;
    for (let i = 0; i < 400 && same; i++) same = Math.abs(recording[start + i] - played[at + i]) < 1e-6;
    if (same) return at - start;
  }
  return -1;
}

/**
 * With the fake microphone: its file runs on while punch after punch is made, so the place in the file and
 * the frame asked for have to advance alike. Returns how far they differ from one punch to the next, in
 * milliseconds; slips of the device itself, by whole 10 ms, are counted apart.
 */
async function fakeDevice(times: number): Promise<{ apartMs: number[]; slips: number }> {
  const app = await openApp();
  const apartMs: number[] = [];
  let slips = 0;
  try {
    const { page } = app;
    await app.context.addInitScript('globalThis.__name = (value) => value');
    await app.context.addInitScript(() => {
      const asked: number[] = [];
      Object.assign(window, { asked });
      const post = Worker.prototype.postMessage as (message: unknown, transfer?: unknown) => void;
      Worker.prototype.postMessage = function (
        this: Worker,
        message: { type?: string; atFrame?: number },
        transfer?: unknown,
      ) {
        if (message?.type === 'start' && message.atFrame !== undefined) asked.push(message.atFrame);
        post.call(this, message, transfer);
      };
    });
    await page.reload();
    await prepare(page, 'Fake', 'Podcast mono', 'Microphone');
    const played = fakeDeviceSamples(speechFile);
    let before: number | null = null;
    for (let i = 0; i < times; i++) {
      await punchAt(page, 2 + Math.random() * 8);
      const [, last] = await storedTakes(page, 'ends');
      const asked = await page.evaluate(() => (window as unknown as { asked: number[] }).asked.slice(-1)[0]);
      const place = placeIn(last.channels[0].subarray(last.handleFrames), played);
      if (place < 0) continue;
      const offset = (((place - asked) % played.length) + played.length) % played.length;
      if (before !== null) {
        // The file begins anew when it has been played.
        const half = played.length / 2;
        const moved = ((offset - before + 3 * half) % played.length) - half;
        const buffers = Math.round(moved / deviceFrames);
        slips += Math.abs(buffers) < 100 ? Math.abs(buffers) : 0;
        apartMs.push((Math.abs(moved - buffers * deviceFrames) / 44_100) * 1000);
      }
      before = offset;
    }
  } finally {
    await app.close();
  }
  return { apartMs, slips };
}

const spread = (values: number[]) => {
  const sorted = values.map(Math.abs).sort((a, b) => a - b);
  const at = (p: number) => sorted[Math.floor((sorted.length - 1) * p)];
  return { median: at(0.5), most: at(1) };
};

/** Distribution of where punches land. */
export async function benchPlacements(times: number): Promise<Row[]> {
  makeSpeechFile();
  const server = await startServer();
  try {
    const lags = await simulated(times);
    const { apartMs, slips } = await fakeDevice(Math.ceil(times / 4));
    const frames = spread(lags);
    const ms = spread(apartMs);
    return [
      [
        `Punches at random places, simulated device at four delays, after the loopback check: frames off the caret, median and most of ${lags.length}`,
        `${frames.median}, ${frames.most}`,
        '0, 0',
      ],
      [
        `Punches with Chromium’s fake device: milliseconds from one to the next, median and most of ${apartMs.length} (10 ms slips of the device itself: ${slips})`,
        `${ms.median.toFixed(3)}, ${ms.most.toFixed(3)}`,
        'at most 1',
      ],
    ];
  } finally {
    server.kill();
  }
}
