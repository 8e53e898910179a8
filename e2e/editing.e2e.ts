import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode } from './support/audio';
import {
  chooseInput,
  createProject,
  dialogGone,
  exportFloat,
  goTo,
  openApp,
  openDemo,
  recordFor,
  recorded,
  saved,
  sheetFrames,
  takePlaced,
  type App,
} from './support/app';
import { storedOpenPart, storedPieces } from './support/stored';

const rate = 48_000;
const folder = mkdtempSync(path.join(tmpdir(), 'parola-editing-'));

/** What really happens in a demo reading (public/demo/truth.csv), in seconds. */
const truth = (file: string) =>
  readFileSync('public/demo/truth.csv', 'utf8')
    .trim()
    .split('\n')
    .map((row) => row.split(','))
    .filter(([name]) => name === file)
    .map(([, event, line, from, to]) => ({ event, line, from: Number(from), to: Number(to) }));

const press = async (page: Page, ...keys: string[]) => {
  for (const key of keys) await page.keyboard.press(key);
};

const selectionOf = (page: Page) => page.getByTestId('sheet').getAttribute('data-selection');
const notice = (page: Page, text: RegExp) => page.getByText(text).first().waitFor();

/** The sheet by pointer: seconds of the first row, 12 s long. */
async function dragOver(page: Page, from: number, to: number) {
  const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
  const width = ((await sheet.boundingBox())?.width ?? 0) - 104;
  const at = (seconds: number) => ({ x: 78 + (width * seconds) / 12, y: 70 });
  await sheet.dragTo(sheet, { sourcePosition: at(from), targetPosition: at(to) });
}

let app: App;
let page: Page;
afterEach(async () => {
  await app.close();
  expect(app.complaints).toEqual([]);
});

test('the demo narration is cleaned up by keyboard alone, and the file holds the good readings and no digital silence', async () => {
  app = await openApp();
  page = app.page;
  await openDemo(page);
  await page.waitForTimeout(300);
  // Room tone first: what is patched needs some.
  await press(page, 'Shift+T');
  await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
  await press(page, 'Escape');
  await page.getByRole('button', { name: /^Play( |$)/ }).waitFor();
  await press(page, 'x');
  await page.getByRole('button', { name: 'Look again' }).waitFor({ timeout: 60_000 });
  const events = truth('stair');
  const flubs = events.filter(({ event }) => event.startsWith('flub'));
  await page.getByRole('region', { name: 'Broken-off readings' }).waitFor();
  // From one to the next: the first is a breath, then the broken-off readings.
  await press(page, 'g');
  await page.getByRole('button', { name: /^00:04\.7.*A breath/ }).waitFor();
  // Heard as it will sound, and accepted while it is: nothing waits for the end.
  await press(page, 'r', 'h');
  await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
  await press(page, 'Shift+A');
  await page.getByRole('button', { name: /^Play( |$)/ }).waitFor();
  await saved(page);
  let pieces = await storedPieces(page);
  const struck = pieces.filter((piece) => piece.struck);
  expect(struck).toHaveLength(flubs.length);
  flubs.forEach((flub, index) => {
    const again = events.find(({ event, from }) => event === 'again' && from > flub.from);
    const { from, length } = struck[index];
    // The cut may reach up to 0.12 s before the sentence, by the same amount on both sides.
    expect(flub.from - from / rate).toBeGreaterThan(-0.03);
    expect(flub.from - from / rate).toBeLessThan(0.17);
    expect(Math.abs((again?.from ?? 0) - flub.from - length / rate)).toBeLessThan(0.05);
  });
  // The click becomes room tone, the clipped word a mark.
  await press(page, 'Home', 'g');
  for (let i = 0; i < 6; i++) {
    if (await page.getByRole('button', { name: 'Room tone over it' }).isVisible()) break;
    await press(page, 'g');
  }
  await press(page, 'a');
  await saved(page);
  pieces = await storedPieces(page);
  const patched = pieces.filter(({ kind }) => kind === 'tone');
  expect(patched).toHaveLength(1);
  // Close up everything that is struck; undo brings all of it back.
  const before = await sheetFrames(page);
  await press(page, 'Shift+Control+j');
  const after = await sheetFrames(page);
  expect(before - after).toBe(struck.reduce((sum, { length }) => sum + length, 0));
  await press(page, 'Control+z');
  await page.waitForFunction(
    (frames) => document.querySelector(`[data-testid=sheet][data-frames="${frames}"]`) !== null,
    before,
  );
  await press(page, 'Shift+Control+z');
  await saved(page);
  const heard = decode(await exportFloat(page, folder));
  expect(heard).toHaveLength(after);
  let quietest = Infinity;
  for (let at = 0; at + 480 <= heard.length; at += 480) {
    let sum = 0;
    for (let i = at; i < at + 480; i++) sum += heard[i] ** 2;
    quietest = Math.min(quietest, 10 * Math.log10(sum / 480 + 1e-20));
  }
  expect(quietest).toBeGreaterThan(-90);
  // What was read once stands in the file as it was recorded, away from joins: line 2.
  const original = decode('public/demo/stair.mp3');
  const line = events.find((one) => one.line === '2');
  const from = Math.round((line?.from ?? 0) * rate);
  // Two MP3 decoders: the last bits differ.
  let furthest = 0;
  for (let i = 0; i < rate; i++)
    furthest = Math.max(furthest, Math.abs(heard[from + i] - original[from + i]));
  expect(furthest).toBeLessThan(1e-5);
});

