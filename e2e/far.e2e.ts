import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode, fakeDeviceSamples, playedAltogether, speechFile } from './support/audio';
import {
  closeOpened,
  createProject,
  download,
  goTo,
  killBrowser,
  openDemo,
  recorded,
  saved,
  sheetFrames,
  takePlaced,
  type App,
} from './support/app';
import {
  allArrived,
  arrivals,
  closeDialog,
  comeIn,
  cutLine,
  inTheStudio,
  letIn,
  openSession,
  openSide,
  placesAgreeing,
  sayOverLine,
  soundBytes,
  toTheDoor,
} from './support/far';
import { quotaOf } from './support/quota';
import { baseUrl } from './support/server';
import { storedPieces, storedTakes, type StoredTake } from './support/stored';

/**
 * A studio and a talent in two browsers, over loopback addresses alone. The talent's microphone plays a file;
 * what stands on the studio's sheet in the end is what the talent's browser recorded of it, to the sample.
 */
afterEach(closeOpened);

const folder = mkdtempSync(path.join(tmpdir(), 'parola-far-'));

interface Sides {
  studio: App;
  talent: App;
  link: string;
}

async function session(name: string, profiles: { studio?: string; talent?: string } = {}): Promise<Sides> {
  const studio = await openSide({ profile: profiles.studio });
  await createProject(studio.page, name, 'Podcast mono');
  await goTo(studio.page, 'Booth');
  const link = await openSession(studio.page);
  const talent = await openSide({ microphone: speechFile, profile: profiles.talent });
  await comeIn(talent.page, link, 'Mara Quist');
  await letIn(studio.page, talent.page);
  await closeDialog(studio.page);
  return { studio, talent, link };
}

/**
 * A take may have a few hundredths of the line's sound at its ends, where the talent's recording does not
 * reach.
 */
const edge = 22_050;

/** Where 64 frames lie in a recording; −1 where they do not. */
function whereIs(probe: Float32Array, own: Float32Array): number {
  for (let at = 0; at + probe.length <= own.length; at++) {
    let same = 0;
    while (same < probe.length && own[at + same] === probe[same]) same++;
    if (same === probe.length) return at;
  }
  return -1;
}

/** Where in the talent's recording a take lies: all of it but the edges is there, sample for sample. */
function placeIn({ channels: [take] }: StoredTake, { channels: [own] }: StoredTake): number {
  const inner = take.subarray(edge, take.length - edge);
  const middle = inner.length >> 1;
  const at = whereIs(inner.subarray(middle, middle + 64), own);
  if (at < 0) {
    const found = Array.from({ length: 16 }, (_, i) => Math.floor((i / 16) * (take.length - 64)))
      .map((from) => whereIs(take.subarray(from, from + 64), own))
      .join(', ');
    throw new Error(
      `The take (${take.length}) is not what the talent recorded (${own.length}): its sixteenths are at ${found}`,
    );
  }
  const from = at - middle;
  const part = own.subarray(from, from + inner.length);
  expect(part.length).toBe(inner.length);
  expect(Buffer.from(part.slice().buffer).equals(Buffer.from(inner.slice().buffer))).toBe(true);
  return from - edge;
}

/** A recording is what the microphone played, but for the gaps of the fake one when it is short of time. */
function expectPlayed({ channels: [own] }: StoredTake): void {
  expect(playedAltogether(own, fakeDeviceSamples(speechFile))).toBeGreaterThan(own.length / 2);
}

function contains(whole: Float32Array, part: Float32Array): boolean {
  for (let at = 0; at + part.length <= whole.length; at++) {
    if (whole[at] !== part[0] || whole[at + 1] !== part[1]) continue;
    let i = 2;
    while (i < part.length && whole[at + i] === part[i]) i++;
    if (i === part.length) return true;
  }
  return false;
}

