import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode } from './support/audio';
import {
  chooseInput,
  closeOpened,
  createProject,
  dialogGone,
  download,
  goTo,
  openApp,
  openDemo,
  recorded,
  recordFor,
  saved,
  sheetFrames,
  takePlaced,
} from './support/app';
import { storedTakes } from './support/stored';

/** Whoever comes for the first time, whoever comes back, and what they hold in their hands. */
afterEach(closeOpened);

const folder = mkdtempSync(path.join(tmpdir(), 'parola-visit-'));
const steps = (page: Page) => page.getByRole('region', { name: 'The whole job in five steps' });

/** Something is selected. */
const selected = (page: Page) =>
  page.locator('[aria-label=Edit] button:not([disabled])').filter({ hasText: 'Strike' }).waitFor();

test('the whole job in five steps, done for real and by keyboard', async () => {
  const { page, complaints } = await openApp();
  await page.getByRole('button', { name: 'Show me the whole job in five steps' }).press('Enter');
  await page.waitForURL(/booth$/);
  await page.getByTestId('sheet').waitFor();
  const said = steps(page).getByRole('status');
  await said.filter({ hasText: '1 of 5: Record.' }).waitFor();
  await steps(page).getByRole('button', { name: 'Take the practice reader' }).press('Enter');
  await page.getByRole('button', { name: /^Input: .*kHz/ }).waitFor();
  // Recorded.
  await recordFor(page, 3);
  await said.filter({ hasText: '2 of 5: Mark a flub.' }).waitFor();
  // A take without a flub is not it.
  await recordFor(page, 1);
  await said.filter({ hasText: '2 of 5' }).waitFor();
  await page.keyboard.press('Enter');
  await recorded(page, 3);
  await page.keyboard.press('f');
  await recorded(page, 1);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  await said.filter({ hasText: '3 of 5: Strike it.' }).waitFor();
  await page.keyboard.press('Shift+m');
  // One key after the other: what is pressed while the sentence is looked for waits for it.
  await page.keyboard.press('e');
  await page.keyboard.press('Backspace');
  await said.filter({ hasText: '4 of 5: Read the proof.' }).waitFor();
  await steps(page).getByRole('link', { name: 'Go to the Proof' }).press('Enter');
  await page.waitForURL(/proof$/);
  await said.filter({ hasText: '5 of 5: Export it.' }).waitFor({ timeout: 60_000 });
  await page.getByRole('button', { name: /^Export \d/ }).click();
  await said.filter({ hasText: 'That was the whole job' }).waitFor({ timeout: 60_000 });
  await steps(page).getByRole('button', { name: 'Close' }).press('Enter');
  expect(await steps(page).count()).toBe(0);
  // It is not offered by itself any more.
  await page.getByRole('link', { name: /all projects/ }).click();
  await page.getByRole('button', { name: 'Work log' }).waitFor();
  expect(await page.getByRole('button', { name: 'Show me' }).count()).toBe(0);
  expect(complaints).toEqual([]);
});

test('it can be left at any time, steps can be left out, and it is offered until then', async () => {
  const { page } = await openApp();
  await openDemo(page);
  await page.getByRole('link', { name: /all projects/ }).click();
  await page.getByRole('button', { name: 'Show me', exact: true }).click();
  await page.waitForURL(/booth$/);
  await steps(page).getByRole('button', { name: 'Leave it out' }).press('Enter');
  await steps(page).getByText('2 of 5').waitFor();
  await steps(page).getByRole('button', { name: 'End', exact: true }).press('Enter');
  expect(await steps(page).count()).toBe(0);
  await page.getByRole('link', { name: /all projects/ }).click();
  await page.getByRole('button', { name: 'Work log' }).waitFor();
  expect(await page.getByRole('button', { name: 'Show me', exact: true }).count()).toBe(0);
});

