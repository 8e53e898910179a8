import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { chainFromJson } from '@/core/chain/chainFile';
import { through } from '@/core/testing/chains';
import { voiceAt48 } from '@/core/testing/prompts';
import { add, concat, noise, writeWav } from '@/core/testing/signals';
import { scaleToRms } from '@/core/testing/sounds';
import {
  createProject,
  dialogGone,
  download,
  exportFloat,
  goTo,
  openApp,
  openDemo,
  saved,
  type App,
} from './support/app';
import { decode } from './support/audio';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-chain-'));
const rateHz = 48_000;

/** Recorded prompts at −26 dBFS RMS in a room of −62 dBFS: 0.8 s of it before them and 1.5 s after. */
const reading = (() => {
  const voice = scaleToRms(voiceAt48('en', 5, 2).audio.subarray(0.2 * rateHz), -26);
  const spoken = concat(voice, new Float32Array(rateHz / 2));
  return add(spoken, noise(spoken.length, -62, 6));
})();
const file = writeWav(path.join(folder, 'chapter.wav'), rateHz, [reading]);

/** RMS and peak of a file in dBFS as ffmpeg's astats has them, and the RMS of its first 0.45 s. */
function measured(name: string): { rms: number; peak: number; room: number } {
  const told = (...filter: string[]) =>
    execFileSync('sh', ['-c', 'ffmpeg -nostats -i "$0" -af "$1" -f null - 2>&1', name, filter.join(',')], {
      encoding: 'utf8',
    });
  const of = (text: string, what: string) =>
    Number(new RegExp(`${what} level dB: (-?[\\d.]+)`).exec(text)?.[1]);
  const whole = told('astats=measure_perchannel=none');
  const head = told('atrim=0.1:0.55', 'astats=measure_perchannel=none');
  return { rms: of(whole, 'RMS'), peak: of(whole, 'Peak'), room: of(head, 'RMS') };
}

async function importChapter(page: Page) {
  await goTo(page, 'Booth');
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles(file);
  await page.getByRole('listitem').getByText(/kHz/).waitFor();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Where to').click();
  await page.getByRole('option', { name: /^Over a track/ }).click();
  await dialog.getByRole('button', { name: /^Import/ }).click();
  await dialog.waitFor({ state: 'detached' });
  await saved(page);
}

const steps = async (page: Page) =>
  page
    .getByRole('list', { name: 'Steps' })
    .getByRole('listitem')
    .evaluateAll((all) => all.map((one) => one.getAttribute('data-step')));
const hears = (page: Page, text: RegExp) => page.getByLabel('Deck').getByText(text).waitFor();

