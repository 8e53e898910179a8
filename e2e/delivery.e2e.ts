import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { findSpec } from '@/core/specs/builtIn';
import { specFromJson, specToJson } from '@/core/specs/specFile';
import type { Spec } from '@/core/specs/spec';
import { ffprobe, mediainfo } from '@/core/testing/soundFiles';
import { proofFile } from '@/node/proofFile';
import { choose, dialogGone, download, goTo, openApp, openDemo, saved, type App } from './support/app';
import { decode } from './support/audio';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-delivery-'));

function specOf(name: string): Spec {
  const spec = findSpec(name);
  if (!spec) throw new Error(`no spec ${name}`);
  return spec;
}

const exportTo = (page: Page) =>
  download(page, () => page.getByRole('button', { name: /^Export \d/ }).click(), folder);

const measured = (page: Page) => page.getByText(/of 8 parts pass/).waitFor({ timeout: 60_000 });

describe('making the demo pass, by keyboard and pointer', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
    await goTo(page, 'Proof');
    await measured(page);
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('a fault opens the Booth at its place', async () => {
    await page.getByRole('button', { name: /^Open the Booth at 00:02\.3/ }).click();
    await page.waitForURL(/booth$/);
    await page.getByTestId('sheet').waitFor();
    await goTo(page, 'Proof');
    await measured(page);
  });

  test('each fault offers its fix, and one fix covers two faults', async () => {
    await page.getByRole('button', { name: 'Limit at −3.6 dBTP' }).waitFor({ timeout: 60_000 });
    await page.getByRole('button', { name: 'Extend by 0.55 s of room tone' }).waitFor();
    await page.getByText(/^Rehearsed: RMS −19\.\d dBFS, Sample peak −\d\.\d dBFS, Room/).waitFor();
  });

  test('“Make it pass” does both; what is measured afterwards is what was predicted, and so is the written file', async () => {
    await page.getByRole('button', { name: 'Make it pass: 2 fixes' }).click();
    await page.getByText('3 of 8 parts pass').waitFor({ timeout: 60_000 });
    await page.getByText(/measured afterwards: (exactly|within 0\.0\d dB of) what was predicted/).waitFor();
    const shown = (await page.getByTestId('proof-3').textContent()) ?? '';
    await choose(page, 'What', 'The open part');
    const file = await exportTo(page);
    const proof = await proofFile(file, specOf('Audiobook retail'));
    expect(proof.passes).toBe(true);
    expect(proof.samplePeakDbfs).toBeLessThanOrEqual(-3);
    const rms = Number(/−(\d\d\.\d)/.exec(shown)?.[1]);
    expect(Math.abs(-rms - (proof.rmsDbfs ?? 0))).toBeLessThan(0.15);
    await page.getByText(/written, read back, and all of it passes/).waitFor();
    await page.getByRole('button', { name: 'Last export: 1 of 1 files pass' }).waitFor();
  });

  test('undo in the Booth takes it back, redo does it again', async () => {
    await goTo(page, 'Booth');
    await page.keyboard.press('Control+z');
    await goTo(page, 'Proof');
    await page.getByText('2 of 8 parts pass').waitFor({ timeout: 60_000 });
    await goTo(page, 'Booth');
    await page.keyboard.press('Control+y');
    await goTo(page, 'Proof');
    await page.getByText('3 of 8 parts pass').waitFor({ timeout: 60_000 });
    await saved(page);
  });

  test('where the limiter would have to take too much, it says so and what would help', async () => {
    await page.getByRole('button', { name: 'Take off' }).click();
    await page.getByText(/Sample peak −0\.4 dBFS is/).waitFor({ timeout: 60_000 });
    await page.getByRole('button', { name: /Limit at/ }).waitFor({ timeout: 60_000 });
    await choose(page, 'The limiter may take', 'at most 1 dB');
    // Lowering does it as well: the level has room to go down.
    await page.getByRole('button', { name: /^Lower \d\.\d dB/ }).waitFor({ timeout: 60_000 });
    await choose(page, 'The limiter may take', 'at most 6 dB');
    await page.getByRole('button', { name: /^Limit at/ }).waitFor({ timeout: 60_000 });
  });

  test('“Make every part pass” goes through all of them', async () => {
    await page.getByRole('button', { name: 'Make every part pass' }).click();
    await page.getByText(/^Fixed: /).waitFor({ timeout: 90_000 });
    await page.getByText('5 of 8 parts pass').waitFor({ timeout: 60_000 });
  });

  test('levels and spectrum have charts of their own', async () => {
    await page.getByRole('button', { name: 'Levels' }).click();
    await page.getByRole('img', { name: 'How long the part is at each level' }).waitFor();
    await page.getByRole('button', { name: 'Spectrum' }).click();
    await page.getByRole('img', { name: 'Long-term spectrum' }).waitFor({ timeout: 30_000 });
    await page.getByRole('button', { name: 'Over time' }).click();
  });

  test('into a folder when the browser has no room for files of its own: the same files, and nothing besides', async () => {
    const contents = (name: string) =>
      page.evaluate(async (wanted) => {
        const root = await navigator.storage.getDirectory();
        const chosen = await root.getDirectoryHandle(wanted);
        const files: [string, number, string][] = [];
        for await (const [file, handle] of (
          chosen as unknown as { entries(): AsyncIterable<[string, FileSystemFileHandle]> }
        ).entries()) {
          const bytes = await (await handle.getFile()).arrayBuffer();
          const sum = await crypto.subtle.digest('SHA-256', bytes);
          files.push([file, bytes.byteLength, Array.from(new Uint8Array(sum)).join()]);
        }
        return files.sort(([a], [b]) => (a < b ? -1 : 1));
      }, name);
    await page.evaluate(() => {
      const { storage } = navigator;
      const estimate = storage.estimate.bind(storage);
      let asked = 0;
      window.showDirectoryPicker = async () =>
        (await storage.getDirectory()).getDirectoryHandle(++asked === 1 ? 'roomy' : 'full', { create: true });
      // The first time there is room, the second time there is none.
      storage.estimate = () => (asked < 2 ? estimate() : Promise.resolve({ quota: 10, usage: 10 }));
    });
    await choose(page, 'What', 'The open part');
    await choose(page, 'Where to', 'A folder');
    for (const name of ['roomy', 'full']) {
      await page.getByRole('button', { name: /^Export 1 file/ }).click();
      await page.getByText(new RegExp(`^The folder “${name}”: written`)).waitFor({ timeout: 90_000 });
    }
    const [roomy, full] = [await contents('roomy'), await contents('full')];
    expect(full).toHaveLength(1);
    expect(full[0][1]).toBeGreaterThan(100_000);
    expect(full).toEqual(roomy);
    await page.reload();
    await page.getByRole('button', { name: /^Export/ }).waitFor();
  });

  test('into a folder: files, marks, script and report, named as wanted', async () => {
    // The browser’s dialog cannot be used without a person: the private file system stands in for the folder.
    await page.evaluate(() => {
      window.showDirectoryPicker = async () =>
        (await navigator.storage.getDirectory()).getDirectoryHandle('chosen', { create: true });
    });
    await choose(page, 'What', 'All parts, one file each');
    await page.getByLabel('Name of each file').fill('{spec} {nn} {part}');
    await page.getByLabel('With the audio').click();
    for (const name of ['Marks as CSV', 'Marks as WebVTT', 'Script with times'])
      await page.getByRole('option', { name }).click();
    await page.keyboard.press('Escape');
    await choose(page, 'Where to', 'A folder');
    await page.getByRole('button', { name: /^Export 5 files/ }).click();
    await page.getByText(/^The folder “chosen”: written/).waitFor({ timeout: 90_000 });
    const written = await page.evaluate(async () => {
      const root = await navigator.storage.getDirectory();
      const chosen = await root.getDirectoryHandle('chosen');
      const files: [string, string][] = [];
      for await (const [name, handle] of (
        chosen as unknown as { entries(): AsyncIterable<[string, FileSystemFileHandle]> }
      ).entries())
        files.push([name, /\.(csv|vtt|txt)$/.test(name) ? await (await handle.getFile()).text() : '']);
      return files.sort(([a], [b]) => (a < b ? -1 : 1));
    });
    const names = written.map(([name]) => name);
    expect(names).toEqual(
      expect.arrayContaining([
        'Audiobook-retail-01-Arrival.mp3',
        'Audiobook-retail-03-The-stair.mp3',
        'Audiobook-retail-03-The-stair.vtt',
        'Audiobook-retail-03-The-stair_marks.csv',
        'Audiobook-retail-03-The-stair_script.txt',
        'The-Lamp-House_report.html',
        'The-Lamp-House_report.csv',
        'The-Lamp-House_report.json',
      ]),
    );
    const text = (ending: string) => written.find(([name]) => name.endsWith(`03-The-stair${ending}`))?.[1];
    expect(text('.vtt')).toMatch(/^WEBVTT\n/);
    expect(text('_marks.csv')).toMatch(/^kind,name,start,end,start_frame,length_frames,rate_hz\r\n/);
    expect(text('_script.txt')).toContain('The stair');
  });

  test('chapters from marks, a cover and tags in an MP3 of the open part', async () => {
    await goTo(page, 'Booth');
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('n');
    await saved(page);
    await goTo(page, 'Proof');
    await page.getByLabel('With the audio').click();
    for (const name of ['Marks as CSV', 'Marks as WebVTT', 'Script with times'])
      await page.getByRole('option', { name }).click();
    await page.keyboard.press('Escape');
    await choose(page, 'What', 'The open part');
    await choose(page, 'Where to', /^One archive/);
    await choose(page, 'Channels', 'Joint stereo');
    await page.getByLabel('Notes and part marks as chapters').click();
    const picture = path.join(folder, 'cover.png');
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'color=teal:s=64x64',
      '-frames:v',
      '1',
      picture,
    ]);
    await page.getByLabel('Cover picture').setInputFiles(picture);
    await page.getByText('Cover: cover.png').waitFor();
    const file = await exportTo(page);
    const { chapters, format } = ffprobe(file);
    expect(chapters.map(({ tags }) => tags.title)).toEqual(['The stair', 'Note 1']);
    expect(Number(chapters[1].start_time)).toBeGreaterThan(5);
    expect(format.tags).toMatchObject({ title: 'The stair', album: 'The Lamp House', track: '3/8' });
    expect(mediainfo(file, 'Audio;%Format_Settings_Mode%')).toBe('Joint stereo');
    expect(mediainfo(file, 'General;%Cover_Mime%')).toBe('image/png');
  });

  test.each([
    ['FLAC · 24-bit', 'flac'],
    ['AIFF · 16-bit', 'aif'],
    ['Ogg Opus', 'opus'],
    ['Broadcast WAV · 24-bit', 'wav'],
    ['MP3 · variable bit rate', 'mp3'],
  ])('%s is written, read back, and what ffmpeg makes of it is as long', async (format, ending) => {
    await choose(page, 'Format', format);
    await choose(page, 'Channels', /Mono/);
    const file = await exportTo(page);
    expect(file).toMatch(new RegExp(`\\.${ending}$`));
    await page.getByRole('button', { name: /^Last export: [01] of 1 files/ }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByText(/^SHA-256 [0-9a-f]{64}$/).waitFor();
    const [sum] = execFileSync('sha256sum', [file], { encoding: 'utf8' }).split(' ');
    await expect(dialog.getByText(sum).count()).resolves.toBe(1);
    await expect(dialog.getByText(/reads back/).count()).resolves.toBe(0);
    await dialog.getByRole('button', { name: 'Close' }).click();
    await dialogGone(page);
    const seconds = Number(ffprobe(file).streams[0].sample_rate);
    expect(Math.abs(decode(file).length / seconds - 43.6)).toBeLessThan(0.6);
    if (ending === 'flac') execFileSync('flac', ['-s', '-t', '-w', file]);
  });

  test('the report alone, for printing', async () => {
    await page.getByRole('button', { name: /^Last export/ }).click();
    const html = await download(
      page,
      () => page.getByRole('button', { name: 'Report for printing' }).click(),
      folder,
    );
    expect(readFileSync(html, 'utf8')).toContain('The Lamp House');
    await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
    await dialogGone(page);
  });
});