test('three takes, one of them with a flub, one over a line that is cut: all of it is what the talent recorded', async () => {
  const { studio, talent } = await session('Three takes');
  const { page } = studio;
  // One.
  await page.keyboard.press('Enter');
  await recorded(page, 4);
  await talent.page.getByTestId('talent-sign').filter({ hasText: 'You are being recorded' }).waitFor();
  await page.keyboard.press('Enter');
  await takePlaced(page);
  await talent.page.getByTestId('talent-sign').filter({ hasText: 'the studio hears you' }).waitFor();
  // Two, over a line that is cut in the middle of it; and a flub.
  await page.keyboard.press('Enter');
  await recorded(page, 3);
  await page.keyboard.press('f');
  await cutLine(talent.page);
  await talent.page.getByTestId('talent-line').filter({ hasText: 'The line is down' }).waitFor();
  await recorded(page, 4);
  await inTheStudio(talent.page);
  await recorded(page, 3);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  // Three.
  await page.keyboard.press('Enter');
  await recorded(page, 4);
  await page.keyboard.press('Enter');
  await takePlaced(page);
  const frames = await sheetFrames(page);
  await allArrived(page, 3);
  await saved(page);
  // Nothing has moved.
  expect(await sheetFrames(page)).toBe(frames);
  const takes = await storedTakes(page);
  const own = await storedTakes(talent.page, 'all', 'far');
  const lines = await storedTakes(page, 'all', 'line');
  expect(own).toHaveLength(3);
  expect((await storedPieces(page)).map(({ source }) => source)).toEqual(takes.map(({ id }) => id));
  for (const [i, take] of takes.entries()) {
    expectPlayed(own[i]);
    placeIn(take, own[i]);
    expect(take.frames).toBe(lines[i].frames);
  }
  // It lies where the sound of the line lay for longest, to a thousandth of a second; where the line was cut
  // there is nothing to compare with.
  for (const i of [0, 2]) {
    const { here, elsewhere } = placesAgreeing(lines[i].channels[0], takes[i].channels[0]);
    expect(here).toBeGreaterThanOrEqual(Math.max(2, elsewhere - 1));
  }
  expect(studio.complaints).toEqual([]);
});

test('the talent’s browser is killed in a take: what it had recorded comes, and it records on under the same take', async () => {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-talent-'));
  const { studio, talent, link } = await session('Talent killed', { talent: profile });
  await studio.page.keyboard.press('Enter');
  await recorded(studio.page, 6);
  killBrowser(profile);
  await talent.close();
  await studio.page.getByLabel('Far away').getByText('away', { exact: true }).waitFor({ timeout: 20_000 });
  const again = await openSide({ microphone: speechFile, profile });
  await again.page.goto(link);
  // Who was let in is known: nothing is asked again.
  await again.page.getByText('Hello Mara Quist').waitFor();
  await toTheDoor(again.page);
  await inTheStudio(again.page);
  await again.page.getByTestId('talent-sign').filter({ hasText: 'You are being recorded' }).waitFor();
  await studio.page.waitForTimeout(3000);
  await studio.page.keyboard.press('Enter');
  await takePlaced(studio.page);
  await allArrived(studio.page, 1);
  const own = await storedTakes(again.page, 'all', 'far');
  expect(own).toHaveLength(2);
  const [take] = await storedTakes(studio.page);
  // Both recordings are in the take: the middle of each is found in it.
  for (const { channels } of own) {
    const middle = channels[0].subarray(channels[0].length >> 1, (channels[0].length >> 1) + 4410);
    expect(contains(take.channels[0], middle)).toBe(true);
  }
  await studio.page.getByText(/were not recorded there/).waitFor();
});

test('the studio’s browser is killed in a take: the talent goes on, and everything comes when it is opened again', async () => {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-studio-'));
  const { studio, talent } = await session('Studio killed', { studio: profile });
  await studio.page.keyboard.press('Enter');
  await recorded(studio.page, 6);
  killBrowser(profile);
  await studio.close();
  await talent.page
    .getByTestId('talent-line')
    .filter({ hasText: 'The line is down' })
    .waitFor({ timeout: 20_000 });
  await talent.page.getByTestId('talent-sign').filter({ hasText: 'You are being recorded' }).waitFor();
  const again = await openSide({ profile });
  await again.page.getByRole('link', { name: 'Studio killed' }).click();
  await again.page.getByText(/is recovered/).waitFor();
  await openSession(again.page);
  await inTheStudio(talent.page);
  await closeDialog(again.page);
  await allArrived(again.page, 1);
  const [take] = await storedTakes(again.page);
  const [own] = await storedTakes(talent.page, 'all', 'far');
  placeIn(take, own);
  // The next one can be recorded.
  await again.page.keyboard.press('Enter');
  await recorded(again.page, 2);
  await again.page.keyboard.press('Enter');
  await takePlaced(again.page);
  await allArrived(again.page, 2);
});