/** What a person does: a key, a click, or a text pasted in one go. */
function counted(page: Page) {
  let count = 0;
  return {
    get count() {
      return count;
    },
    async key(key: string) {
      count++;
      await page.keyboard.press(key);
    },
    async click(role: 'button' | 'link' | 'menuitem' | 'option' | 'combobox' | 'tab', name: string | RegExp) {
      count++;
      await page
        .getByRole(role, { name, exact: typeof name === 'string' })
        .first()
        .click();
    },
    async paste(text: string) {
      count += 2;
      await page.evaluate((value) => navigator.clipboard.writeText(value), text);
      await page.keyboard.press('Control+v');
    },
    async type(text: string) {
      count += text.length;
      await page.keyboard.type(text);
    },
  };
}

interface Demo {
  parts: { script: string[] }[];
}
const demo = JSON.parse(readFileSync('public/demo/demo.json', 'utf8')) as Demo;
/** About a minute of reading. */
const minuteOfText = demo.parts
  .slice(0, 3)
  .flatMap(({ script }) => script)
  .join(' ');

/** Of a file as ffmpeg decodes it, in dB under full scale. */
function levelsOf(file: string): { rms: number; peak: number } {
  const samples = decode(file);
  let [sum, peak] = [0, 0];
  for (const value of samples) {
    sum += value * value;
    peak = Math.max(peak, Math.abs(value));
  }
  return { rms: 10 * Math.log10(sum / samples.length), peak: 20 * Math.log10(peak) };
}

test('from the first visit to a delivered file that passes: counted in keys and clicks', async () => {
  const { page, context, complaints } = await openApp();
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  const by = counted(page);
  await by.click('button', 'New project');
  await page.getByLabel('Name').waitFor();
  await by.type('Chapter');
  await by.key('Enter');
  await page.waitForURL(/brief$/);
  await by.click('textbox' as 'button', 'Script');
  await by.paste(minuteOfText);
  await by.click('link', 'Booth');
  await by.click('button', /^Input:/);
  await by.click('menuitem', /^Practice reader Reads/);
  await page.getByRole('button', { name: /^Input: .*kHz/ }).waitFor();
  // A minute of reading, in which a flub is fixed as it happens.
  await by.key('Enter');
  await recorded(page, 20);
  await by.key('Backspace');
  await recorded(page, 12);
  await by.key('Enter');
  await takePlaced(page);
  const before = await sheetFrames(page);
  // A sentence is struck and closed up.
  await by.key('Home');
  await by.key('e');
  await selected(page);
  await by.key('Backspace');
  await by.key('Control+j');
  await saved(page);
  expect(await sheetFrames(page)).toBeLessThan(before);
  await by.click('link', 'Proof');
  const fix = page.getByRole('button', { name: /^Make it pass/ });
  await fix.waitFor({ timeout: 60_000 });
  await by.click('button', /^Make it pass/);
  await page.getByText('1 of 1 parts pass').waitFor({ timeout: 60_000 });
  const file = await download(page, () => by.click('button', /^Export 1 file/), folder);
  await page.getByText('Passes').first().waitFor();
  console.log(`From the first visit to a delivered file: ${by.count} keys and clicks`);
  expect(by.count).toBeLessThan(60);
  // What ffmpeg decodes is within the limits that most audiobook shops have (common practice).
  const { rms, peak } = levelsOf(file);
  expect(rms).toBeGreaterThan(-23);
  expect(rms).toBeLessThan(-18);
  expect(peak).toBeLessThan(-3);
  expect(complaints).toEqual([]);
});

const card = (page: Page) => page.getByRole('region', { name: 'Before you record' });

/** As if everything had been recorded so many hours ago. */
const hoursAgo = (page: Page, hours: number) =>
  page.evaluate(async (ms) => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    for (const [name, field] of [
      ['sources', 'startedAt'],
      ['checks', 'at'],
    ]) {
      const transaction = db.transaction(name, 'readwrite');
      const store = transaction.objectStore(name);
      const records = await new Promise<Record<string, number>[]>((resolve) => {
        const request = store.getAll();
        request.onsuccess = () => resolve(request.result);
      });
      for (const record of records) store.put({ ...record, [field]: record[field] - ms });
      await new Promise((resolve) => (transaction.oncomplete = resolve));
    }
    db.close();
  }, hours * 3_600_000);

