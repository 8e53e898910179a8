import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { mediainfo } from '@/core/testing/soundFiles';
import {
  chooseInput,
  createProject,
  dialogGone,
  download,
  goTo,
  openApp,
  openDemo,
  saved,
  sheetFrames,
  takePlaced,
  type App,
} from './support/app';
import { baseUrl } from './support/server';
import { filmFile, pictureSeen } from './support/film';
import { noiseFile, noiseRateHz } from './support/noise';
import { noteWhatIsHeard } from './support/listening';
import { lagOf, setSimulatedDevice } from './support/placement';
import { storedPieces, storedTakes } from './support/stored';

/**
 * Cues to a picture: the film follows the sound, a cue is counted in to the sample and lies where it belongs.
 * The film bears the number of each of its pictures; each second of it clicks.
 */
const rate = noiseRateHz;
const list = '.cache/picture-cues.csv';
const rows = [
  'Out;In;Line;Who',
  '00:00:08:10;00:00:06:00;You felt it before you saw it.;Old keeper',
  '00:00:10:20;00:00:09:00;Every stone of it.;Young keeper',
  '00:00:16:05;00:00:12:01;The night the boat came back.;Old keeper',
];
writeFileSync(list, rows.join('\n'));

async function importFilm(page: Page, file: string): Promise<void> {
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles([file]);
  await page.getByText(/As the picture of/).waitFor();
  await page.getByRole('button', { name: 'Import 1 file' }).click();
  await dialogGone(page);
  await saved(page);
}

async function importCues(page: Page): Promise<void> {
  await page.keyboard.press('Shift+Q');
  await page.getByLabel('Cue list').setInputFiles(list);
  await page.getByRole('button', { name: 'Take 3 cues' }).press('Enter');
  await page.getByRole('button', { name: 'Take 3 cues' }).waitFor({ state: 'detached' });
  await page.keyboard.press('Escape');
  await dialogGone(page);
}

/** Waits until the film stands on a picture. */
async function seen(page: Page, number: number): Promise<void> {
  for (let i = 0; i < 100 && (await pictureSeen(page)) !== number; i++) await page.waitForTimeout(50);
  expect(await pictureSeen(page)).toBe(number);
}

/** Notes how long the page draws nothing at all; resolves to the longest time, in milliseconds. */
async function noteGaps(page: Page): Promise<() => Promise<number>> {
  const handle = await page.evaluateHandle(() => {
    const noted = { longest: 0, last: performance.now(), ends: false };
    const draw = (now: number) => {
      noted.longest = Math.max(noted.longest, now - noted.last);
      noted.last = now;
      if (!noted.ends) requestAnimationFrame(draw);
    };
    requestAnimationFrame(draw);
    return noted;
  });
  return () =>
    handle.evaluate((noted) => {
      noted.ends = true;
      return noted.longest;
    });
}