test('whoever else has the link stands at the door and hears nothing, and garbage over the line is dropped: the recording goes on', async () => {
  const { studio, talent, link } = await session('Second');
  const second = await openSide({ microphone: speechFile });
  await comeIn(second.page, link, 'Jonas Bee');
  const door = second.page.getByTestId('talent-line');
  await door.filter({ hasText: 'Wait to be let in' }).waitFor();
  await studio.page.getByLabel('Far away').getByText('is at the door').waitFor();
  expect(
    await second.page.evaluate(
      () => (window as unknown as { lines: { connections: unknown[] } }).lines.connections.length,
    ),
  ).toBe(0);
  // Who is in the session is not disturbed, neither by that nor by what the other side should not say.
  await studio.page.keyboard.press('Enter');
  await recorded(studio.page, 2);
  const nonsense = [
    '',
    'x'.repeat(200_000),
    '{"kind":"format-disk"}',
    '{"kind":"takes","takes":[]}',
    '[1,2',
    '"\u0000"',
  ];
  expect(await sayOverLine(talent.page, 'words', nonsense)).toBe(true);
  await sayOverLine(talent.page, 'blocks', nonsense);
  await recorded(studio.page, 2);
  expect(await talent.page.getByTestId('talent-line').textContent()).toBe('In the studio');
  await sayOverLine(
    talent.page,
    'words',
    Array.from({ length: 300 }, () => '{"kind":"tick","life":7}'),
  );
  // A flood closes the line.
  await talent.page.getByTestId('talent-line').filter({ hasText: 'The line is down' }).waitFor();
  await recorded(studio.page, 1);
  await inTheStudio(talent.page);
  await studio.page.keyboard.press('Enter');
  await takePlaced(studio.page);
  await allArrived(studio.page, 1);
  const [take] = await storedTakes(studio.page);
  const [own] = await storedTakes(talent.page, 'all', 'far');
  placeIn(take, own);
  await studio.page.getByRole('button', { name: 'Session …' }).click();
  await studio.page.getByRole('button', { name: 'Do not let in' }).click();
  await second.page.getByText('The studio has not let you in.').waitFor();
  await second.page.getByText('Your microphone is closed.').waitFor();
  await second.page.getByRole('button', { name: 'Come back' }).click();
  await toTheDoor(second.page);
  await second.page.getByText('The studio has not let you in.').waitFor();
  // Whoever is in the session can be sent away; that ends the microphone.
  await studio.page
    .getByRole('listitem')
    .filter({ hasText: 'Mara Quist' })
    .getByRole('button', { name: 'Send away' })
    .click();
  await talent.page.getByText('Your microphone is closed.').waitFor();
  expect(studio.complaints).toEqual([]);
});

test('without a microphone nobody goes in, and is told what to do; a link that is not whole leads nowhere', async () => {
  const studio = await openSide();
  await createProject(studio.page, 'None', 'Podcast mono');
  await goTo(studio.page, 'Booth');
  const link = await openSession(studio.page);
  const talent = await openSide({ microphone: null });
  await talent.page.goto(link.slice(0, -3));
  await talent.page.getByText('This link leads to no session').waitFor();
  await talent.page.goto('about:blank');
  await talent.page.goto(link);
  await talent.page.getByLabel(/^Your name/).fill('Mara');
  await talent.page.getByRole('button', { name: 'Go on to the microphone' }).click();
  await talent.page.getByText(/Without your consent nothing is recorded/).waitFor();
  await talent.page.getByRole('checkbox', { name: /^I agree/ }).check();
  await talent.page.getByRole('button', { name: 'Go on to the microphone' }).click();
  await talent.page.getByRole('button', { name: 'Choose the microphone' }).click();
  await talent.page.getByRole('alert').filter({ hasText: 'There is no microphone. Plug one in' }).waitFor();
  expect(await talent.page.getByRole('button', { name: 'Go to the studio' }).isDisabled()).toBe(true);
});

