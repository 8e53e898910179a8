import { execFileSync } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import {
  choose,
  chooseInput,
  clockSeconds,
  closeOpened,
  createProject,
  dialogGone,
  exportFloat,
  goTo,
  openApp,
  openDemo,
  recordFor,
  saved,
  sheetFrames,
  type App,
} from './support/app';
import { probe } from './support/audio';
import { noiseFile } from './support/noise';
import { lagOf, setSimulatedDevice } from './support/placement';
import { punch, setRunUp } from './support/recording';
import { storedOpenPart, storedPieces, storedTakes } from './support/stored';

/**
 * Reading against a guide, as an interpreter does. The practice reader hears what is played: what it records
 * holds the guide, and has to lie on it to the frame.
 */
afterEach(closeOpened);

const rate = 44_100;
const statement = noiseFile(30, 71);
const folder = mkdtempSync(path.join(tmpdir(), 'parola-guide-'));

async function importGuide(page: Page, file: string): Promise<void> {
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles([file]);
  await choose(page, 'Where to', /As (a guide|the picture)/);
  await page.getByRole('button', { name: 'Import 1 file' }).click();
  await dialogGone(page);
  await saved(page);
}

async function openWithGuide(): Promise<App> {
  const app = await openApp();
  const { page } = app;
  await createProject(page, 'Statement', 'Podcast mono');
  await goTo(page, 'Booth');
  await importGuide(page, statement.file);
  await chooseInput(page, 'Practice reader');
  return app;
}

/** The first frame in which two recordings differ, −1 for none; noise has negative zeros. */
const differsAt = (a: Float32Array, b: Float32Array) =>
  a.length === b.length ? a.findIndex((value, i) => value !== b[i]) : Math.min(a.length, b.length);

const record = (page: Page) => page.getByRole('button', { name: /^Record: / });
const hear = (page: Page, what: 'both' | 'mine' | 'guide') =>
  page.getByRole('button', { name: new RegExp(`^Hear ${what}`) });

/** Where the piece of the newest take begins on the sheet, and how far what it holds lies off the guide. */
async function newestAgainstGuide(page: Page) {
  const takes = await storedTakes(page);
  const last = takes[takes.length - 1];
  let at = 0;
  for (const { source, from, length } of await storedPieces(page)) {
    if (source === last.id && from === last.handleFrames) break;
    at += length;
  }
  const take = last.channels[0].subarray(last.handleFrames, last.handleFrames + rate);
  return { at, lag: lagOf(take, statement.channels[0].subarray(at, at + take.length)) };
}

test('what is spoken over a guide lies in step with it to the frame, at any delay of the device', async () => {
  const { page, complaints } = await openWithGuide();
  expect(await sheetFrames(page)).toBe(30 * rate);
  await setRunUp(page, 1);
  for (const delay of [0, 4801]) {
    await setSimulatedDevice(page, delay);
    await record(page)
      .getByText(/hearing noise/)
      .waitFor();
    await punch(page, 1.6);
    const { at, lag } = await newestAgainstGuide(page);
    expect(lag).toBe(0);
    if (delay === 0) expect(at).toBe(0);
    expect(await sheetFrames(page)).toBe(30 * rate);
  }
  expect(complaints).toEqual([]);
});

test('an interpreter’s mistake is cut back and read again, by keyboard; the guide goes on in step', async () => {
  const { page, complaints } = await openWithGuide();
  await setRunUp(page, 1);
  await setSimulatedDevice(page, 700);
  await punch(page, 6);
  const before = await storedPieces(page);
  // Back to where it went wrong, and heard there: the own voice alone, the guide alone, both.
  for (let i = 0; i < 10 && (await clockSeconds(page)) > 5; i++) {
    await page.keyboard.press('Shift+ArrowLeft');
    await page.waitForTimeout(500);
  }
  const caret = await clockSeconds(page);
  expect(caret).toBeLessThan(5);
  // Continue goes on where the reading ends, wherever the caret is.
  await record(page)
    .getByText(/take 2 · over 00:0[6-9]/)
    .waitFor();
  await hear(page, 'both').waitFor();
  await page.keyboard.press('Shift+H');
  await hear(page, 'mine').waitFor();
  // Said at Record as well: it is no latch that surprises later.
  await record(page)
    .getByText(/guide not heard/)
    .waitFor();
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: /^Stop / }).waitFor();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+H');
  await hear(page, 'guide').waitFor();
  await page.keyboard.press('Shift+H');
  await hear(page, 'both').waitFor();
  await page.keyboard.press('Shift+R');
  await saved(page);
  const cut = await storedPieces(page);
  expect(cut[0].length).toBeLessThan(before[0].length);
  expect(cut[0].length / rate).toBeCloseTo(caret, 2);
  expect(await sheetFrames(page)).toBe(30 * rate);
  // The reading goes on where it was cut, after the run-up.
  await punch(page, 2);
  const { at, lag } = await newestAgainstGuide(page);
  expect(at).toBe(cut[0].length);
  expect(lag).toBe(0);
  await page.getByRole('tab', { name: 'Takes 2' }).waitFor();
  expect(complaints).toEqual([]);
});