describe('edits by key and by pointer', () => {
  beforeEach(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
    await page.waitForTimeout(300);
  });

  test('cut, copy, paste and paste over; split, trim, nudge; every one undone', async () => {
    const start = await storedPieces(page);
    const whole = await sheetFrames(page);
    await dragOver(page, 1, 2);
    const [from, to] = ((await selectionOf(page)) ?? '').split(' ').map(Number);
    await press(page, 'Control+c', 'End', 'Control+v');
    await saved(page);
    expect(await sheetFrames(page)).toBe(whole + to - from);
    expect((await storedPieces(page)).slice(-1)[0]).toMatchObject({ from, length: to - from });
    await press(page, 'Control+z');
    await dragOver(page, 1, 2);
    await press(page, 'Control+x');
    await saved(page);
    expect(await sheetFrames(page)).toBe(whole - (to - from));
    await press(page, 'Control+z', 'Home', 'Shift+Control+V');
    // Pasted over, the sheet keeps its length, and the passage is as loud as what is around it.
    await page.getByRole('button', { name: 'Undo paste over' }).waitFor();
    await saved(page);
    expect(await sheetFrames(page)).toBe(whole);
    await press(page, 'Control+z');
    await saved(page);
    expect(await storedPieces(page)).toEqual(start);

    // The piece around the caret, after a split; then trimmed up to the caret.
    await dragOver(page, 3, 3);
    await press(page, 's', 'd');
    const split = (await selectionOf(page))?.split(' ').map(Number) ?? [];
    expect(split[0]).toBeGreaterThan(2.8 * rate);
    expect(split[1]).toBe(whole);
    await press(page, 'Escape', 'Control+z');
    await dragOver(page, 4, 4);
    await press(page, '{');
    await saved(page);
    expect((await storedPieces(page))[0].struck).toBe(true);
    await press(page, 'Control+z');

    // A passage goes 100 ms later; what it leaves is filled with room tone once there is some.
    await press(page, 'Shift+T');
    await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
    await press(page, 'Escape');
    await dragOver(page, 2, 4);
    const [first] = ((await selectionOf(page)) ?? '').split(' ').map(Number);
    await press(page, '"');
    await saved(page);
    const nudged = await storedPieces(page);
    expect(nudged[1]).toMatchObject({ kind: 'tone', length: 4800 });
    expect(nudged[2].from).toBe(first);
    expect(await sheetFrames(page)).toBe(whole);
    await press(page, 'Control+z', "'");
    await saved(page);
    expect((await storedPieces(page))[1]).toMatchObject({ kind: 'tone', length: 480 });
  });

  test('gain, fades, silence, patch tone and the length of a pause', async () => {
    await dragOver(page, 5, 6);
    await press(page, '=', '=', 'i');
    await saved(page);
    let [, middle] = await storedPieces(page);
    expect(middle).toMatchObject({ gainDb: 2 });
    expect(middle.fadeIn?.frames).toBe(middle.length);
    await press(page, 'Control+z', 'Control+z', 'Control+z', 'Shift+X');
    await saved(page);
    [, middle] = await storedPieces(page);
    expect(middle).toMatchObject({ kind: 'silence', meant: true });
    await press(page, 'Control+z', 't');
    await page.getByRole('button', { name: 'Undo patch tone' }).waitFor({ timeout: 20_000 });
    await saved(page);
    [, middle] = await storedPieces(page);
    expect(middle).toMatchObject({ kind: 'tone' });
    await press(page, 'Control+z');
    // The pause after the first line is 0.8 s (truth.csv); it becomes 0.7 s, in its middle.
    await dragOver(page, 1.7, 1.7);
    await press(page, 'Escape', 'Shift+E');
    await page.waitForFunction(
      () => document.querySelector('[data-testid=sheet]')?.getAttribute('data-selection') !== '',
    );
    const [from, to] = ((await selectionOf(page)) ?? '').split(' ').map(Number);
    expect(from / rate).toBeGreaterThan(1.28);
    expect(to / rate).toBeLessThan(2.13);
    await press(page, 'o');
    await saved(page);
    const struck = (await storedPieces(page)).find((piece) => piece.struck);
    expect(to - from - (struck?.length ?? 0)).toBe(0.7 * rate);
  });

  test('Ctrl and drag inside the selection: sideways slides it, up makes it louder; a gain as loud as the neighbours', async () => {
    await dragOver(page, 5, 6);
    const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
    const width = ((await sheet.boundingBox())?.width ?? 0) - 104;
    const box = await sheet.boundingBox();
    const x = (box?.x ?? 0) + 78 + (width * 5.5) / 12;
    const y = (box?.y ?? 0) + 70;
    const drag = async (dx: number, dy: number) => {
      await page.keyboard.down('Control');
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.move(x + dx / 2, y + dy / 2);
      await page.mouse.move(x + dx, y + dy, { steps: 3 });
      await page.mouse.up();
      await page.keyboard.up('Control');
    };
    await drag(0, -24);
    await saved(page);
    expect((await storedPieces(page))[1].gainDb).toBe(6);
    await press(page, 'Control+g');
    await page.waitForTimeout(800);
    await saved(page);
    expect(Math.abs((await storedPieces(page))[1].gainDb ?? 9)).toBeLessThan(3.5);
    await press(page, 'Control+z', 'Control+z');
    const [from] = ((await selectionOf(page)) ?? '').split(' ').map(Number);
    await drag(30, 0);
    await saved(page);
    const [slid] = ((await selectionOf(page)) ?? '').split(' ').map(Number);
    expect(slid).toBeGreaterThan(from);
  });

  test('the loupe shows the join and moves it; playing across it leaves the caret', async () => {
    await dragOver(page, 5, 6);
    await press(page, 'Control+x', 'z');
    await page.getByText(/Loupe · join at 00:0/).waitFor();
    const before = await storedPieces(page);
    const loupe = page.getByTestId('loupe');
    const box = await loupe.boundingBox();
    const middle = { x: (box?.width ?? 0) / 2, y: 40 };
    await page.waitForTimeout(300);
    await loupe.dragTo(loupe, { sourcePosition: middle, targetPosition: { ...middle, x: middle.x + 40 } });
    await saved(page);
    const moved = await storedPieces(page);
    expect(moved[0].length).toBeGreaterThan(before[0].length);
    expect(moved[0].length + moved[1].length).toBe(before[0].length + before[1].length);
    expect(moved[1].from - before[1].from).toBe(moved[0].length - before[0].length);
    const clock = await page.getByTestId('clock').textContent();
    await press(page, 'j');
    await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
    await page.getByRole('button', { name: /^Play( |$)/ }).waitFor({ timeout: 8000 });
    expect(await page.getByTestId('clock').textContent()).toBe(clock);
  });

  test('played twice as fast, three seconds take half as long', async () => {
    await dragOver(page, 2, 5);
    const played = async () => {
      await press(page, 'Shift+Space');
      await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
      const started = Date.now();
      await page.getByRole('button', { name: /^Play( |$)/ }).waitFor({ timeout: 12_000 });
      return Date.now() - started;
    };
    const usual = await played();
    await press(page, '.', '.', '.');
    await page.getByRole('button', { name: /2×/ }).waitFor();
    // Beginning and ending take their time at any speed.
    expect((await played()) / usual).toBeLessThan(0.8);
  });

  test('the script is laid along the reading; a line goes to its audio; the next thing to do is walked to', async () => {
    await page.getByRole('button', { name: 'Lay along the sheet' }).click();
    await notice(page, /All 8 lines are laid/);
    const events = truth('stair');
    await page.getByTestId('script').getByText('Before you climb').click();
    const clock = async () =>
      ((await page.getByTestId('clock').textContent()) ?? '')
        .split(':')
        .reduce((t, p) => t * 60 + Number(p), 0);
    const second = events.find(({ line }) => line === '2');
    expect(Math.abs((await clock()) - (second?.from ?? 0))).toBeLessThan(0.5);
    await expect(
      page.getByRole('img', { name: 'read, with something marked' }).count(),
    ).resolves.toBeGreaterThan(0);
    await press(page, 'Home', 'w');
    // The first flub that nobody has dealt with.
    const [flub] = events.filter(({ event }) => event.startsWith('flub'));
    expect(Math.abs((await clock()) - flub.from)).toBeLessThan(0.1);
    await press(page, 'b');
    await page.getByTestId('prompter').getByText('Before you climb').waitFor();
    await press(page, 'l');
    await expect(
      page.getByTestId('prompter').locator('[aria-current=step]').textContent(),
    ).resolves.toContain('ninety-four steps');
    await press(page, 'Escape');
    await dialogGone(page);
  });

  test('part marks split a recording into parts; a passage is copied to a part of its own', async () => {
    const whole = await sheetFrames(page);
    await dragOver(page, 9.4, 9.4);
    await press(page, 'p');
    await page.getByRole('button', { name: 'Passage' }).click();
    await page.getByRole('menuitem', { name: 'Split into parts at ¶' }).click();
    await notice(page, /1 parts? (was|were) split off/);
    const first = await sheetFrames(page);
    expect(first / rate).toBeGreaterThan(9);
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: 'Part 1' }).click();
    await page.waitForFunction(
      (frames) =>
        document.querySelector('[data-testid=sheet]')?.getAttribute('data-frames') !== String(frames),
      first,
    );
    expect(await sheetFrames(page)).toBe(whole - first);
    await dragOver(page, 1, 3);
    const [from, to] = ((await selectionOf(page)) ?? '').split(' ').map(Number);
    await page.getByRole('button', { name: 'Passage' }).click();
    await page.getByRole('menuitem', { name: 'Copy to a new part' }).click();
    await notice(page, /The passage is in “Part/);
    await saved(page);
    const copied = (await storedOpenPart(page, 'last')).timeline.tracks[0].pieces;
    expect(copied).toHaveLength(1);
    expect(copied[0].length).toBe(to - from);
  });
});

