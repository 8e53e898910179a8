import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { createProject, dialogGone, download, goTo, openApp, openDemo, saved, type App } from './support/app';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-finish-'));
const rateHz = 44_100;

const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);

/** Music in stereo: two chords that differ left and right, eight seconds, made by ffmpeg. */
function makeMusic(): string {
  const file = path.join(folder, 'theme.wav');
  ffmpeg(
    ...[
      '-f',
      'lavfi',
      '-i',
      'aevalsrc=0.1*sin(2*PI*220*t)+0.08*sin(2*PI*277*t)|0.1*sin(2*PI*330*t):s=44100:d=8',
    ],
    file,
  );
  return file;
}

/** What ffmpeg decodes, a channel each. */
function channelsOf(file: string): Float32Array[] {
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'f32le', '-ac', '2', '-'], {
    maxBuffer: 1 << 30,
  });
  const samples = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  return [0, 1].map((channel) => samples.filter((_, i) => i % 2 === channel));
}

/** Integrated loudness as ffmpeg's ebur128 measures it, LUFS. */
function loudnessOf(file: string): number {
  const told = execFileSync(
    'sh',
    ['-c', 'ffmpeg -nostats -i "$0" -af ebur128 -f null - 2>&1 | grep "I:" | tail -1', file],
    { encoding: 'utf8' },
  );
  return Number(/I:\s*(-?[\d.]+) LUFS/.exec(told)?.[1]);
}

const powerDb = (samples: Float32Array, from: number, to: number) => {
  const part = samples.subarray(Math.round(from * rateHz), Math.round(to * rateHz));
  return 10 * Math.log10(part.reduce((sum, value) => sum + value * value, 0) / part.length);
};

async function importOver(page: Page, file: string, place: RegExp, track?: string) {
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles(file);
  await page.getByRole('listitem').getByText(/kHz/).waitFor();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Where to').click();
  await page.getByRole('option', { name: place }).click();
  if (track) {
    await dialog.getByRole('combobox', { name: 'Track' }).click();
    await page.getByRole('option', { name: track, exact: true }).click();
  }
  await dialog.getByRole('button', { name: /^Import/ }).click();
  await dialog.waitFor({ state: 'detached' });
  await saved(page);
}

const strip = (page: Page, name: string) => page.getByRole('group', { name, exact: true });
const levelOf = (page: Page, name: string) =>
  strip(page, name)
    .getByRole('spinbutton', { name: `Level of ${name}, dB` })
    .inputValue();

/** What is played has a peak over so many dBFS. */
const heardOver = (page: Page, db: number) =>
  page.waitForFunction((least) => {
    const shown = document.querySelector('[data-strip=all] [data-meter=text]')?.textContent ?? '';
    return shown !== '' && Number(shown.replace('−', '-')) > least;
  }, db);