test('in step time stays: gaps and close-ups are refused with the way round; let go of step, they are made', async () => {
  const { page } = await openWithGuide();
  await recordFor(page, 3);
  await page.keyboard.press('3');
  await record(page)
    .getByText(/no gap in step with a guide/)
    .waitFor();
  await page.keyboard.press('1');
  await page.keyboard.press('Home');
  await page.keyboard.press('d');
  await page.locator('[data-testid=sheet]:not([data-selection=""])').waitFor();
  await page.keyboard.press('Control+c');
  await page.keyboard.press('Control+v');
  await page.getByText(/in step with its guide: its time cannot move/).waitFor();
  expect(await sheetFrames(page)).toBe(30 * rate);
  // Struck, the voice falls silent and its time stays.
  await page.keyboard.press('Backspace');
  await saved(page);
  const { struck, tracks } = (await storedOpenPart(page)).timeline;
  expect(struck).toEqual([]);
  expect(tracks[0].pieces.some(({ kind }) => kind === 'audio')).toBe(false);
  await page.keyboard.press('Control+z');
  await saved(page);
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
  await page.getByRole('switch', { name: /In step/ }).click();
  await page.getByRole('button', { name: 'Done' }).click();
  await dialogGone(page);
  await page.keyboard.press('Control+v');
  await saved(page);
  expect(await sheetFrames(page)).toBeGreaterThan(32 * rate);
});

test('written where it is asked for: the guide left and the voice right, or the voice alone; it is there after a reload', async () => {
  const { page } = await openWithGuide();
  await recordFor(page, 2);
  const [piece] = await storedPieces(page);
  const [take] = await storedTakes(page);
  const voice = take.channels[0].subarray(piece.from, piece.from + piece.length);
  await page.reload();
  await hear(page, 'both').waitFor();
  await goTo(page, 'Proof');
  await choose(page, 'Sound', 'The guide left, the voices right');
  const both = await exportFloat(page, folder);
  expect(probe(both).channels).toBe(2);
  const side = (file: string, channel: number) => {
    const args = ['-v', 'error', '-i', file, '-af', `pan=mono|c0=c${channel}`, '-f', 'f32le', '-'];
    const bytes = execFileSync('ffmpeg', args, { maxBuffer: 1 << 28 });
    return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  };
  expect(differsAt(side(both, 0), statement.channels[0])).toBe(-1);
  // Behind it is silence, or room tone where the take has enough: that join reaches 20 ms back.
  const reach = 0.02 * rate;
  expect(differsAt(side(both, 1).subarray(0, voice.length - reach), voice.subarray(0, -reach))).toBe(-1);
  await choose(page, 'Sound', 'All voices and beds together');
  const alone = await exportFloat(page, folder);
  expect(probe(alone).channels).toBe(1);
  expect(differsAt(side(alone, 0).subarray(0, voice.length - reach), voice.subarray(0, -reach))).toBe(-1);
});

test('how far the interpretation is behind the statement is told on the deck', async () => {
  const { page } = await openApp();
  await openDemo(page);
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name: /A visitor’s statement/ }).click();
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles(['public/demo/interpretation.mp3']);
  await choose(page, 'Where to', /^Over a track/);
  await page.getByRole('button', { name: 'Import 1 file' }).click();
  await dialogGone(page);
  // Its sentences begin 2.6 s after those of the statement, its mistake apart (scripts/demo-data).
  await page.getByRole('button', { name: /^Hear both .* 2\.\d s behind/ }).waitFor();
});

test('a guide shorter than the voice, and the sound of a video as one', async () => {
  const { page } = await openApp();
  await createProject(page, 'Film', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 4);
  const whole = await sheetFrames(page);
  const film = path.join(folder, 'film.mp4');
  const make = ['-f', 'lavfi', '-i', 'testsrc=size=64x64:rate=25', '-i', statement.file, '-t', '2'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...make, '-c:a', 'aac', '-c:v', 'mpeg4', film]);
  await importGuide(page, film);
  await hear(page, 'both').waitFor();
  expect(await sheetFrames(page)).toBe(whole);
  // The reading is continued behind it, with nothing beside it there.
  await record(page)
    .getByText(/guide not heard/)
    .waitFor();
  await recordFor(page, 1);
  expect(await sheetFrames(page)).toBeGreaterThan(whole + 0.8 * rate);
});