describe('a reading that gain and ceiling cannot bring to pass', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await createProject(page, 'Chapter one', 'Audiobook retail', '48 kHz');
    await importChapter(page);
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('“Make it pass” plans with a chain and says what that costs', async () => {
    await goTo(page, 'Proof');
    const fix = page.getByRole('button', { name: /^Make it pass: 1 fix/ });
    await fix.waitFor({ timeout: 90_000 });
    await page.getByRole('button', { name: /^Room \d(\.5)? dB softer; raise \d\.\d dB/ }).waitFor();
    await fix.focus();
    await page.keyboard.press('Enter');
    await page.getByText('1 of 1 parts pass').waitFor({ timeout: 60_000 });
    await page.getByText(/measured afterwards: (exactly|within 0\.0\d dB of) what was predicted/).waitFor();
    await page.getByText('Through the chain of Voice.').waitFor();
  });

  test('the written file passes as ffmpeg measures it, and the report tells the chain', async () => {
    const before = measured(file);
    expect(before.room).toBeGreaterThan(-63);
    const archive = await download(
      page,
      () => page.getByRole('button', { name: /^Export 1 file/ }).click(),
      folder,
    );
    const after = measured(archive);
    expect(after.rms).toBeGreaterThan(-23);
    expect(after.rms).toBeLessThan(-18);
    expect(after.peak).toBeLessThan(-3);
    expect(after.room).toBeLessThan(-60);
    await page.getByText(/written, read back, and all of it passes/).waitFor();
  });

  test('the chain stands in Finish; its values are changed by keys, and undo takes that back', async () => {
    await goTo(page, 'Finish');
    expect(await steps(page)).toEqual(['room']);
    const value = page.getByRole('spinbutton', { name: 'How much softer the room gets' });
    const was = Number(await value.inputValue());
    await value.focus();
    await page.keyboard.press('ArrowUp');
    await page.waitForFunction(
      (least) =>
        Number(
          document.querySelector<HTMLInputElement>('input[aria-label="How much softer the room gets"]')
            ?.value,
        ) > least,
      was,
    );
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await page.waitForFunction(
      (wanted) =>
        Number(
          document.querySelector<HTMLInputElement>('input[aria-label="How much softer the room gets"]')
            ?.value,
        ) === wanted,
      was,
    );
    await saved(page);
  });

  test('a key that is held down is one change: one undo takes it back', async () => {
    const value = page.getByRole('spinbutton', { name: 'How much softer the room gets' });
    const was = await value.inputValue();
    await value.focus();
    for (let i = 0; i < 6; i++) await page.keyboard.down('ArrowUp');
    await page.keyboard.up('ArrowUp');
    expect(Number(await value.inputValue())).toBe(Number(was) + 3);
    // It is stored: what was only on its way would be gone with the value of before.
    await page.getByRole('button', { name: /^Undo/ }).waitFor();
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+z');
    await page.waitForFunction(
      (wanted) =>
        document.querySelector<HTMLInputElement>('input[aria-label="How much softer the room gets"]')
          ?.value === wanted,
      was,
    );
    await saved(page);
  });

  test('finished, as recorded and what is taken away are heard at one place, while it plays on', async () => {
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Stop Space' }).waitFor();
    await page.keyboard.press('a');
    await hears(page, /hears: Voice, as recorded/);
    await page.keyboard.press('Shift+a');
    await hears(page, /hears: Voice, what is taken away/);
    await page.keyboard.press('Shift+a');
    await hears(page, /hears: all voices and beds/);
    await page.getByText(/as recorded [+−]?\d\.\d dB to compare/).waitFor();
    await page.getByRole('button', { name: 'Stop Space' }).waitFor();
    // A step that is switched does not end it either.
    await page.keyboard.press('o');
    await page.getByRole('switch', { name: 'Softer room is on', checked: false }).waitFor();
    await page.keyboard.press('o');
    await page.getByRole('switch', { name: 'Softer room is on', checked: true }).waitFor();
    await page.getByRole('button', { name: 'Stop Space' }).waitFor();
    await page.keyboard.press('Space');
    await page.getByRole('button', { name: 'Play Space' }).waitFor();
  });

  test('steps come in where they usually stand, are moved and taken away by keys', async () => {
    await page.getByRole('button', { name: 'Add a step' }).click();
    await page.getByRole('menuitem', { name: /^Evener reading/ }).click();
    await page.getByRole('button', { name: 'Add a step' }).click();
    await page.getByRole('menuitem', { name: /^Away with the rumble/ }).click();
    await page.waitForFunction(() => document.querySelectorAll('[data-step]').length === 3);
    expect(await steps(page)).toEqual(['rumble', 'room', 'even']);
    await page.getByRole('listitem', { name: 'Away with the rumble' }).click();
    await page.keyboard.press('>');
    await page.waitForFunction(
      () => document.querySelector('[data-step]')?.getAttribute('data-step') === 'room',
    );
    expect(await steps(page)).toEqual(['room', 'rumble', 'even']);
    await page.keyboard.press('Shift+Delete');
    await page.waitForFunction(() => document.querySelectorAll('[data-step]').length === 2);
    // What it does to this voice is told once it has been measured.
    await page.getByText(/Most taken off \d+\.\d dB at/).waitFor({ timeout: 60_000 });
    await page.getByText('Speech over room').waitFor();
    await saved(page);
  });

  let chainFile = '';
  test('a chain is kept by name and goes out as a file', async () => {
    await page.keyboard.press('h');
    await page.getByRole('button', { name: 'Keep this voice’s chain …' }).click();
    await page.getByLabel('Name').fill('My booth');
    await page.keyboard.press('Enter');
    await page.getByText('“My booth” is kept: every voice of every project can have it.').waitFor();
    await page.getByText('Chain “My booth”').waitFor();
    chainFile = await download(
      page,
      () => page.getByRole('button', { name: 'Save it as a file' }).click(),
      folder,
    );
    const read = chainFromJson(readFileSync(chainFile, 'utf8'));
    expect(read.name).toBe('My booth');
    expect(read.steps.map(({ kind }) => kind)).toEqual(['room', 'even']);
    await page.keyboard.press('Escape');
    await dialogGone(page);
    await saved(page);
  });

  test('in another project it comes in, a broken one is refused, and what is written is what the chain gives', async () => {
    await page.getByRole('link', { name: 'Parola: all projects' }).click();
    await page.getByRole('heading', { name: 'Projects' }).waitFor();
    await createProject(page, 'Chapter two', 'Podcast mono', '48 kHz');
    await importChapter(page);
    await goTo(page, 'Finish');
    await page.keyboard.press('h');
    // Kept in this browser; forgotten, so that it has to come from the file.
    await page.getByRole('button', { name: 'Forget' }).click();
    await page.getByRole('button', { name: 'Use My booth' }).waitFor({ state: 'detached' });
    const broken = path.join(folder, 'broken.json');
    writeFileSync(broken, readFileSync(chainFile, 'utf8').replace(/"ratio": [\d.]+/, '"ratio": 500'));
    await page.getByLabel('A chain file').setInputFiles(broken);
    await page.getByText(/step 2 \(Evener reading\): .*ratio is at most 20/).waitFor();
    await page.getByLabel('A chain file').setInputFiles(chainFile);
    await page.getByRole('button', { name: 'Use My booth' }).click();
    await page.getByText('Chain “My booth”').waitFor();
    await saved(page);
    const made = decode(await exportFloat(page, folder));
    const wanted = await through(reading, chainFromJson(readFileSync(chainFile, 'utf8')).steps, rateHz);
    expect(made).toHaveLength(wanted.length);
    let worst = 0;
    for (let i = 0; i < made.length; i++) worst = Math.max(worst, Math.abs(made[i] - wanted[i]));
    // Node's exponentials and the browser's differ in the last bit.
    expect(20 * Math.log10(worst)).toBeLessThan(-130);
  });

  test('undo takes the chain away again', async () => {
    await goTo(page, 'Finish');
    await page.keyboard.press('Control+z');
    await page.getByText('No chain: as it was recorded').waitFor();
    await saved(page);
  });
});

