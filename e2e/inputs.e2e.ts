import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { noise, writeWav } from '@/core/testing/signals';
import { decode, probe } from './support/audio';
import {
  chooseFileInput,
  chooseInput,
  closeOpened,
  createProject,
  dialogGone,
  download,
  goTo,
  openApp,
  recordFor,
  recorded,
  takePlaced,
} from './support/app';
import { differencesFrom, noiseFile, noiseRateHz } from './support/noise';
import { mutedFile, promptsFile } from './support/prompts';
import { storedOpenPart, storedTakes } from './support/stored';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-inputs-'));
afterEach(closeOpened);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

async function inputSettings(page: Page) {
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
  return page.getByRole('dialog');
}

async function done(page: Page) {
  await page.getByRole('button', { name: 'Done' }).click();
  await dialogGone(page);
}

test('two microphones, two speakers: each input arrives on its own named track, sample by sample, and as Broadcast WAV', async () => {
  const noise = noiseFile(60, 9, 2);
  const app = await openApp();
  const { page } = app;
  await createProject(page, 'Two inputs', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseFileInput(page, noise.file);
  const dialog = await inputSettings(page);
  await dialog.getByText(/grants: 2 inputs · 44\.1 kHz/).waitFor();
  await dialog.getByRole('button', { name: 'Add a track' }).click();
  await dialog.getByLabel('Name of track 1').fill('Ada');
  await dialog.getByLabel('Name of track 2').fill('Berthe');
  await dialog.getByLabel('Name of track 2').blur();
  await done(page);
  await page
    .getByRole('button', { name: /^Record: / })
    .getByText('take 1 · Ada + Berthe · at the end')
    .waitFor();
  await recordFor(page, 4);
  const [take] = await storedTakes(page);
  expect(take.channels).toHaveLength(2);
  for (const [channel, recorded] of take.channels.entries()) {
    const own = recorded.subarray(take.handleFrames, take.handleFrames + 3.8 * 44_100);
    expect(differencesFrom(own, noise.channels[channel])).toEqual({ at: 0, different: 0 });
  }
  // A second take, to have a time position that is not zero.
  await recordFor(page, 1);
  const before = (await storedTakes(page))[0];
  await page.getByRole('tab', { name: 'Takes 2' }).click();
  await page.getByRole('checkbox', { name: 'Select Take 2' }).check();
  await page.getByRole('button', { name: 'Export 1 …' }).click();
  await page.getByLabel('Format').click();
  await page.getByRole('option', { name: /32-bit float/ }).click();
  const archive = await download(
    page,
    () => page.getByRole('button', { name: 'Export', exact: true }).click(),
    folder,
  );
  execFileSync('unzip', ['-q', archive, '-d', folder]);
  const files = readdirSync(folder)
    .filter((name) => name.endsWith('.wav'))
    .sort();
  expect(files).toEqual(['Two-inputs_Part-1_Take-2_Ada.wav', 'Two-inputs_Part-1_Take-2_Berthe.wav']);
  const [, second] = await storedTakes(page);
  const length = before.frames - before.handleFrames - Math.round(0.5 * 44_100);
  for (const [channel, name] of files.entries()) {
    const file = path.join(folder, name);
    const { tags, sampleRate } = probe(file);
    expect(sampleRate).toBe(44_100);
    expect(tags.encoded_by).toMatch(/^Parola /);
    // The take begins where the first one ends; its own handle after the end is half a second at most.
    expect(Math.abs(Number(tags.time_reference) - length)).toBeLessThan(0.05 * 44_100);
    const samples = decode(file);
    const stored = second.channels[channel];
    expect(samples.every((value, i) => value === stored[second.handleFrames + i])).toBe(true);
  }
  expect(app.complaints).toEqual([]);
  await app.close();
});

test('“keep going” with two microphones: both go on in the next part, without a sample between, each part with its own lines', async () => {
  const noise = noiseFile(60, 9, 2);
  const app = await openApp();
  const { page } = app;
  await createProject(page, 'Going on', 'Podcast mono');
  const script = page.getByRole('textbox', { name: 'Script', exact: true });
  await script.fill('Ada asks.\nBerthe answers.');
  await page.getByRole('button', { name: 'Add a part' }).click();
  await page.getByRole('list', { name: 'Parts' }).locator('[aria-current=true]').getByText('2').waitFor();
  await script.fill('Ada asks on.');
  await page.getByRole('list', { name: 'Parts' }).getByRole('listitem').first().click();
  await goTo(page, 'Booth');
  await chooseFileInput(page, noise.file);
  const dialog = await inputSettings(page);
  await dialog.getByRole('button', { name: 'Add a track' }).click();
  await dialog.getByLabel('Name of track 2').waitFor();
  await done(page);
  await page.getByRole('button', { name: /^Run-up/ }).click();
  await page.getByRole('switch', { name: /keep going/ }).click();
  await page.keyboard.press('Escape');
  await dialogGone(page);

  /** Two takes in one go, the second in the part that follows. */
  const recordOver = async (next: RegExp) => {
    await page.keyboard.press('Enter');
    await recorded(page, 1.5);
    await page.keyboard.press('p');
    await page.getByRole('button', { name: next }).waitFor();
    await recorded(page, 1.2);
    await page.keyboard.press('Enter');
    await takePlaced(page);
  };
  /**
   * What is stored of a part's takes: every stave has the noise of its microphone; returns where in it the
   * part begins and ends.
   */
  const placesOf = async (which: 'first' | 'last') => {
    const { timeline } = await storedOpenPart(page, which);
    const takes = await storedTakes(page);
    expect(timeline.tracks).toHaveLength(2);
    return timeline.tracks.map(({ pieces }, channel) => {
      const { source, from, length } = pieces[pieces.length - 1];
      const audio = takes.find(({ id }) => id === source)?.channels[channel] ?? new Float32Array(0);
      const { at, different } = differencesFrom(audio.subarray(from, from + length), noise.channels[channel]);
      expect(different).toBe(0);
      expect(length).toBeGreaterThan(noiseRateHz);
      return { from: at, to: at + length };
    });
  };
  const linesOf = async (which: 'first' | 'last') =>
    (await storedOpenPart(page, which)).timeline.marks.filter(({ kind }) => kind === 'line');

  await recordOver(/^Part: Part 2/);
  const [first, second] = [await placesOf('first'), await placesOf('last')];
  expect(first[0]).toEqual(first[1]);
  expect(second[0]).toEqual(second[1]);
  expect(second[0].from).toBe(first[0].to);
  const [own, following] = [await linesOf('first'), await linesOf('last')];
  expect(own).toHaveLength(1);
  expect(following).toHaveLength(1);
  expect(following[0].line).not.toBe(own[0].line);
  expect(following[0].at).toBe(0);

  // From the last part into one that is not there yet: it gets both staves.
  await recordOver(/^Part: Part 3/);
  const third = await placesOf('last');
  expect(third[0]).toEqual(third[1]);
  expect(await linesOf('last')).toHaveLength(0);
  await page.getByRole('tab', { name: 'Takes 1' }).waitFor();
  expect(app.complaints).toEqual([]);
  await app.close();
});

test('a muted microphone is found in seconds, before and while recording', async () => {
  const app = await openApp({ microphone: mutedFile });
  const { page } = app;
  await createProject(page, 'Muted', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Microphone');
  await page.getByTestId('level-word').filter({ hasText: 'No signal' }).waitFor({ timeout: 6000 });
  await page.keyboard.press('Enter');
  await recorded(page, 0);
  await page.getByText(/Nothing comes from the input for Voice/).waitFor({ timeout: 6000 });
  await page.keyboard.press('Enter');
  await takePlaced(page);
  await app.close();
});

test('the microphone of the last session is not there: Record is off and says which is missing; nothing is taken in its place', async () => {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-missing-'));
  const first = await openApp({ profile });
  await createProject(first.page, 'Missing', 'Podcast mono');
  await goTo(first.page, 'Booth');
  await chooseInput(first.page, 'Microphone');
  const label = (await first.page.getByRole('button', { name: /^Input:/ }).textContent()) ?? '';
  const name = label.split(' · ')[0];
  await first.page.waitForTimeout(500);
  await first.close();
  const second = await openApp({ profile, microphone: null });
  await second.page.getByRole('link', { name: 'Missing' }).click();
  const record = second.page.getByRole('button', { name: /^Record: / });
  await record.getByText(`“${name}” is not there`).waitFor();
  await expect(record.isDisabled()).resolves.toBe(true);
  await chooseInput(second.page, 'Practice reader');
  await record.getByText('take 1 · at the end').waitFor();
  await second.close();
  rmSync(profile, { recursive: true, force: true });
});

test('a sound file as input plays into the recording, bit by bit; what is no sound is refused', async () => {
  const app = await openApp();
  const { page } = app;
  const sound = noise(48_000 * 3, -20, 5);
  const file = writeWav(path.join(folder, 'line-out.wav'), 48_000, [sound]);
  const text = path.join(folder, 'notes.wav');
  writeFileSync(text, 'this is no sound');
  await createProject(page, 'Transfer', 'Dry voice');
  await goTo(page, 'Booth');
  await page.getByLabel('Sound file as input').setInputFiles(text);
  await page.getByText(/“notes\.wav” could not be read as audio/).waitFor();
  await page.getByLabel('Sound file as input').setInputFiles(file);
  await page.getByRole('button', { name: /^Input: line-out\.wav · mono · 48 kHz/ }).waitFor();
  await recordFor(page, 2);
  const [take] = await storedTakes(page);
  const recorded = take.channels[0].subarray(take.handleFrames);
  expect(recorded.length).toBeGreaterThan(1.8 * 48_000);
  const compared = recorded.subarray(0, Math.round(1.7 * 48_000));
  expect(compared.every((value, i) => value === sound[i])).toBe(true);
  await app.close();
});

test('clips that were cleared stay cleared when the window changes; later ones are told', async () => {
  const file = path.join(folder, 'clips.wav');
  const voice = noise(6 * noiseRateHz, -30, 5).map((value, i) => (i % 4000 < 3 ? 1 : value));
  writeWav(file, noiseRateHz, [voice]);
  const { page } = await openApp();
  await createProject(page, 'Clips', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseFileInput(page, file);
  await recordFor(page, 1.5);
  const clipped = page.getByTestId('level-clipped');
  const count = async () => Number(await clipped.textContent());
  await page.waitForTimeout(300);
  expect(await count()).toBeGreaterThan(10);
  await clipped.click();
  await page.waitForTimeout(300);
  expect(await count()).toBe(0);
  await page.setViewportSize({ width: 1120, height: 700 });
  await page.waitForTimeout(500);
  expect(await count()).toBe(0);
  await recordFor(page, 1);
  await page.waitForTimeout(300);
  expect(await count()).toBeGreaterThan(10);
});

test('monitoring is off, says how late it would be, and warns of hearing oneself twice; a second stave can be a stereo pair', async () => {
  const app = await openApp({ microphone: promptsFile });
  const { page } = app;
  await createProject(page, 'Hearing', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Microphone');
  const dialog = await inputSettings(page);
  await dialog
    .getByTestId('round-trip')
    .filter({ hasText: /Estimated: \d+\.\d ms/ })
    .waitFor();
  const monitor = dialog.getByRole('switch', { name: /Hear yourself through Parola, \d+\.\d ms late/ });
  await expect(monitor.isChecked()).resolves.toBe(false);
  await monitor.click();
  await dialog.getByText(/you would hear yourself twice/).waitFor();
  await monitor.click();
  // Nothing of what is played comes back through the fake microphone: the check says so and claims nothing.
  await dialog.getByRole('button', { name: 'Loopback check' }).click();
  await page.getByText(/The clicks did not come back/).waitFor({ timeout: 15_000 });
  await dialog
    .getByTestId('round-trip')
    .filter({ hasText: /Estimated/ })
    .waitFor();
  await dialog.getByRole('button', { name: 'Stereo pair' }).click();
  await dialog.getByRole('button', { name: 'left', exact: true }).waitFor();
  await dialog.getByRole('button', { name: 'right', exact: true }).waitFor();
  await done(page);
  await page
    .getByRole('button', { name: /^Record: / })
    .getByText('take 1 · Left + Right · at the end')
    .waitFor();
  await recordFor(page, 1);
  expect((await storedTakes(page))[0].channels).toHaveLength(2);
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
  await page.getByRole('button', { name: /^Play( |$)/ }).waitFor();
  expect(app.complaints).toEqual([]);
  await app.close();
});