test('where the talent’s storage is full the studio is told, keeps the sound of the line, and gets what there is', async () => {
  const { studio, talent } = await session('Full');
  const quota = await quotaOf(talent);
  await studio.page.keyboard.press('Enter');
  await recorded(studio.page, 3);
  // A browser notices some seconds later that it may have no more.
  await quota.leave(100_000);
  await studio.page
    .getByLabel('Far away')
    .getByText(/Recording stopped where the talent is: The disk space/)
    .waitFor({ timeout: 60_000 });
  await talent.page
    .getByRole('alert')
    .filter({ hasText: 'The disk space this browser allows is used up' })
    .waitFor();
  await quota.release();
  await studio.page.keyboard.press('Enter');
  await takePlaced(studio.page);
  await allArrived(studio.page, 1);
  await studio.page.getByText(/were not recorded there/).waitFor();
  // The next one is recorded again.
  await studio.page.keyboard.press('Enter');
  await recorded(studio.page, 2);
  await studio.page.keyboard.press('Enter');
  await takePlaced(studio.page);
  await allArrived(studio.page, 2);
});

test('where nothing can be sent any more the talent saves a file, and the studio puts it into its places', async () => {
  const { studio, talent } = await session('By file');
  await studio.page.keyboard.press('Enter');
  await recorded(studio.page, 3);
  await talent.context.route('**/api/rooms/**', (route) => route.abort());
  await cutLine(talent.page);
  await recorded(studio.page, 3);
  await studio.page.keyboard.press('Enter');
  await takePlaced(studio.page);
  await talent.page.getByRole('button', { name: 'Leave' }).click();
  await talent.page.getByText(/has not reached the studio/).waitFor();
  const file = await download(
    talent.page,
    () => talent.page.getByRole('button', { name: 'Save a file for the studio' }).click(),
    folder,
  );
  expect(path.basename(file)).toBe('Mara-Quist.parola-takes');
  await studio.page.getByRole('button', { name: 'Session …' }).click();
  const other = path.join(folder, 'no.parola-takes');
  writeFileSync(other, 'nothing');
  await studio.page.getByLabel('File from a talent').setInputFiles(other);
  await studio.page.getByText(/This is not a whole file of takes/).waitFor();
  await studio.page.getByLabel('File from a talent').setInputFiles(file);
  await studio.page.getByText(/Mara Quist: 1 recordings have come/).waitFor();
  await allArrived(studio.page, 1);
  const [take] = await storedTakes(studio.page);
  const [own] = await storedTakes(talent.page, 'all', 'far');
  placeIn(take, own);
  // Any other program reads what is in it.
  const listed = execFileSync('unzip', ['-l', file], { encoding: 'utf8' });
  const wav = /audio\/\S+\.wav/.exec(listed)?.[0] ?? '';
  writeFileSync(
    path.join(folder, 'own.wav'),
    execFileSync('unzip', ['-p', file, wav], { maxBuffer: 1 << 28 }),
  );
  const decoded = decode(path.join(folder, 'own.wav'));
  expect(Buffer.from(decoded.buffer).equals(Buffer.from(own.channels[0].slice().buffer))).toBe(true);
});

