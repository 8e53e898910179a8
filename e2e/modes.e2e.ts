import type { Page } from 'playwright-core';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { compareWithPlayed, decode, fakeDeviceSamples } from './support/audio';
import { promptsFile } from './support/prompts';
import { echoLag, setSimulatedDevice } from './support/placement';
import { closeOptions, punch, setRunUp } from './support/recording';
import {
  chooseInput,
  createProject,
  exportFloat,
  goTo,
  openApp,
  recordFor,
  recorded,
  sheetFrames,
  takePlaced,
  type App,
} from './support/app';
import { storedPieces, storedTakes } from './support/stored';

const rate = 48_000;
const folder = mkdtempSync(path.join(tmpdir(), 'parola-modes-'));

describe('the four ways to record', () => {
  let app: App;
  let page: Page;
  beforeEach(async () => {
    app = await openApp();
    page = app.page;
    await createProject(page, 'Modes', 'Dry voice');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await setRunUp(page, 1);
  });
  afterEach(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('Retake: a run-up is heard, recording begins at the caret to the sample, what follows is overwritten, nothing is lost', async () => {
    await recordFor(page, 6);
    const whole = await sheetFrames(page);
    await page.keyboard.press('2');
    await page.keyboard.press('Home');
    const wanted = page.getByRole('button', { name: /^Record: / }).getByText(/over 00:0[1-9]/);
    // Sentences are found in their time; the first one may begin at once.
    for (let i = 0; i < 10 && (await wanted.count()) === 0; i++) {
      await page.keyboard.press('Shift+ArrowRight');
      await page.waitForTimeout(700);
    }
    await wanted.waitFor();
    await page.keyboard.press('Enter');
    // The run-up is shown before anything is recorded.
    await page.getByRole('button', { name: 'Call the run-up off' }).waitFor();
    await recorded(page, 1.2);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    expect(await sheetFrames(page)).toBe(whole);
    const [first, second] = await storedTakes(page);
    const list = await storedPieces(page);
    // Before the caret the old reading, then the new one from its own first frame.
    const index = list.findIndex(({ source, from }) => source === second.id && from === second.handleFrames);
    expect(index).toBe(1);
    expect(list[0].from).toBe(first.handleFrames);
    const frames = list[1].length;
    expect(frames).toBeGreaterThan(rate);
    // What the reader said in the new take goes on, to the sample, where the first take had stopped.
    const played = decode('public/demo/practice-reader.mp3');
    const firstLength = whole;
    const take = second.channels[0].subarray(second.handleFrames, second.handleFrames + frames);
    let at = -1;
    for (let shift = -128; shift <= 128 && at < 0; shift++) {
      let same = true;
      for (let i = 0; i < 4000 && same; i++)
        same = Math.abs(take[i] - played[firstLength + shift + i]) < 1e-6;
      if (same) at = shift;
    }
    // The reader stopped when it was told, at most two render quanta after the take ended.
    expect(Math.abs(at)).toBeLessThanOrEqual(128);
    // The old reading is whole, in the stack.
    expect(first.frames - first.handleFrames).toBeGreaterThanOrEqual(whole);
    await page.getByRole('tab', { name: 'Takes 2' }).click();
    await page.keyboard.press('Control+z');
    expect(await sheetFrames(page)).toBe(whole);
    expect(await storedPieces(page)).toHaveLength(1);
  });

  test('a run-up that is called off leaves everything as it was', async () => {
    await recordFor(page, 2);
    const before = await storedPieces(page);
    await page.keyboard.press('2');
    await page.keyboard.press('ArrowLeft');
    await page.waitForTimeout(300);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Call the run-up off' }).waitFor();
    await page.waitForTimeout(300);
    await page.keyboard.press('Escape');
    await takePlaced(page);
    expect(await storedPieces(page)).toEqual(before);
    await page.getByRole('tab', { name: 'Takes 1' }).waitFor();
  });

  test('Insert: a gap opens at the caret, everything after it moves', async () => {
    await recordFor(page, 6);
    const whole = await sheetFrames(page);
    await page.keyboard.press('3');
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowRight');
    await page.waitForTimeout(500);
    await punch(page, 1);
    const list = await storedPieces(page);
    expect(list).toHaveLength(3);
    expect(list[1].length).toBeGreaterThan(0.8 * rate);
    expect(await sheetFrames(page)).toBe(whole + list[1].length);
    // The old reading goes on behind the gap exactly where it was cut.
    expect(list[2].from).toBe(list[0].from + list[0].length);
  });

  test('Patch: exactly the selection, ending by itself; then with its own length', async () => {
    await recordFor(page, 6);
    const whole = await sheetFrames(page);
    await page.keyboard.press('4');
    await expect(page.getByRole('button', { name: /^Record: / }).isDisabled()).resolves.toBe(true);
    const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
    await sheet.dragTo(sheet, { sourcePosition: { x: 200, y: 60 }, targetPosition: { x: 280, y: 60 } });
    await page
      .getByRole('button', { name: /^Record: / })
      .getByText(/exactly 1\.\d s/)
      .waitFor();
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Stop recording' }).waitFor();
    // Nobody presses anything: it ends by itself.
    await takePlaced(page);
    expect(await sheetFrames(page)).toBe(whole);
    const list = await storedPieces(page);
    expect(list).toHaveLength(3);
    expect(list[2].from).toBe(list[0].from + list[0].length + list[1].length);

    await page.keyboard.press('Control+z');
    await page.getByRole('button', { name: /^Run-up/ }).click();
    await page.getByRole('radio', { name: 'its own' }).click();
    await closeOptions(page);
    await sheet.dragTo(sheet, { sourcePosition: { x: 200, y: 60 }, targetPosition: { x: 280, y: 60 } });
    const patched = list[1].length;
    await punch(page, 2.5);
    const own = await storedPieces(page);
    expect(own[1].length).toBeGreaterThan(2 * rate);
    expect(await sheetFrames(page)).toBe(whole - patched + own[1].length);
    expect(own[2].from).toBe(own[0].from + own[0].length + patched);
  });

  test('a fixed length ends by itself; a count-in comes before it', async () => {
    await recordFor(page, 2);
    const whole = await sheetFrames(page);
    await page.getByRole('button', { name: /^Run-up/ }).click();
    await page.getByLabel('Stop by itself after (seconds)').fill('1.5');
    await page.getByRole('radio', { name: 'Three beeps' }).click();
    await closeOptions(page);
    await page
      .getByRole('button', { name: /^Record: / })
      .getByText(/1\.5 s/)
      .waitFor();
    const started = Date.now();
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Stop recording' }).waitFor();
    expect(Date.now() - started).toBeGreaterThan(2900);
    await takePlaced(page);
    expect(await sheetFrames(page)).toBe(whole + 1.5 * rate);
  });

  test('Backspace while recording: back to the start of the sentence, and punched in there; again, one sentence further', async () => {
    await recordFor(page, 6);
    await page.keyboard.press('Enter');
    await recorded(page, 9);
    await page.keyboard.press('Backspace');
    await page.getByRole('button', { name: 'Call the run-up off' }).waitFor();
    const clock = async () => (await page.getByTestId('sheet').getAttribute('aria-label')) ?? '';
    await page.waitForTimeout(400);
    const first = await clock();
    await page.keyboard.press('Backspace');
    await page.waitForFunction(
      (before) => document.querySelector('[data-testid=sheet]')?.getAttribute('aria-label') !== before,
      first,
    );
    const second = await clock();
    const caret = (label: string) => /caret at (\S+)/.exec(label)?.[1] ?? '';
    expect(caret(second) < caret(first)).toBe(true);
    await recorded(page, 1.5);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    // The punch stands in a pause: the frames before it in the old reading are room, not voice.
    const list = await storedPieces(page);
    const takes = await storedTakes(page);
    const last = takes[takes.length - 1];
    const before = list[list.findIndex(({ source }) => source === last.id) - 1];
    const old = takes.find(({ id }) => id === before.source);
    const room = old?.channels[0].subarray(before.from + before.length - 1000, before.from + before.length);
    expect(Math.max(...(room ?? [1]).map(Math.abs))).toBeLessThan(0.02);
    await page.getByRole('tab', { name: 'Takes 3' }).waitFor();
  });

  test('with “keep going”, P ends this part and starts the next one without losing a sample', async () => {
    await recordFor(page, 2);
    await page.getByRole('button', { name: /^Run-up/ }).click();
    await page.getByRole('switch', { name: /keep going/ }).click();
    await closeOptions(page);
    await page.keyboard.press('Enter');
    await recorded(page, 1.5);
    await page.keyboard.press('p');
    await page.getByRole('button', { name: /^Part: Part 2/ }).waitFor();
    await recorded(page, 1.2);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    expect(await sheetFrames(page)).toBeGreaterThan(rate);
    const takes = await storedTakes(page);
    const [, second, third] = takes;
    // The second part's handle is the end of the first part's take: the same samples, right up to the cut.
    const handle = third.channels[0].subarray(0, third.handleFrames);
    const whole = second.channels[0];
    const end = whole.length - Math.round(0.5 * rate);
    let best = Infinity;
    for (let shift = -256; shift <= 256; shift++) {
      let error = 0;
      for (let i = 0; i < 8000; i++) {
        error += Math.abs(handle[handle.length - 8000 + i] - (whole[end + shift - 8000 + i] ?? 0));
      }
      best = Math.min(best, error);
    }
    expect(best).toBe(0);
  });
});

/**
 * Recorded prompts of a voice artist through Chromium's fake microphone: no audio here was made for the test.
 */
test('all four ways with a microphone: every take is what was played, and the file is the takes put together', async () => {
  const app = await openApp({ microphone: promptsFile });
  const { page } = app;
  await createProject(page, 'Four ways', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Microphone');
  await setRunUp(page, 1);
  await recordFor(page, 7);
  const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
  const width = ((await sheet.boundingBox())?.width ?? 0) - 104;
  const at = (seconds: number) => ({ x: 78 + (width * seconds) / 12, y: 60 });
  await page.keyboard.press('2');
  await sheet.click({ position: at(1.5) });
  await punch(page, 1);
  await page.keyboard.press('3');
  await sheet.click({ position: at(3.5) });
  await punch(page, 1);
  await page.keyboard.press('4');
  await sheet.dragTo(sheet, { sourcePosition: at(5), targetPosition: at(6) });
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Stop recording' }).waitFor();
  await takePlaced(page);
  const takes = await storedTakes(page);
  expect(takes).toHaveLength(4);
  const played = fakeDeviceSamples(promptsFile);
  for (const take of takes) {
    const own = take.channels[0].subarray(take.handleFrames);
    expect(compareWithPlayed(own, played)).toMatchObject({ lost: 0, from: 0, to: own.length });
  }
  const list = (await storedPieces(page)).filter(({ struck }) => !struck);
  const heard = decode(await exportFloat(page, folder));
  expect(heard).toHaveLength(list.reduce((sum, { length }) => sum + length, 0));
  // 5 ms around each join both readings sound.
  const join = 300;
  let start = 0;
  for (const { source, from, length } of list) {
    const audio = takes.find(({ id }) => id === source)?.channels[0] ?? new Float32Array(0);
    for (let i = join; i < length - join; i++) {
      if (heard[start + i] !== audio[from + i])
        throw new Error(`frame ${start + i} is not frame ${from + i} of its take`);
    }
    start += length;
  }
  expect(app.complaints).toEqual([]);
  await app.close();
});

describe('placement', () => {
  test('after the loopback check a punch lands on the caret to the frame, at any delay of the device', async () => {
    const app = await openApp();
    const { page } = app;
    await createProject(page, 'Placement', 'Dry voice');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await setRunUp(page, 1);
    await recordFor(page, 10);
    for (const [delay, ...places] of [
      [0, 7.9],
      [4801, 3, 7.9],
    ]) {
      await setSimulatedDevice(page, delay);
      await page.keyboard.press('2');
      for (const at of places) {
        const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
        const box = await sheet.boundingBox();
        await sheet.click({ position: { x: 78 + (((box?.width ?? 0) - 104) * at) / 12, y: 60 } });
        await punch(page, 0.4);
        expect(await echoLag(page)).toBe(0);
      }
    }
    expect(app.complaints).toEqual([]);
    await app.close();
  });
});
