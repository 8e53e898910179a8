import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, truncateSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { noise, sine, concat, writeWav } from '@/core/testing/signals';
import { writeSound } from '@/core/testing/soundFiles';
import {
  choose,
  createProject,
  dialogGone,
  download,
  exportFloat,
  goTo,
  openApp,
  saved,
  sheetHas,
  type App,
} from './support/app';
import { decode } from './support/audio';
import { baseUrl } from './support/server';
import { storedOpenPart } from './support/stored';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-import-'));
const rateHz = 48_000;
const voice = concat(noise(rateHz / 2, -60, 1), sine(rateHz, 1, 440, -12), noise(rateHz, -24, 2));
const other = concat(sine(rateHz, 1, 700, -20), noise(rateHz * 1.5, -30, 3));
const stereo = writeWav(`${folder}/stereo.wav`, rateHz, [voice, other]);
const mono = writeWav(`${folder}/mono.wav`, rateHz, [voice]);

/** The mono file as another format, by ffmpeg. */
function as(name: string, ...args: string[]) {
  const file = `${folder}/${name}`;
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', mono, ...args, file]);
  return file;
}

async function offer(page: Page, files: string[]) {
  if ((await page.getByRole('dialog').count()) === 0) await page.keyboard.press('Shift+I');
  await page.getByLabel('Sound files').setInputFiles(files);
}

async function importAll(page: Page, count: number) {
  await page.getByRole('button', { name: count === 1 ? 'Import 1 file' : `Import ${count} files` }).click();
  await dialogGone(page);
  await saved(page);
}

/** How much of `b` is in `a` at the same place: 1 for the same. */
function alike(a: Float32Array, b: Float32Array) {
  let ab = 0;
  let aa = 0;
  let bb = 0;
  for (let i = 0; i < Math.min(a.length, b.length); i++) {
    ab += a[i] * b[i];
    aa += a[i] * a[i];
    bb += b[i] * b[i];
  }
  return ab / Math.sqrt(aa * bb);
}