/** A check of the practice reader as it is, which later ones are compared with. */
const keepCheck = (page: Page, speechDbfs = -30) =>
  page.evaluate(async (speech) => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const transaction = db.transaction(['projects', 'checks'], 'readwrite');
    const [project] = await new Promise<{ id: string }[]>((resolve) => {
      const request = transaction.objectStore('projects').getAll();
      request.onsuccess = () => resolve(request.result);
    });
    transaction.objectStore('checks').put({
      id: crypto.randomUUID(),
      projectId: project.id,
      at: Date.now(),
      input: 'Practice reader',
      toneSource: '',
      reference: speech === -30,
      result: {
        roomDbfs: -65.6,
        hum: null,
        speechDbfs: speech,
        loudnessLufs: speech,
        usualPeakDbfs: -12,
        loudestPeakDbfs: -11,
        clippedSamples: 0,
        dcOffset: 0,
        speechToNoiseDb: 35,
        tone: Array.from({ length: 21 }, () => -12),
      },
    });
    await new Promise((resolve) => (transaction.oncomplete = resolve));
    db.close();
  }, speechDbfs);

test('the next day a card says what differs from last time; a key for each of it', async () => {
  const { page, complaints } = await openApp();
  await createProject(page, 'Two days', 'Audiobook retail');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 2);
  // The first session has nothing to be compared with.
  expect(await card(page).count()).toBe(0);
  await keepCheck(page);
  await hoursAgo(page, 20);
  await page.reload();
  await card(page).waitFor();
  await card(page).getByText('Last time it was Practice reader.').waitFor();
  await card(page).getByText('not compared with the reference today').waitFor();
  await page.keyboard.press('Shift+v');
  await card(page).getByText('The input of last time: Practice reader.').waitFor();
  await page.keyboard.press('Shift+k');
  await card(page)
    .getByText(/Be silent: \d+ s/)
    .waitFor();
  await card(page)
    .getByText(/^Room tone of today: −6\d\.\d dBFS/)
    .waitFor({ timeout: 30_000 });
  // Checked today (the check itself is tested with the takes), eight decibels louder than the reference.
  await keepCheck(page, -22);
  await page.reload();
  await page.getByTestId('sheet').waitFor();
  await page.keyboard.press('!');
  await card(page)
    .getByText('Speech is 8 dB louder than in the reference: turn the gain down about 8 dB.')
    .waitFor();
  await page.keyboard.press('Shift+v');
  await card(page).getByText('The input of last time: Practice reader.').waitFor();
  // Whoever records has seen it; it comes back by its key.
  await recordFor(page, 1);
  expect(await card(page).count()).toBe(0);
  await page.keyboard.press('!');
  await card(page).waitFor();
  expect(complaints).toEqual([]);
});