describe('a spec of one’s own', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
    await goTo(page, 'Brief');
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('is made in the form, kept, written to a file and read from one', async () => {
    const form = page.getByRole('form', { name: 'Specification' });
    await form.getByLabel('Name', { exact: true }).fill('Museum guides');
    await form.getByLabel('Names of the files').fill('{nn}_{part}');
    await form.getByRole('button', { name: 'Also deliver another file of each part' }).click();
    await form.getByRole('button', { name: 'Keep as my own' }).click();
    await page.getByText('“Museum guides” is kept: every project can start from it.').waitFor();
    const file = await download(page, () => form.getByRole('button', { name: 'To a file' }).click(), folder);
    const spec = specFromJson(readFileSync(file, 'utf8'));
    expect(spec).toMatchObject({ name: 'Museum guides', naming: '{nn}_{part}' });
    expect(spec.more).toEqual([expect.objectContaining({ container: 'wav', encoding: 'pcm24' })]);
    const changed = path.join(folder, 'changed.json');
    writeFileSync(
      changed,
      specToJson({ ...spec, name: 'Other guides', more: [...spec.more, { ...spec.file, bitRateKbps: 320 }] }),
    );
    await page.getByLabel('Spec file').setInputFiles(changed);
    await page.waitForFunction(() =>
      [...document.querySelectorAll('input')].some(({ value }) => value === 'Other guides'),
    );
    await form.getByRole('button', { name: 'Use these limits' }).click();
    await saved(page);
  });

  test('its deliverables are written in one go, as it names them', async () => {
    await goTo(page, 'Proof');
    await measured(page);
    await choose(page, 'What', 'The open part');
    await page.getByText(/And of each part, as the spec says: WAV · 24-bit/).waitFor();
    await expect(page.getByTestId('planned-file').allTextContents()).resolves.toEqual([
      expect.stringMatching(/^03_The-stair\.mp3 · /),
      expect.stringMatching(/^03_The-stair\.wav · /),
      expect.stringMatching(/^03_The-stair-2\.mp3 · /),
    ]);
    const archive = await exportTo(page);
    const list = execFileSync('unzip', ['-l', archive], { encoding: 'utf8' });
    for (const name of [
      '03_The-stair.mp3',
      '03_The-stair.wav',
      '03_The-stair-2.mp3',
      'The-Lamp-House_report.html',
    ])
      expect(list).toContain(name);
  });

  test('a file that is no spec is refused with what is wrong', async () => {
    await goTo(page, 'Brief');
    const wrong = path.join(folder, 'wrong.json');
    writeFileSync(wrong, '{"name": "x"}');
    await page.getByLabel('Spec file').setInputFiles(wrong);
    await page
      .getByText(/wrong\.json: This spec file cannot be used: it has no field “parolaSpec”/)
      .waitFor();
  });
});