describe('importing sound', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await createProject(page, 'Imports', 'Dry voice');
    await page.getByRole('button', { name: 'Add a part' }).click();
    await goTo(page, 'Booth');
    await page.getByTestId('sheet').waitFor();
  });
  beforeEach(async () => {
    if ((await page.getByRole('dialog').count()) > 0)
      await page.getByRole('button', { name: 'Cancel' }).click();
    await dialogGone(page);
    await goTo(page, 'Booth');
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('a WAV becomes a part of its own, sample by sample', async () => {
    await offer(page, [mono]);
    await page.getByText(/^WAV · 48 kHz · mono · 00:02\.500/).waitFor();
    await importAll(page, 1);
    await page.getByRole('button', { name: /^Part: mono/ }).waitFor();
    const decoded = decode(await exportFloat(page, folder));
    expect(decoded).toHaveLength(voice.length);
    expect(Buffer.compare(Buffer.from(decoded.buffer), Buffer.from(voice.buffer))).toBe(0);
  });

  test.each([
    ['a.flac', ['-c:a', 'flac'], 0.999_999],
    ['a.aiff', ['-c:a', 'pcm_s24be'], 0.999_999],
    ['alaw.wav', ['-c:a', 'pcm_alaw'], 0.999],
    ['a.mp3', ['-b:a', '256k'], 0.97],
    ['a.m4a', ['-c:a', 'aac', '-b:a', '192k'], 0.97],
    ['a.ogg', ['-c:a', 'libvorbis', '-q:a', '8'], 0.97],
    ['a.opus', ['-c:a', 'libopus', '-b:a', '192k'], 0.9],
    ['a.webm', ['-c:a', 'libopus', '-b:a', '192k'], 0.9],
    ['slow.wav', ['-ar', '44100', '-c:a', 'pcm_f32le'], 0.97],
  ] as [string, string[], number][])(
    '%s stands where it should, and as long as it is',
    async (name, args, least) => {
      await offer(page, [as(name, ...args)]);
      await page.getByRole('listitem').filter({ hasText: name }).getByText(/kHz/).waitFor();
      await importAll(page, 1);
      const decoded = decode(await exportFloat(page, folder));
      // A lossy file may have some padding left at its end.
      expect(Math.abs(decoded.length - voice.length)).toBeLessThanOrEqual(
        name.endsWith('m4a') || name.endsWith('webm') ? 2048 : 1,
      );
      expect(alike(decoded, voice)).toBeGreaterThan(least);
    },
  );

  test.each([
    ['cut.ogg', ['-c:a', 'libvorbis', '-q:a', '8']],
    ['cut.opus', ['-c:a', 'libopus', '-b:a', '192k']],
    ['cut.mp3', ['-b:a', '192k']],
  ] as [string, string[]][])('half of %s gives what is whole of it, and says so', async (name, args) => {
    const file = as(name, ...args);
    truncateSync(file, Math.floor(statSync(file).size / 2));
    await offer(page, [file]);
    await page.getByRole('listitem').filter({ hasText: name }).getByText(/kHz/).waitFor();
    await importAll(page, 1);
    await page.getByText(new RegExp(`“${name}” is cut short: what is whole of it is there`)).waitFor();
    const decoded = decode(await exportFloat(page, folder));
    // Codecs hold back up to a tenth of a second, and half of the bytes is not half of the time.
    expect(decoded.length).toBeGreaterThan(voice.length * 0.25);
    expect(decoded.length).toBeLessThan(voice.length * 0.8);
    expect(alike(decoded, voice.subarray(0, decoded.length))).toBeGreaterThan(0.85);
  });

  test('half of a WebM gives its whole clusters, and says so', async () => {
    const long = writeWav(`${folder}/long-voice.wav`, rateHz, [
      concat(...Array<Float32Array>(16).fill(voice)),
    ]);
    const file = `${folder}/half.webm`;
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', long, '-c:a', 'libopus', '-b:a', '96k', file]);
    truncateSync(file, Math.floor(statSync(file).size / 2));
    await offer(page, [file]);
    await page.getByRole('listitem').filter({ hasText: 'half.webm' }).getByText(/kHz/).waitFor();
    await importAll(page, 1);
    await page.getByText(/“half\.webm” is cut short: what is whole of it is there/).waitFor();
  });

  test('of two sides, one alone, at the caret; undo takes it away again', async () => {
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /mono/ }).click();
    await page.keyboard.press('Home');
    await offer(page, [stereo]);
    await page.getByText(/^WAV · 48 kHz · stereo/).waitFor();
    await choose(page, 'Where to', /at the caret/);
    await choose(page, 'Of two sides', 'The right alone');
    await importAll(page, 1);
    const decoded = decode(await exportFloat(page, folder));
    expect(decoded).toHaveLength(other.length + voice.length);
    // The join at its end reaches 5 ms into it.
    const untouched = other.length - 480;
    expect(
      Buffer.compare(
        Buffer.from(decoded.slice(0, untouched).buffer),
        Buffer.from(other.slice(0, untouched).buffer),
      ),
    ).toBe(0);
    await goTo(page, 'Booth');
    await page.keyboard.press('Control+z');
    await page.locator(`[data-testid=sheet][data-frames="${voice.length}"]`).waitFor();
  });

  test('both sides become a part with two tracks, left and right', async () => {
    await offer(page, [stereo]);
    await page.getByText(/^WAV · 48 kHz · stereo/).waitFor();
    await choose(page, 'Of two sides', 'Both, on two tracks');
    await importAll(page, 1);
    await page.getByRole('button', { name: /^Part: stereo/ }).waitFor();
    await goTo(page, 'Proof');
    await choose(page, 'Channels', 'Stereo');
    const file = await exportFloat(page, folder);
    const info = execFileSync('soxi', ['-c', file], { encoding: 'utf8' }).trim();
    expect(info).toBe('2');
    const right = execFileSync(
      'ffmpeg',
      ['-v', 'error', '-i', file, '-af', 'pan=mono|c0=c1', '-f', 'f32le', '-'],
      { maxBuffer: 1 << 28 },
    );
    expect(Buffer.compare(right, Buffer.from(other.buffer))).toBe(0);
  });

  test('a Broadcast WAV with marks goes to its time, and its marks come along as notes', async () => {
    const file = await writeSound(
      `${folder}/timed.wav`,
      [voice],
      { encoding: 'float32', broadcast: true, marks: true },
      {
        broadcast: {
          description: 'timed',
          originator: 'test',
          originatorReference: '',
          recordedAt: 0,
          utcOffsetMinutes: 0,
          timeReference: 4 * rateHz,
          codingHistory: '',
        },
        marks: [{ at: rateHz, length: 0, name: 'The bell' }],
      },
    );
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /mono/ }).click();
    await offer(page, [file]);
    await page.getByText(/1 marks · time 00:04\.000/).waitFor();
    await choose(page, 'Where to', /at its own time/);
    await importAll(page, 1);
    await page.locator(`[data-testid=sheet][data-frames="${4 * rateHz + voice.length}"]`).waitFor();
    await page.getByRole('tab', { name: /^Marks 1/ }).click();
    await page.getByRole('button', { name: /^Go to The bell/ }).waitFor();
    await page.getByRole('tab', { name: 'Script' }).click();
  });

  test('what is no sound says so beside it and the others come all the same; one that is cut short gives what is whole', async () => {
    const letter = `${folder}/letter.mp3`;
    writeFileSync(letter, 'Dear client, this is not audio. '.repeat(2000));
    const cut = `${folder}/cut.wav`;
    writeFileSync(cut, readFileSync(mono));
    truncateSync(cut, Math.floor(statSync(cut).size / 2));
    await offer(page, [letter, cut]);
    await page.getByRole('alert').filter({ hasText: 'not a WAV, AIFF, FLAC or MP3' }).waitFor();
    await page.getByRole('button', { name: 'Import 1 file' }).click();
    await page.getByText(/“cut\.wav” is cut short: what is whole of it is there/).waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await dialogGone(page);
  });

  test.each(['paste', 'drop'])(
    'a sound file comes by %s as well; what is no sound is left alone',
    async (how) => {
      const bytes = readFileSync(mono).toString('base64');
      await page.evaluate(
        ([kind, data]) => {
          const files = new DataTransfer();
          const whole = Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0));
          files.items.add(new File([whole], `${kind}ed.wav`, { type: 'audio/wav' }));
          files.items.add(new File(['Hello.'], 'script.txt', { type: 'text/plain' }));
          const main = document.querySelector('main');
          if (kind === 'paste') window.dispatchEvent(new ClipboardEvent('paste', { clipboardData: files }));
          else
            for (const type of ['dragenter', 'dragover', 'drop'])
              main?.dispatchEvent(
                new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: files }),
              );
        },
        [how, bytes] as const,
      );
      await page
        .getByRole('listitem')
        .filter({ hasText: `${how}ed.wav` })
        .getByText(/^WAV · 48 kHz · mono/)
        .waitFor();
      await expect(page.getByText('script.txt').count()).resolves.toBe(0);
      await importAll(page, 1);
    },
  );

  test('an import that is cancelled leaves nothing; while it runs it can be listened to', async () => {
    const long = `${folder}/long.wav`;
    execFileSync('sox', ['-n', '-r', '44100', '-b', '16', long, 'synth', '600', 'sine', '300', 'vol', '0.2']);
    const sources = () =>
      page.evaluate(
        () =>
          new Promise<number>((resolve, reject) => {
            const request = indexedDB.open('parola');
            request.onerror = () => reject(request.error);
            request.onsuccess = () => {
              const count = request.result.transaction('sources').objectStore('sources').count();
              count.onsuccess = () => resolve(count.result);
            };
          }),
      );
    const before = await sources();
    await offer(page, [long]);
    await page.getByText(/44\.1 kHz → 48 kHz · mono · 10:00\.000/).waitFor();
    await page.getByRole('button', { name: 'Import 1 file' }).click();
    const bar = page.getByRole('progressbar', { name: 'Importing long.wav' });
    await bar.waitFor();
    await page.waitForFunction(
      () =>
        Number(document.querySelector('[aria-label="Importing long.wav"]')?.getAttribute('aria-valuenow')) >
        5,
    );
    await page.getByRole('button', { name: 'Listen' }).click();
    await page.getByRole('button', { name: /^Stop(?! recording)/ }).click();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await dialogGone(page);
    await page.waitForTimeout(1500);
    expect(await sources()).toBe(before);
  });
});