describe('an equaliser, and a chain on several voices', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
    await goTo(page, 'Finish');
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  const band = (number: number) => page.getByRole('slider', { name: new RegExp(`^Band ${number}, `) });

  test('bands are added, moved by keys and by dragging, and taken away', async () => {
    await page.getByRole('button', { name: 'Add a step' }).click();
    await page.getByRole('menuitem', { name: /^Equaliser/ }).click();
    await page.getByRole('button', { name: '+ Add a band' }).click();
    await page.getByRole('menuitem', { name: 'Bell' }).click();
    await band(1).focus();
    for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowRight');
    await page.waitForFunction(
      () =>
        document.querySelector('circle[role=slider]')?.getAttribute('aria-valuetext') ===
        '1060 Hz, −2.0 dB, Q 1',
    );
    const box = await band(1).boundingBox();
    if (!box) throw new Error('no band');
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x - 40, box.y - 20, { steps: 4 });
    await page.mouse.up();
    const gain = Number(
      await page
        .getByRole('spinbutton', { name: 'Gain of the band' })
        .inputValue()
        .then((text) => text.replace('−', '-')),
    );
    expect(gain).toBeGreaterThan(-2);
    expect(
      Number(await page.getByRole('spinbutton', { name: 'Frequency of the band' }).inputValue()),
    ).toBeLessThan(900);
    await band(1).focus();
    await page.keyboard.press('Delete');
    await band(1).waitFor({ state: 'detached' });
    await saved(page);
  });

  test('a match to another part is shown before it is taken, within ±6 dB', async () => {
    await page.getByRole('button', { name: 'Match to …' }).click();
    await page.getByRole('menuitem', { name: 'The boat house' }).click();
    await page
      .getByText(/The dashed line would bring it near “The boat house”: \d bands within ±6 dB/)
      .waitFor({ timeout: 60_000 });
    await expect(band(1).count()).resolves.toBe(0);
    await page.getByRole('button', { name: 'Take it', exact: true }).click();
    await band(2).waitFor();
    for (const one of await page.getByRole('slider', { name: /^Band / }).all())
      expect(Math.abs(Number(await one.getAttribute('aria-valuenow')))).toBeLessThanOrEqual(6);
    await saved(page);
  });

  test('a chain is used on other voices, which are asked for; one undo takes it back everywhere', async () => {
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Chains …' }).click();
    await page.getByRole('button', { name: 'Use it on other voices …' }).click();
    await page.getByLabel('All of them').click();
    await page.getByRole('button', { name: 'Use it', exact: true }).click();
    await page.getByText(/more voices have this chain now\. Undo takes it back everywhere/).waitFor();
    await dialogGone(page);
    await saved(page);
    const chained = () =>
      page.evaluate(
        () =>
          new Promise<number>((resolve) => {
            const open = indexedDB.open('parola');
            open.onsuccess = () => {
              const all = open.result.transaction('parts').objectStore('parts').getAll();
              all.onsuccess = () => {
                open.result.close();
                type Stored = { timeline: { mix?: { strips: { chain?: unknown }[] } } };
                resolve(
                  (all.result as Stored[]).filter(({ timeline }) =>
                    timeline.mix?.strips.some(({ chain }) => chain),
                  ).length,
                );
              };
            };
          }),
      );
    expect(await chained()).toBeGreaterThan(4);
    await page.keyboard.press('Control+z');
    await page.getByText('The chain was taken back everywhere.').waitFor();
    await saved(page);
    // The part it came from keeps it.
    expect(await chained()).toBe(1);
    expect(await steps(page)).toEqual(['equaliser']);
  });

  test('a chain to begin with is fitted to the voice, and what has to hear the room alone hears it', async () => {
    await page.keyboard.press('h');
    await page.getByRole('button', { name: 'Use A room that is heard' }).click();
    await page.getByText('Chain “A room that is heard”').waitFor({ timeout: 60_000 });
    await page.getByText(/The room, learned from its tone, goes/).waitFor({ timeout: 60_000 });
    // Made for speech at −23 dBFS: this voice is louder, and so is what counts as a pause.
    const threshold = page.getByRole('spinbutton', { name: 'Threshold of the pauses' });
    expect(Number((await threshold.inputValue()).replace('−', '-'))).toBeGreaterThan(-52);
    await saved(page);
  });
});