describe('cues to a picture', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await createProject(page, 'Talk', 'Podcast mono');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await importFilm(page, filmFile(20));
    await importCues(page);
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('the part is in step with the film, and choosing a cue brings its very picture', async () => {
    expect(await sheetFrames(page)).toBeGreaterThanOrEqual(20 * rate);
    await page.keyboard.press('Shift+ArrowDown');
    await seen(page, 150);
    await page.keyboard.press('Shift+ArrowDown');
    await seen(page, 225);
    await page.keyboard.press('Shift+ArrowDown');
    await seen(page, 301);
    await page.keyboard.press('Home');
    await seen(page, 0);
  });

  test('while it runs each picture is seen within one picture of its sound', async () => {
    await page.keyboard.press('Home');
    const noted = await noteWhatIsHeard(page);
    const longestGap = await noteGaps(page);
    await page.keyboard.press('Space');
    await page.waitForTimeout(7000);
    await page.keyboard.press('Escape');
    const gapMs = await longestGap();
    const { sounds, pictures } = await noted();
    // The film's own clicks, a second apart, and the pictures that flash with them; the first one has stood
    // there since before it ran.
    const flashes = pictures.filter(
      ({ mediaSeconds }) => mediaSeconds > 0.5 && Math.abs(mediaSeconds - Math.round(mediaSeconds)) < 0.02,
    );
    const late = sounds.flatMap(({ atMs }) => {
      const nearest = flashes
        .map(({ shownMs }) => shownMs - atMs)
        .sort((a, b) => Math.abs(a) - Math.abs(b))[0];
      return nearest === undefined || Math.abs(nearest) > 500 ? [] : [nearest];
    });
    expect(late.length).toBeGreaterThanOrEqual(4);
    if (process.env.PAROLA_TELL) console.log(late);
    // A machine that is busy draws one late: it is told by the middle one, and none is far off but for as
    // long as nothing at all was drawn.
    const sorted = late.map(Math.abs).sort((a, b) => a - b);
    expect(sorted[sorted.length >> 1]).toBeLessThan(40);
    expect(sorted[sorted.length - 1]).toBeLessThan(120 + gapMs);
  });

  test('a dry run is counted in by three beeps, and records nothing', async () => {
    await page.keyboard.press('Home');
    for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowDown');
    const noted = await noteWhatIsHeard(page);
    // When the sweep has arrived, and the seconds that are left are told in its place.
    const arrived = page.evaluate(
      () =>
        new Promise<number>((resolve) => {
          requestAnimationFrame(function look() {
            if (document.querySelector('[data-testid=cue-rest]')?.textContent) resolve(performance.now());
            else requestAnimationFrame(look);
          });
        }),
    );
    await page.keyboard.press('/');
    await page.getByTestId('cue-count').getByText('2').waitFor();
    await page.getByRole('region', { name: 'Picture' }).getByText('The night the boat came back.').waitFor();
    await page.getByRole('button', { name: /^Dry run/ }).waitFor();
    const { sounds } = await noted();
    expect(await page.getByRole('tab', { name: 'Takes 0' }).count()).toBe(1);
    // Cue 3 begins a picture after a click of the film: beeps are those that follow each other to the frame.
    const at = new Set(sounds.map(({ frame }) => frame));
    const first = [...at].find((frame) => at.has(frame + rate) && at.has(frame + 2 * rate));
    expect(first).toBeDefined();
    expect(at.has((first ?? 0) + 3 * rate)).toBe(false);
    const fourth = sounds.find(({ frame }) => frame === first);
    expect(Math.abs((await arrived) - ((fourth?.atMs ?? 0) + 3000))).toBeLessThan(100);
    // The line begins where the fourth would fall: a second less a picture later the film clicks.
    const click = (first ?? 0) + 3 * rate + 0.96 * rate;
    const nearest = Math.min(...[...at].map((frame) => Math.abs(frame - click)));
    expect(nearest).toBeLessThan(0.005 * rate);
  });

  test('the picture in a window of its own has what the talent needs, and follows as well', async () => {
    const opening = page.waitForEvent('popup');
    await page.keyboard.press('#');
    const window = await opening;
    await window.getByText('The night the boat came back.').waitFor();
    expect(await page.getByTestId('film').count()).toBe(0);
    await page.keyboard.press('/');
    await window.getByTestId('cue-count').getByText('2').waitFor();
    expect(await window.getByTestId('film').evaluate((film: HTMLVideoElement) => film.paused)).toBe(false);
    await page.keyboard.press('/');
    await page.getByRole('button', { name: /^Dry run/ }).waitFor();
    const closing = window.waitForEvent('close');
    await page.keyboard.press('#');
    await closing;
    await page.getByTestId('film').waitFor();
  });

  test('two takes, one circled and fitted, done, the next: by keys alone', async () => {
    await page.keyboard.press('Home');
    await page.keyboard.press('Shift+ArrowDown');
    const takes = page.getByRole('list', { name: 'Takes of cue 1' }).getByRole('listitem');
    for (const number of [1, 2]) {
      await page.keyboard.press('Enter');
      await page.getByRole('button', { name: /^Stop recording/ }).waitFor();
      await page
        .getByTestId('cue-rest')
        .getByText(/^1\.\d s$/)
        .waitFor();
      await takePlaced(page);
      await takes
        .nth(number - 1)
        .getByText(/LUFS · (on time|\d+ ms (late|early))/)
        .waitFor();
    }
    await takes.nth(1).getByText('heard').waitFor();
    await page.keyboard.press('(');
    await takes.nth(0).getByText('heard').waitFor();
    await page.keyboard.press('9');
    await page.getByRole('button', { name: 'Take the circle off take 1 of cue 1' }).waitFor();
    await page.keyboard.press('0');
    await page.getByText(/^Take 1 is fitted/).waitFor();
    const fitted = takes.filter({ hasText: 'heard' });
    await fitted.getByText('on time').waitFor();
    await page.keyboard.press('Control+z');
    await takes.nth(0).getByText('heard').waitFor();
    await page.keyboard.press('Shift+C');
    await page.getByText('done ✓', { exact: true }).waitFor();
    await page.keyboard.press('Shift+N');
    await page.getByRole('button', { name: /^Record: Cue 2 take 1/ }).waitFor();
    await saved(page);
  });

  test('files of cues lie on the timecode to the sample, lists and a page go with them', async () => {
    const folder = mkdtempSync(path.join(tmpdir(), 'parola-cue-files-'));
    await page.keyboard.press('Shift+Q');
    await page.getByLabel('The part begins at').fill('10:00:00:00');
    await page.keyboard.press('Enter');
    await page.getByRole('gridcell', { name: '10:00:06:00' }).waitFor();
    await page.getByRole('button', { name: 'Proof …' }).click();
    await page.getByText('Cue 2 is not recorded.').waitFor();
    await page.getByRole('button', { name: 'Close', exact: true }).click();
    const open = async () => {
      await page.getByRole('button', { name: 'Files …' }).click();
      return page.getByRole('dialog', { name: 'Cues as files' });
    };
    const dialog = await open();
    await dialog.getByText('1 file, the first Talk_1_Old-keeper_1.wav').waitFor();
    const wav = await download(
      page,
      () => dialog.getByRole('button', { name: 'Write 1 file' }).click(),
      folder,
    );
    const told = JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-show_format', '-show_streams', '-of', 'json', wav], {
        encoding: 'utf8',
      }),
    ) as { format: { tags: { time_reference: string } }; streams: { duration_ts: number }[] };
    // Ten hours of picture, then half a second before a line that begins at six seconds.
    expect(Number(told.format.tags.time_reference)).toBe(36_000 * rate + 5.5 * rate);
    expect(Number(mediainfo(wav, 'Audio;%Delay%'))).toBe(1000 * (36_000 + 5.5));
    // It ends where the next line begins.
    expect(told.streams[0].duration_ts).toBe(3.5 * rate);
    const save = async (name: string) => {
      await page.getByRole('button', { name: 'Save as …' }).click();
      return download(page, () => page.getByRole('menuitem', { name }).click(), folder);
    };
    const takes = readFileSync(await save('Takes, as CSV'), 'utf8').split('\r\n');
    expect(takes[1]).toMatch(/^1,Old keeper,1,10:00:05:12,10:00:09:10,3\.9,-\d+(\.\d)?,/);
    expect(takes[2]).toMatch(/^1,Old keeper,2,/);
    expect(readFileSync(await save('Page to print'), 'utf8')).toContain('You felt it before you saw it.');
  });

  test('the picture goes out with the new line in it: its pictures as they were, its sound in step', async () => {
    const folder = mkdtempSync(path.join(tmpdir(), 'parola-film-'));
    await page.getByRole('button', { name: 'Files …' }).click();
    const dialog = page.getByRole('dialog', { name: 'Cues as files' });
    await dialog.getByLabel('A file for').click();
    await page.getByRole('option', { name: 'the picture, with the new lines in it' }).click();
    await dialog.getByLabel('Its own sound while a line is heard').click();
    await page.getByRole('option', { name: 'as it is' }).click();
    const film = await download(
      page,
      () => dialog.getByRole('button', { name: 'Write the film' }).click(),
      folder,
    );
    const hashes = (file: string) =>
      execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-map', '0:v', '-f', 'framemd5', '-'], {
        encoding: 'utf8',
      })
        .split('\n')
        .filter((line) => line && !line.startsWith('#'))
        .map((line) => line.split(',').pop());
    expect(hashes(film)).toEqual(hashes(filmFile(20)));
    const pcm = execFileSync(
      'ffmpeg',
      ['-v', 'error', '-i', film, '-map', '0:a', '-ac', '1', '-ar', '48000', '-f', 'f32le', '-'],
      { maxBuffer: 1 << 28 },
    );
    const sound = new Float32Array(pcm.buffer.slice(pcm.byteOffset, pcm.byteOffset + pcm.byteLength));
    // The film's clicks where nobody speaks: at 12 to 18 s, each with the picture that flashes then.
    for (let second = 12; second < 18; second++) {
      const around = sound.subarray((second - 0.2) * 48_000, (second + 0.2) * 48_000);
      const loudest = around.reduce(
        (best, value, i) => (Math.abs(value) > Math.abs(around[best]) ? i : best),
        0,
      );
      expect(Math.abs(loudest / 48_000 - 0.2)).toBeLessThan(0.04);
    }
    await page.getByRole('button', { name: 'Done', exact: true }).last().click();
    await dialogGone(page);
  });
});