test('both ends of a conversation, recorded apart on clocks that differ, are laid in step', async () => {
  const app = await openApp();
  const { page } = app;
  await createProject(page, 'Apart', 'Podcast stereo');
  await goTo(page, 'Booth');
  const demo = (microphone: number) => `public/demo/boat-builder-${microphone}.mp3`;
  // The second recorder was started 1.5 s earlier and runs 300 ppm slower.
  const guest = `${folder}/guest.wav`;
  const apart = ['speed', String(1 / 1.0003), 'rate', '-v', '48000', 'pad', '1.5'];
  const decoded = `${folder}/second.wav`;
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', demo(2), decoded]);
  execFileSync('sox', [decoded, '-b', '24', guest, ...apart]);
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
  await page.getByRole('button', { name: 'Add a track' }).click();
  await page.getByRole('button', { name: 'Done' }).click();
  await dialogGone(page);
  for (const [file, track] of [
    [demo(1), 'Voice'],
    [guest, 'Voice 2'],
  ]) {
    await page.keyboard.press('Home');
    await offer(page, [file]);
    await choose(page, 'Where to', /^Over a track/);
    await choose(page, 'Track', track);
    await importAll(page, 1);
  }
  await page.getByRole('button', { name: 'Passage' }).click();
  await page.getByRole('menuitem', { name: /^Lay in step/ }).click();
  const asked = page.getByRole('dialog');
  await asked
    .getByText(/Voice 2 moves 15\d\d ms earlier\. Its clock is (29\d|30\d|31\d)\.\d ppm slower/)
    .waitFor();
  await asked.getByRole('button', { name: 'Lay it in step' }).click();
  await dialogGone(page);
  await page.getByRole('tab', { name: 'Takes 3' }).waitFor();
  await saved(page);
  const { tracks } = (await storedOpenPart(page)).timeline;
  const [first, second] = tracks.map(({ pieces }) => pieces);
  // Time was opened by what the second began earlier, to a millisecond.
  expect(first[0].kind).toBe('silence');
  expect(Math.abs(first[0].length / 44_100 - 1.5)).toBeLessThan(0.001);
  expect(second[0]).toMatchObject({ kind: 'audio', from: 0 });
  // Undone, the recording stands as it was imported.
  await page.keyboard.press('Control+z');
  await saved(page);
  expect((await storedOpenPart(page)).timeline.tracks[0].pieces[0].kind).toBe('audio');
  await app.close();
});