describe('an interview with a bed, by keyboard, from two imports to a file that passes', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await createProject(page, 'Shore talk', 'Podcast stereo');
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('two recordings stand on two staves', async () => {
    await goTo(page, 'Booth');
    await page.getByTestId('sheet').waitFor();
    await page.getByRole('button', { name: /^Input:/ }).click();
    await page.getByRole('menuitem', { name: /^Practice reader Reads/ }).click();
    await page.getByRole('button', { name: /^Input: .*kHz/ }).click();
    await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Add a track' }).click();
    await page.keyboard.press('Escape');
    await dialogGone(page);
    await importOver(page, 'public/demo/boat-builder-1.mp3', /^Over a track/, 'Voice');
    await page.keyboard.press('Home');
    await importOver(page, 'public/demo/boat-builder-2.mp3', /^Over a track/, 'Voice 2');
    await goTo(page, 'Finish');
    await strip(page, 'Voice 2').waitFor();
  });

  test('music is laid from before the first word to after the last, and goes round', async () => {
    await page.getByLabel('Add music or atmosphere').setInputFiles(makeMusic());
    const sentence = page.getByRole('group', { name: 'It, a sound of the bed' });
    // 4 s before the first word, at which the part has to begin now; its 8 s go round under all of it.
    await sentence.getByText(/^Heard from 00:00\.000 to 00:\d\d\.\d+, round and round\.$/).waitFor();
    expect(await sentence.getByLabel('Seconds it begins from there').inputValue()).toBe('4.0');
    await saved(page);
  });

  test('keys set levels and places, and write how the bed goes down under speech', async () => {
    await page.getByTestId('sheet').click({ position: { x: 400, y: 30 } });
    for (let i = 0; i < 6 && (await strip(page, 'Voice').getAttribute('aria-current')) !== 'true'; i++)
      await page.keyboard.press('x');
    for (let i = 0; i < 6; i++) await page.keyboard.press(';');
    await page.keyboard.press('=');
    await strip(page, 'Voice').getByText('30 left').waitFor();
    expect(await levelOf(page, 'Voice')).toBe('0.5');
    await page.keyboard.press('x');
    for (let i = 0; i < 6; i++) await page.keyboard.press("'");
    await strip(page, 'Voice 2').getByText('30 right').waitFor();
    await page.keyboard.press('x');
    await page.keyboard.press('u');
    await page.getByRole('group', { name: 'Under speech' }).waitFor();
    await page.keyboard.press('Control+z');
    await page.getByRole('button', { name: 'Let it go down under speech' }).waitFor();
    await page.keyboard.press('Control+y');
    await page.getByRole('group', { name: 'Under speech' }).waitFor();
    await page.getByRole('button', { name: 'Measure theme' }).click();
    // Begun 3 LU under the voices and 12 dB further down under speech.
    await page
      .getByRole('cell', { name: /^1[3-8]\.\d LU$/ })
      .first()
      .waitFor();
    await saved(page);
  });

  test('what is heard is made to pass, and ffmpeg measures the same of the stereo file', async () => {
    await goTo(page, 'Proof');
    await page
      .getByRole('button', { name: 'Stop measuring' })
      .waitFor({ state: 'detached', timeout: 60_000 });
    await page.getByRole('button', { name: 'Make every part pass' }).click();
    await page.getByText('1 of 1 parts pass').waitFor({ timeout: 90_000 });
    const file = await download(
      page,
      () => page.getByRole('button', { name: /^Export 1 file/ }).click(),
      folder,
    );
    expect(Math.abs(loudnessOf(file) + 16)).toBeLessThan(1);
    const [left, right] = channelsOf(file);
    // Before the first word there is music alone, in stereo; it begins from silence.
    expect(powerDb(left, 0, 0.2)).toBeLessThan(powerDb(left, 2, 3) - 10);
    expect(Math.abs(powerDb(left, 2, 3) - powerDb(right, 2, 3))).toBeGreaterThan(0.5);
    // The voice that is put to the left is louder there: by 20·log10 of the law's gains, 4.1 dB at 30.
    const [first, second] = [powerDb(left, 5, 7), powerDb(right, 5, 7)];
    expect(first - second).toBeGreaterThan(3.4);
    expect(first - second).toBeLessThan(4.3);
    // After the last word it comes up again and fades.
    const end = left.length / rateHz;
    expect(powerDb(left, end - 0.2, end)).toBeLessThan(powerDb(left, end - 2.6, end - 2) - 10);
  });

  test('all of it is there after a reload', async () => {
    await page.reload();
    await goTo(page, 'Finish');
    await strip(page, 'Voice').getByText('30 left').waitFor();
    expect(await levelOf(page, 'Voice')).toBe('0.5');
    await page.getByRole('group', { name: 'Under speech' }).waitFor();
  });
});