test('the demo’s keepers are spoken cue by cue: the first time one goes wrong, the second time it does not', async () => {
  const app = await openApp();
  const { page } = app;
  await openDemo(page);
  await page.getByRole('button', { name: /^Part: / }).click();
  await page.getByRole('menuitem', { name: /keepers’ film/ }).click();
  await chooseInput(page, 'Cue by cue');
  await page.getByTestId('film').waitFor();
  for (let i = 0; i < 5; i++) await page.keyboard.press('Shift+ArrowDown');
  const takes = page.getByRole('list', { name: 'Takes of cue 5' }).getByRole('listitem');
  for (const number of [1, 2]) {
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: /^Stop recording/ }).waitFor();
    await takePlaced(page);
    await takes.nth(number - 1).waitFor();
  }
  await takes
    .nth(0)
    .getByText(/[12]\.\d s too short/)
    .waitFor();
  await takes
    .nth(1)
    .getByText(/\d+ ms late|on time/)
    .waitFor();
  expect(
    await takes
      .nth(1)
      .getByText(/s too short/)
      .count(),
  ).toBe(0);
  // The list of projects says how far it is.
  await page.keyboard.press('Shift+C');
  await saved(page);
  await page.goto(baseUrl);
  await page.getByText('1 of 12 cues done').waitFor();

  // A film of 23.976 pictures a second that has no sound.
  await createProject(page, 'Mute', 'Podcast mono');
  await goTo(page, 'Booth');
  await importFilm(page, filmFile(10, { rate: '24000/1001', container: 'webm', sound: false }));
  await page.getByTestId('film').waitFor();
  await page.keyboard.press('End');
  await seen(page, 239);
  await page.keyboard.press('Shift+Q');
  await page.getByLabel('Pictures a second').getByText('23.976').waitFor();
  await app.close();
  expect(app.complaints).toEqual([]);
});