test('the installed application is opened with sound, with a project file, and with something else', async () => {
  const app = await openApp({
    before: () => {
      // What a browser does with an installed application (W3C, Web Application Launch Handler).
      Object.defineProperty(window, 'launchQueue', {
        value: { setConsumer: (launched: unknown) => Object.assign(window, { launched }) },
      });
    },
  });
  const { page } = app;
  await page.reload();
  const openWith = async (...files: string[]) => {
    const contents = files.map((file) => ({
      name: path.basename(file),
      text: readFileSync(file).toString('base64'),
    }));
    await page.waitForFunction(() => 'launched' in window);
    await page.evaluate((all) => {
      const { launched } = window as unknown as { launched: (opened: { files: unknown[] }) => void };
      const files = all.map(({ name, text }) => {
        const bytes = Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
        return { getFile: async () => new File([bytes], name) };
      });
      launched({ files });
    }, contents);
  };
  const nothing = `${folder}/notes.xyz`;
  writeFileSync(nothing, 'no sound');
  await openWith(nothing);
  await page.getByText('“notes.xyz” is neither a project file nor sound: nothing was opened.').waitFor();
  await openWith(mono);
  await page.waitForURL(/booth$/);
  await page.getByRole('dialog').getByText('mono.wav').first().waitFor();
  await importAll(page, 1);
  await goTo(page, 'Proof');
  const file = await download(
    page,
    () => page.getByRole('button', { name: 'Save a project file' }).click(),
    folder,
  );
  expect(path.basename(file)).toBe('mono.parola');
  await page.goto(baseUrl);
  await openWith(file);
  await page.waitForURL(/booth$/);
  await page.getByText('mono', { exact: true }).first().waitFor();
  await goTo(page, 'Booth');
  // At the project's rate: what was imported, and comes back with the file.
  await sheetHas(page, (voice.length * 44_100) / rateHz);
  await page.goto(baseUrl);
  await page.getByRole('link', { name: /^mono/ }).nth(1).waitFor();
  expect(app.complaints).toEqual([]);
  await app.close();
});