test('the room is not kept when it is called off, and the next take can be recorded', async () => {
  const { page } = await openApp();
  await createProject(page, 'Off', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('!');
  await page.keyboard.press('Shift+k');
  await card(page)
    .getByText(/Be silent/)
    .waitFor();
  await page.keyboard.press('Shift+k');
  await card(page).getByText('No room tone was recorded today.').waitFor();
  await recordFor(page, 1);
  await page.waitForTimeout(10_000);
  expect(await storedTakes(page, 'all', 'tone')).toHaveLength(0);
  expect(await storedTakes(page)).toHaveLength(1);
});

test('a line whose text was changed after it was read is told, until it is read again or may stand', async () => {
  const { page } = await openApp();
  await createProject(page, 'Changed', 'Podcast mono');
  const script = page.getByRole('textbox', { name: 'Script', exact: true });
  await script.fill('The boat came twice a month.\nAoife waited for it on the rock.\nNobody else did.');
  await page.getByRole('button', { name: 'Names …' }).click();
  await page.getByLabel('One to a line').fill('Aoife');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByText('Line 1 is no name with how it is said').waitFor();
  await page.getByLabel('One to a line').fill('Aoife = EE-fa');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await dialogGone(page);
  const printed = await download(
    page,
    async () => {
      await page.getByRole('button', { name: 'To print …' }).click();
      await page.getByRole('menuitem', { name: 'Part 1' }).click();
    },
    folder,
  );
  expect(readFileSync(printed, 'utf8')).toContain('<ruby>Aoife<rt>EE-fa</rt></ruby> waited');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('Enter');
  await recorded(page, 1.5);
  await page.keyboard.press('l');
  await recorded(page, 1.5);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  const list = page.getByTestId('script');
  await list.getByText('EE-fa').waitFor();
  expect(await list.getByLabel('read, and its text was changed since').count()).toBe(0);
  await goTo(page, 'Brief');
  await script.fill('The boat came once a month.\nAoife waited for it on the pier.\nNobody else did that.');
  await goTo(page, 'Booth');
  // The third was never read: what it said before does not matter.
  await list.getByLabel('read, and its text was changed since').nth(1).waitFor();
  expect(await list.getByLabel('read, and its text was changed since').count()).toBe(2);
  await list.getByText('The boat came twice a month.').waitFor();
  await list.getByRole('button', { name: 'It may stand' }).first().click();
  await page.keyboard.press('Home');
  await page.keyboard.press('w');
  await page.getByText('The text of line 2 was changed after it was read').waitFor();
  // Read again it is what it says.
  await page.keyboard.press('2');
  await page.keyboard.press('Enter');
  await recorded(page, 1);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  await page.reload();
  await list.getByText('EE-fa').waitFor();
  expect(await list.getByLabel('read, and its text was changed since').count()).toBe(0);
});

test('on a tablet everything that records is under a finger; a finger selects, and moves the sheet', async () => {
  const { page } = await openApp({ viewport: { width: 1180, height: 820 }, touch: true });
  await openDemo(page);
  const tap = (name: string | RegExp, role: 'button' | 'menuitem' = 'button') =>
    page.getByRole(role, { name }).first().tap();
  await tap(/^Input:/);
  await tap(/^Practice reader Reads/, 'menuitem');
  await page.getByRole('button', { name: /^Input: .*kHz/ }).waitFor();
  const before = await sheetFrames(page);
  await tap(/^Record: /);
  await recorded(page, 2);
  await tap(/^Flub/);
  await tap(/^Again/);
  await recorded(page, 2);
  await tap(/^Stop recording/);
  await takePlaced(page);
  expect(await sheetFrames(page)).toBeGreaterThan(before);
  const box = await page.getByTestId('sheet').locator('canvas').nth(1).boundingBox();
  if (!box) throw new Error('There is no sheet');
  const finger = await page.context().newCDPSession(page);
  const drag = async (from: [number, number], to: [number, number]) => {
    const at = (x: number, y: number) => [{ x: box.x + x, y: box.y + y }];
    await finger.send('Input.dispatchTouchEvent', { type: 'touchStart', touchPoints: at(...from) });
    for (let k = 1; k <= 8; k++)
      await finger.send('Input.dispatchTouchEvent', {
        type: 'touchMove',
        touchPoints: at(from[0] + ((to[0] - from[0]) * k) / 8, from[1] + ((to[1] - from[1]) * k) / 8),
      });
    await finger.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
  };
  const strike = page.getByRole('button', { name: 'Strike', exact: true });
  await page.touchscreen.tap(box.x + 200, box.y + 60);
  expect(await strike.isDisabled()).toBe(true);
  await drag([150, 60], [320, 62]);
  await selected(page);
  await strike.tap();
  await page.getByRole('button', { name: /^Undo/ }).tap();
  // Up and down is the page's: the sheet moves, and nothing is selected by it.
  await page.touchscreen.tap(box.x + 200, box.y + 60);
  await drag([300, 400], [302, 150]);
  expect(await strike.isDisabled()).toBe(true);
});

test('a phone is something to read from, with the deck under a thumb', async () => {
  const { page } = await openApp({ viewport: { width: 390, height: 844 }, touch: true });
  await openDemo(page, 'phone-script');
  const lines = page.getByTestId('phone-script').getByRole('button');
  await lines.nth(2).tap();
  expect(await lines.nth(2).getAttribute('aria-current')).toBe('step');
  await page.getByRole('button', { name: /^Input:/ }).tap();
  await page.getByRole('menuitem', { name: /^Practice reader Reads/ }).tap();
  await page.getByTestId('level-word').filter({ hasText: /\w/ }).waitFor();
  await page.getByRole('button', { name: /^Record: / }).tap();
  const stop = page.getByRole('button', { name: /^Stop recording/ });
  await stop.waitFor();
  await page.waitForTimeout(2000);
  await page.getByRole('button', { name: /^Flub/ }).tap();
  await stop.tap();
  await takePlaced(page);
  // Nothing stands out over the edge of the screen.
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBe(390);
  expect((await storedTakes(page)).length).toBeGreaterThan(0);
  // The next one can be recorded.
  await page.getByRole('button', { name: /^Record: / }).tap();
  await stop.waitFor();
  await stop.tap();
  await takePlaced(page);
});
test('in German every screen speaks German, numbers and dates too; the choice is in sight', async () => {
  const { page, context, complaints } = await openApp({ language: 'de-DE' });
  await page.getByRole('button', { name: 'Die Demo öffnen' }).click();
  await page.getByTestId('sheet').waitFor();
  expect(await page.evaluate(() => document.documentElement.lang)).toBe('de');
  // Nothing is left of the other language: words that no German text has.
  const english = /\b(the|and|of|with|this|is|not|from|your|take it|which|has|are)\b/i;
  const saidOn = async (screen: string) => {
    await page.getByRole('link', { name: screen, exact: true }).click();
    await page.waitForTimeout(1500);
    const texts = await page.evaluate(() => {
      const own = (node: Element) =>
        [...node.attributes]
          .filter(({ name }) => /^(aria-label|title|placeholder)$/.test(name))
          .map(({ value }) => value);
      const script = (node: Element) =>
        node.closest('[data-testid=script], textarea, [aria-label^="Teil: "]') !== null;
      const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
      const found: string[] = [];
      for (let node = walker.nextNode(); node; node = walker.nextNode())
        if (
          node.parentElement &&
          !node.parentElement.closest('script, style, noscript') &&
          !script(node.parentElement)
        )
          found.push(node.textContent ?? '');
      for (const element of document.body.querySelectorAll('*'))
        if (!script(element)) found.push(...own(element));
      return found;
    });
    return texts.filter((text) => english.test(text));
  };
  // What the demo is called, and what is in it, are its own.
  const demosOwn =
    /Lamp House|[Tt]he lamp|The stair|Arrival|Keepers|boat|visitor|stair|keepers|Podcast|Broadcast|Punch and Roll/;
  for (const screen of ['Auftrag', 'Kabine', 'Feinschliff', 'Prüfung'])
    expect([screen, (await saidOn(screen)).filter((text) => !demosOwn.test(text))]).toEqual([screen, []]);
  await page
    .getByText(/−\d+,\d/)
    .first()
    .waitFor({ timeout: 60_000 });
  // A worker says what is wrong in the language of its page.
  await page.getByRole('link', { name: 'Kabine', exact: true }).click();
  await page.getByTestId('sheet').waitFor();
  await page.keyboard.press('Shift+i');
  await page
    .getByLabel('Tondateien')
    .setInputFiles({ name: 'kein-ton.wav', mimeType: 'audio/wav', buffer: Buffer.from('nichts') });
  await page
    .getByText(/ist keine Tondatei|Das ist keine|lässt sich nicht lesen/)
    .first()
    .waitFor();
  await page.getByRole('button', { name: 'Abbrechen' }).click();
  await dialogGone(page);
  // Back to English, where one was.
  await page.getByRole('button', { name: 'Sprache: Deutsch' }).click();
  await page.getByRole('menuitem', { name: 'English' }).click();
  await page.getByRole('button', { name: 'Language: English' }).waitFor();
  await page.getByTestId('sheet').waitFor();
  const other = await context.newPage();
  await other.goto(page.url().replace(/\/project.*/, '/help'));
  await other.getByRole('heading', { name: 'Where it is kept', exact: true }).waitFor();
  expect(complaints).toEqual([]);
});