describe('the bed of the demo’s interview', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /boat builder/i }).click();
    await goTo(page, 'Finish');
    await strip(page, 'Shore').waitFor();
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });
  const sentence = () => page.getByRole('group', { name: 'It, a sound of the bed' });

  test('mute and solo are heard at once, while it plays, and said to change no file', async () => {
    await page.getByTestId('sheet').click({ position: { x: 400, y: 30 } });
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await heardOver(page, -20);
    for (const name of ['Ines', 'Boat builder', 'Shore'])
      await page.getByRole('button', { name: `mute ${name}` }).click();
    // The held peak goes after 1.5 s: then nothing is heard.
    await page.waitForFunction(
      () => document.querySelector('[data-strip=all] [data-meter=text]')?.textContent === '',
    );
    await page.getByText('Mute and solo change what you hear, not what is written.').waitFor();
    await page.getByRole('button', { name: 'solo Ines' }).click();
    await heardOver(page, -40);
    await page.getByRole('button', { name: 'Hear all' }).click();
    await page.keyboard.press('Space');
    await goTo(page, 'Proof');
    await goTo(page, 'Finish');
  });

  test('values in its sentence are changed by typing, by arrow keys and by choosing', async () => {
    const fade = sentence().getByLabel('Fade in');
    await fade.fill('2,5');
    await fade.press('Enter');
    await fade.press('ArrowUp');
    expect(await fade.inputValue()).toBe('2.6');
    await sentence()
      .getByLabel('What it begins at', { exact: true })
      .selectOption({ label: 'the first word' });
    // The words are looked for first.
    await sentence().locator('option[value=firstWord]:checked').waitFor({ state: 'attached' });
    await sentence().getByLabel('Seconds it begins from there').fill('0.5');
    await sentence().getByLabel('Seconds it begins from there').press('Enter');
    await sentence().getByLabel('Before or after what it begins at').selectOption('before');
    // Where the first word is has been found: 0.8 s into the part.
    await sentence()
      .getByText(/^Heard from 00:00\.[23]\d\d to/)
      .waitFor();
    await fade.fill('nonsense');
    await fade.press('Enter');
    expect(await fade.inputValue()).toBe('2.6');
    await saved(page);
  });

  test('an edit of speech takes the bed along: closing up before the word it holds on to', async () => {
    await goTo(page, 'Booth');
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('[');
    await page.keyboard.press('Home');
    await page.keyboard.press('e');
    await page.keyboard.press('Backspace');
    await page.getByRole('button', { name: /^Undo strike/ }).waitFor();
    await saved(page);
    await goTo(page, 'Finish');
    // The first sentence is struck: another word is the first, and the bed begins half a second before it.
    await sentence()
      .getByText(/^Heard from 00:0[0-4]\.\d\d\d to/)
      .waitFor();
    await page.keyboard.press('Control+z');
    await sentence()
      .getByText(/^Heard from 00:00\.[23]\d\d to/)
      .waitFor();
  });

  test('who speaks when is found and shown; a microphone is made softer while only the other one speaks', async () => {
    const talk = page.getByRole('region', { name: 'Conversation' });
    await talk.getByRole('button', { name: 'Find turns' }).click();
    // Six lines by turns (scripts/demo-data/scenario.ts); each is heard 26 dB softer at the other microphone.
    await talk
      .getByText(/ %, \d\d:\d\d in 3 turns/)
      .nth(1)
      .waitFor();
    await page.locator('[data-testid=sheet][data-turns="6"]').waitFor();
    await strip(page, 'Ines').click({ position: { x: 20, y: 12 } });
    await page.keyboard.press('Shift+U');
    await talk.getByRole('group', { name: 'While only others speak' }).waitFor();
    const levels = await page.getByTestId('sheet').getAttribute('data-levels');
    expect(levels?.match(/-9\b/g)?.length).toBe(6);
    const amount = talk.getByLabel('How far it goes down');
    await amount.fill('6');
    await amount.press('Enter');
    await page.waitForFunction(() =>
      document.querySelector('[data-testid=sheet]')?.getAttribute('data-levels')?.includes('-6'),
    );
    await page.keyboard.press('Escape');
    await talk.getByRole('button', { name: 'Leave it as loud' }).click();
    await talk.getByRole('button', { name: 'Softer while only others speak' }).nth(1).waitFor();
  });

  test('what goes down under speech is written anew when the speech was edited', async () => {
    await page.getByRole('button', { name: 'Let it go down under speech' }).click();
    await page.getByRole('group', { name: 'Under speech' }).waitFor();
    await strip(page, 'Shore').click({ position: { x: 20, y: 12 } });
    const points = async () => page.getByTestId('sheet').getAttribute('data-levels');
    const before = await points();
    expect(before).toMatch(/-12/);
    await goTo(page, 'Booth');
    await page.keyboard.press('Control+a');
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press(']');
    await page.keyboard.press('Backspace');
    await saved(page);
    await goTo(page, 'Finish');
    await page.waitForFunction(
      (old) => document.querySelector('[data-testid=sheet]')?.getAttribute('data-levels') !== old,
      before,
    );
    // No step of its own: what is undone is the strike, and the points are those of before.
    await page.keyboard.press('Control+z');
    await page.waitForFunction(
      (old) => document.querySelector('[data-testid=sheet]')?.getAttribute('data-levels') === old,
      before,
    );
    await page.getByRole('button', { name: 'Do not go down' }).click();
  });

  test('a bed whose file is damaged is taken as far as it is whole, with a word; what is no sound is refused', async () => {
    const beds = page.getByRole('complementary', { name: 'Beds' });
    await page.getByLabel('Add another bed').setInputFiles('public/demo/demo.json');
    await page.getByText(/“demo\.json” is not added: This is not a WAV/).waitFor();
    const whole = readFileSync('public/demo/bed.mp3');
    const cut = path.join(folder, 'cut.mp3');
    writeFileSync(cut, whole.subarray(0, whole.length / 2));
    await page.getByLabel('Add another bed').setInputFiles(cut);
    await page.getByText(/“cut\.mp3” is cut short: what is whole of it is there/).waitFor();
    await beds.getByText('cut', { exact: true }).first().waitFor();
    await page.keyboard.press('Escape');
    await page.getByTestId('sheet').click({ position: { x: 400, y: 30 } });
    await page.keyboard.press('Control+z');
    await saved(page);
  });

  test('a level point is set at the caret, lifted and taken away by keys', async () => {
    await strip(page, 'Shore').click({ position: { x: 20, y: 12 } });
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('p');
    await page.getByRole('button', { name: 'Undo level points of Shore' }).waitFor();
    for (let i = 0; i < 3; i++) await page.keyboard.press('{');
    const points = async () => page.getByTestId('sheet').getAttribute('data-levels');
    expect(await points()).toMatch(/-3$/);
    await page.keyboard.press('Backspace');
    expect(await points()).toBe('');
    await page.keyboard.press('Backspace');
    await page.getByText(/This strip has no level points/).waitFor();
  });
});