test('two texts that people send each other open a line where no server is between', async () => {
  const studio = await openSide();
  await createProject(studio.page, 'By hand', 'Podcast mono');
  await goTo(studio.page, 'Booth');
  await openSession(studio.page);
  await studio.page.getByRole('button', { name: 'Without a server' }).click();
  await studio.page.getByRole('button', { name: 'Make a text for a talent' }).click();
  const offer = await studio.page.getByLabel('Text for the talent').inputValue();
  const talent = await openSide({ microphone: speechFile });
  await talent.context.route('**/api/rooms/**', (route) => route.abort());
  await talent.page.goto(`${baseUrl}/talent`);
  await talent.page.getByLabel('Text from the studio').fill('hello');
  await talent.page.getByRole('button', { name: 'Go on' }).click();
  await talent.page.getByText(/This is no text for a line/).waitFor();
  await talent.page.getByLabel('Text from the studio').fill(offer);
  await talent.page.getByRole('button', { name: 'Go on' }).click();
  await talent.page.getByLabel(/^Your name/).fill('Mara Quist');
  await talent.page.getByRole('checkbox', { name: /^I agree/ }).check();
  await talent.page.getByRole('button', { name: 'Go on to the microphone' }).click();
  await toTheDoor(talent.page);
  const answer = await talent.page.getByLabel(/^Send this text back/).inputValue();
  await studio.page.getByLabel('Text that came back').fill(answer.slice(0, -20));
  await studio.page.getByRole('button', { name: 'Open the line' }).click();
  await studio.page.getByText(/not of this session, or not whole/).waitFor();
  await studio.page.getByLabel('Text that came back').fill(answer);
  await studio.page.getByRole('button', { name: 'Open the line' }).click();
  await inTheStudio(talent.page);
  await closeDialog(studio.page);
  await studio.page.getByLabel('Far away').getByText('Mara Quist').waitFor();
  await studio.page.keyboard.press('Enter');
  await recorded(studio.page, 2);
  await studio.page.keyboard.press('Enter');
  await takePlaced(studio.page);
  await allArrived(studio.page, 1);
});

test('two talents and the studio’s own microphone, each on a track of its own', async () => {
  const studio = await openSide({ microphone: speechFile });
  const { page } = studio;
  await createProject(page, 'Interview', 'Podcast mono');
  await goTo(page, 'Booth');
  const link = await openSession(page);
  const talents = [];
  for (const name of ['Mara Quist', 'Jonas Bee']) {
    const talent = await openSide({ microphone: speechFile });
    await comeIn(talent.page, link, name);
    await page.getByRole('button', { name: 'Let in', exact: true }).click();
    await inTheStudio(talent.page);
    talents.push(talent);
  }
  await page.getByText(/in the session · input 2/).waitFor();
  await page.getByRole('switch', { name: /^My own microphone is open/ }).click();
  await page.getByRole('switch', { name: /^They hear me/ }).waitFor();
  await closeDialog(page);
  await page.getByRole('button', { name: 'They hear you' }).waitFor();
  // They hear the studio and each other; with neither of them it is silent.
  const [mara] = talents;
  const heard = async (ms: number) => {
    const before = await soundBytes(mara.page);
    await mara.page.waitForTimeout(ms);
    return (await soundBytes(mara.page)) - before;
  };
  expect(await heard(3000)).toBeGreaterThan(15_000);
  await page.keyboard.press('7');
  await page.getByRole('button', { name: 'Talk', exact: true }).waitFor();
  await page.waitForTimeout(500);
  expect(await heard(3000)).toBeGreaterThan(15_000);
  await talents[1].page.getByRole('button', { name: 'Leave' }).click();
  await page.getByLabel('Far away').getByText('away', { exact: true }).waitFor();
  await mara.page.waitForTimeout(500);
  expect(await heard(3000)).toBeLessThan(10_000);
  await talents[1].page.getByRole('button', { name: 'Come back' }).click();
  await toTheDoor(talents[1].page);
  await inTheStudio(talents[1].page);
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
  const dialog = page.getByRole('dialog');
  for (const [track, input] of [
    ['Voice 2', 'Input 2, Jonas Bee'],
    ['Voice 3', 'Input 5, your own microphone'],
  ]) {
    await dialog.getByRole('button', { name: 'Add a track' }).click();
    await dialog.getByRole('checkbox', { name: `Record ${track}` }).check();
    await dialog
      .getByRole('row')
      .filter({ has: page.getByRole('checkbox', { name: `Record ${track}` }) })
      .getByRole('combobox')
      .click();
    await page.getByRole('option', { name: input, exact: true }).click();
  }
  await page.getByRole('dialog').getByRole('button', { name: 'Done' }).click();
  await page.keyboard.press('Enter');
  await recorded(page, 4);
  for (const talent of talents)
    await talent.page.getByTestId('talent-sign').filter({ hasText: 'You are being recorded' }).waitFor();
  await page.keyboard.press('Enter');
  await takePlaced(page);
  await allArrived(page, 1);
  const [take] = await storedTakes(page);
  expect(take.channels).toHaveLength(3);
  for (const [channel, talent] of talents.entries()) {
    const [own] = await storedTakes(talent.page, 'all', 'far');
    placeIn({ ...take, channels: [take.channels[channel]] }, own);
  }
  expectPlayed({ ...take, channels: [take.channels[2]] });
});