test('at any delay of the device the line lies where it was said, and the beeps where they belong, to the frame', async () => {
  const app = await openApp();
  const { page } = app;
  const guide = noiseFile(20, 91);
  await createProject(page, 'Placed', 'Podcast mono');
  await goTo(page, 'Booth');
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles([guide.file]);
  await page.getByLabel('Where to').click();
  await page.getByRole('option', { name: /As a guide/ }).click();
  await page.getByRole('button', { name: 'Import 1 file' }).click();
  await dialogGone(page);
  await importCues(page);
  await page.keyboard.press('Shift+ArrowDown');
  for (const [index, delay] of [0, 4801].entries()) {
    await setSimulatedDevice(page, delay);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: /^Stop recording/ }).waitFor();
    // It ends by itself, and the next one can be recorded.
    await takePlaced(page);
    await page.getByRole('button', { name: `Record: Cue 1 take ${index + 2}` }).waitFor();
    const take = (await storedTakes(page))[index];
    let at = 0;
    for (const { source, length } of await storedPieces(page)) {
      if (source === take.id) break;
      at += length;
    }
    // Half a second before the line to a second after it.
    expect(at).toBe(5.5 * rate);
    expect(take.channels[0].length - take.handleFrames).toBeGreaterThanOrEqual((0.5 + 2.4 + 1) * rate);
    // The guide it heard during the line lies on the guide.
    const line = take.handleFrames + rate / 2;
    const said = take.channels[0].subarray(line, line + rate);
    expect(lagOf(said, guide.channels[0].subarray(6 * rate, 7 * rate))).toBe(0);
    // A second before the line there is more than the guide: the third beep.
    const handle = take.channels[0].subarray(0, line);
    const before = guide.channels[0].subarray(6 * rate - handle.length, 6 * rate);
    const beep = handle.map((value, i) => value - before[i]);
    const first = beep.findIndex((value) => Math.abs(value) > 0.004);
    // A beep begins with a ramp from 0: its first frames are too small to tell.
    expect(first - (line - rate)).toBeGreaterThanOrEqual(0);
    expect(first - (line - rate)).toBeLessThan(30);
  }
  await app.close();
  expect(app.complaints).toEqual([]);
});