test('flub ranges marked while recording are struck with one command; lines follow the script', async () => {
  app = await openApp();
  page = app.page;
  await createProject(page, 'Ranges', 'Dry voice');
  await page
    .getByRole('textbox', { name: 'Script', exact: true })
    .fill('One line.\nAnother line.\nA third one.');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('Enter');
  await recorded(page, 1);
  await press(page, 'l');
  await recorded(page, 0.6);
  await press(page, 'Shift+F');
  await recorded(page, 0.8);
  await press(page, 'Shift+F');
  await recorded(page, 0.6);
  await press(page, 'l');
  await recorded(page, 0.6);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  const { marks } = (await storedOpenPart(page, 'first')).timeline;
  const flub = marks.find(({ kind }) => kind === 'flub');
  expect(flub?.length ?? 0).toBeGreaterThan(0.6 * rate);
  expect(marks.filter(({ kind }) => kind === 'line')).toHaveLength(3);
  await press(page, 'Shift+Control+Backspace');
  await saved(page);
  const struck = (await storedPieces(page)).find((piece) => piece.struck);
  expect(struck?.length).toBe(flub?.length);
  const whole = await sheetFrames(page);
  await press(page, 'Shift+Control+j');
  await saved(page);
  expect(await sheetFrames(page)).toBe(whole - (flub?.length ?? 0));
  await recordFor(page, 1);
});