test('a guest who practises speaks a cue, with the picture in step at both ends', async () => {
  const app = await openSide({ microphone: speechFile });
  const { page, context } = app;
  await openDemo(page);
  const before = (await arrivals(page)).laid;
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name: /keepers’ film/ }).click();
  await page.getByTestId('film').waitFor();
  await page.getByRole('button', { name: /^Input:/ }).click();
  const [guest] = await Promise.all([
    context.waitForEvent('page'),
    page.getByRole('menuitem', { name: /^A guest who practises/ }).click(),
  ]);
  await page
    .getByLabel('Far away')
    .getByText(/input 1/)
    .waitFor({ timeout: 30_000 });
  await guest.getByTestId('talent-film').waitFor({ timeout: 30_000 });
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await guest.getByTestId('talent-cue').filter({ hasText: 'What is it, then?' }).waitFor();
  await page.keyboard.press('Enter');
  await guest
    .getByTestId('cue-count')
    .filter({ hasText: /^[123]$/ })
    .waitFor();
  await guest.getByTestId('talent-sign').filter({ hasText: 'You are being recorded' }).waitFor();
  // The picture runs at both ends, there later by what the sound takes to get there.
  const timeOf = (one: Page, id: string) =>
    one.getByTestId(id).evaluate((video) => (video as HTMLVideoElement).currentTime);
  const [here, there] = await Promise.all([timeOf(page, 'film'), timeOf(guest, 'talent-film')]);
  expect(here).toBeGreaterThan(5);
  expect(Math.abs(here - there)).toBeLessThan(0.4);
  await takePlaced(page);
  await allArrived(page, before + 1);
  await page.getByRole('list', { name: 'Takes of cue 2' }).getByRole('listitem').waitFor();
  expect(app.complaints).toEqual([]);
});

test('cue by cue with the picture, in two browsers with different sample rates: each take comes and lies in its cue', async () => {
  const studio = await openSide();
  const { page } = studio;
  await openDemo(page);
  const before = (await arrivals(page)).laid;
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name: /keepers’ film/ }).click();
  await page.getByTestId('film').waitFor();
  const link = await openSession(page);
  const talent = await openSide({ microphone: speechFile });
  await comeIn(talent.page, link, 'Mara Quist');
  await letIn(page, talent.page);
  await closeDialog(page);
  await talent.page.getByTestId('talent-film').waitFor({ timeout: 30_000 });
  for (const text of ['Listen. That is not the wind.', 'What is it, then?']) {
    await page.keyboard.press('Shift+ArrowDown');
    await talent.page.getByTestId('talent-cue').filter({ hasText: text }).waitFor();
    await page.keyboard.press('Enter');
    await talent.page
      .getByTestId('cue-count')
      .filter({ hasText: /^[123]$/ })
      .waitFor();
    await talent.page.getByTestId('talent-sign').filter({ hasText: 'You are being recorded' }).waitFor();
    await takePlaced(page);
  }
  await allArrived(page, before + 2);
  const own = await storedTakes(talent.page, 'all', 'far');
  // The demo is at 48 kHz, the talent's microphone at 44.1: what has come is as long as it was.
  expect(own).toHaveLength(2);
  await page.getByRole('list', { name: 'Takes of cue 2' }).getByRole('listitem').waitFor();
  expect(studio.complaints).toEqual([]);
});
