import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { decode } from './support/audio';
import {
  choose,
  chooseInput,
  createProject,
  download,
  exportFloat,
  goTo,
  openApp,
  openDemo,
  recordFor,
  saved,
  sheetFrames,
  type App,
} from './support/app';
import { baseUrl } from './support/server';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-files-'));

const lossless = [
  ['WAV · 24-bit', 'wav24'],
  ['WAV · 16-bit', 'wav16'],
  ['FLAC · 24-bit', 'flac'],
] as const;

/** Waits until the script of the open part is this text. */
const scriptIs = (page: Page, text: string) =>
  page.waitForFunction(
    (wanted) =>
      document.querySelector<HTMLTextAreaElement>('textarea[aria-label=Script]')?.value.trim() === wanted,
    text,
  );

/** The command line writes the same file from a project file: its name, and every byte. */
function expectSameBytes(written: string, projectFile: string, format: string): void {
  const out = mkdtempSync(path.join(folder, 'written-'));
  const command = [
    'run',
    '--silent',
    'export',
    '--',
    projectFile,
    '--out',
    out,
    '--format',
    format,
    '--json',
  ];
  const { stdout, stderr } = spawnSync('npm', command, { encoding: 'utf8' });
  const name = path.basename(written);
  const files = JSON.parse(stdout || stderr) as { file: string; sha256: string }[];
  const same = files.find(({ file }) => path.basename(file) === name);
  const bytes = readFileSync(written);
  expect(same && Buffer.compare(readFileSync(same.file), bytes)).toBe(0);
  expect(same?.sha256).toBe(createHash('sha256').update(bytes).digest('hex'));
}

async function more(page: Page, name: string, action: string) {
  await page.getByRole('button', { name: `More about ${name}`, exact: true }).click();
  await page.getByRole('menuitem', { name: action, exact: true }).click();
}

describe('projects and the Brief', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('names with slashes, quotes and emoji are kept as they are, and become safe file names', async () => {
    const name = "A/B “take” 'x' 🎙️ <b>";
    await createProject(page, name, 'Dry voice');
    await page.goto(baseUrl);
    await page.getByRole('link', { name }).waitFor();
    await more(page, name, 'Rename');
    await page.getByRole('textbox', { name: 'Name' }).fill('  ');
    await page.getByRole('button', { name: 'Rename', exact: true }).click();
    await page.getByText('Give it a name.').waitFor();
    await page.getByRole('textbox', { name: 'Name' }).fill('Renamed');
    await page.getByRole('button', { name: 'Rename', exact: true }).click();
    await page.getByRole('link', { name: 'Renamed' }).waitFor();
  });

  test('duplicate, and delete only after saying what goes', async () => {
    await more(page, 'Renamed', 'Duplicate');
    await page.getByRole('button', { name: 'Duplicate', exact: true }).click();
    await page.getByRole('link', { name: 'Renamed (copy)' }).waitFor();
    await more(page, 'Renamed (copy)', 'Delete');
    await page.getByText(/^Its one part goes for good/).waitFor();
    await page.getByRole('button', { name: 'Keep' }).click();
    await page.getByRole('link', { name: 'Renamed (copy)' }).waitFor();
    await more(page, 'Renamed (copy)', 'Delete');
    await page.getByRole('button', { name: 'Delete', exact: true }).click();
    await page.getByRole('link', { name: 'Renamed (copy)' }).waitFor({ state: 'detached' });
  });

  test('a project needs a name', async () => {
    await page.getByRole('button', { name: 'New project' }).click();
    await page.getByRole('button', { name: 'Create' }).click();
    await page.getByText('Give the project a name.').waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
  });

  test('parts are added, renamed, reordered by keyboard, deleted', async () => {
    await page.getByRole('link', { name: 'Renamed' }).click();
    await page.waitForURL(/booth$/);
    await goTo(page, 'Brief');
    await page.getByRole('button', { name: 'Add a part' }).click();
    await page.getByRole('textbox', { name: 'Name of part 2' }).fill('Second');
    await page.getByRole('textbox', { name: 'Name of part 2' }).press('Enter');
    await saved(page);
    await page.getByRole('button', { name: 'Move Second' }).focus();
    await page.keyboard.press('Space');
    await page.waitForTimeout(200);
    await page.keyboard.press('ArrowUp');
    await page.waitForTimeout(300);
    await page.keyboard.press('Space');
    await page.waitForTimeout(300);
    await saved(page);
    await page.reload();
    await expect(page.getByRole('textbox', { name: 'Name of part 1' }).inputValue()).resolves.toBe('Second');
    await page.getByRole('button', { name: 'Delete Part 1' }).click();
    await page.getByText(/the takes recorded in it go for good/).waitFor();
    await page.getByRole('button', { name: 'Delete', exact: true }).click();
    await page.getByRole('textbox', { name: 'Name of part 2' }).waitFor({ state: 'detached' });
    await saved(page);
  });

  test('a pasted script is split at sentence ends, stays editable, and is there after a reload', async () => {
    const script = page.getByRole('textbox', { name: 'Script', exact: true });
    await page.context().grantPermissions(['clipboard-read', 'clipboard-write'], { origin: baseUrl });
    await page.evaluate(() => navigator.clipboard.writeText('One sentence. And another one! Then a third?'));
    await script.focus();
    await page.keyboard.press('Control+v');
    await expect(script.inputValue()).resolves.toBe('One sentence.\nAnd another one!\nThen a third?');
    await page.keyboard.press('End');
    await page.keyboard.type('\nWritten by hand.');
    await page.getByText('4 lines').waitFor();
    await page.getByRole('heading', { name: /^Script of/ }).click();
    await script.blur();
    await saved(page);
    await page.reload();
    await expect(script.inputValue()).resolves.toMatch(/Written by hand\.$/);
  });

  test('a .md file loses its signs; files that are too large or no text are refused beside the script', async () => {
    const input = page.getByLabel('Script file');
    await input.setInputFiles({
      name: 'a.md',
      mimeType: 'text/markdown',
      buffer: Buffer.from('# The *stair*\n\nLook **down**. Then [up](http://x.y).\n'),
    });
    const script = page.getByRole('textbox', { name: 'Script', exact: true });
    await page.getByText('3 lines').waitFor();
    await expect(script.inputValue()).resolves.toBe('The stair\nLook down.\nThen up.');
    await input.setInputFiles({
      name: 'book.txt',
      mimeType: 'text/plain',
      buffer: Buffer.from('A sentence of a book. '.repeat(240_000)),
    });
    await page
      .getByText(
        /This script is 5\.3 MB; one part takes at most 1\.0 MB.*Put each chapter into a part of its own/,
      )
      .waitFor();
    await expect(script.inputValue()).resolves.toBe('The stair\nLook down.\nThen up.');
    await input.setInputFiles({
      name: 'script.xls',
      mimeType: 'application/vnd.ms-excel',
      buffer: Buffer.from('odd'),
    });
    await page.getByText(/“script\.xls” is none of the forms a script is read from/).waitFor();
    await input.setInputFiles({
      name: 'script.pdf',
      mimeType: 'application/pdf',
      buffer: Buffer.from('%PDF-1.4'),
    });
    await page.getByText(/“script\.pdf” cannot be read as PDF/).waitFor();
    await expect(script.inputValue()).resolves.toBe('The stair\nLook down.\nThen up.');
  });

  test('PDF as a browser prints it, RTF and EPUB as pandoc writes them: every word of it, chapters as parts', async () => {
    const input = page.getByLabel('Script file');
    const text = 'The stair has ninety-four steps. Every keeper counted them in the dark, and lost count.';
    const lines = 'The stair has ninety-four steps.\nEvery keeper counted them in the dark, and lost count.';
    const printed = await app.context.newPage();
    await printed.setContent(`<p style="font: 30px serif; width: 500px">${text}</p>`);
    await input.setInputFiles({ name: 'a.pdf', mimeType: 'application/pdf', buffer: await printed.pdf() });
    await printed.close();
    await scriptIs(page, lines);
    const written = (kind: string, markdown: string, ...more: string[]) => {
      const file = path.join(folder, `a.${kind}`);
      execFileSync('pandoc', ['-s', '-f', 'markdown', '-o', file, ...more], { input: markdown });
      return file;
    };
    await input.setInputFiles(written('rtf', 'Über the *rock*.\n\nAnd on.\n'));
    await scriptIs(page, 'Über the rock.\nAnd on.');
    await input.setInputFiles(
      written(
        'epub',
        '# The lamp\n\nIt burns.\n\n# The rock\n\nIt stands. It waits.\n',
        ...['--metadata', 'title=Book'],
      ),
    );
    await page.getByText(/“a\.epub” has \d chapters/).waitFor();
    await page.getByRole('button', { name: 'A part for each' }).click();
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: 'The rock' }).click();
    await scriptIs(page, 'It stands.\nIt waits.');
    expect(app.complaints).toEqual([]);
  });

  test('a limit whose lowest is above its highest is refused beside it, and the spec stays as it was', async () => {
    await page.getByLabel('Room, lowest in dBFS').fill('-50');
    await page.getByRole('button', { name: 'Use these limits' }).click();
    await page.getByText('Room: the lowest allowed is above the highest. Swap them or clear one.').waitFor();
    await page.reload();
    await expect(page.getByLabel('Room, lowest in dBFS').inputValue()).resolves.toBe('');
    await page.getByLabel('Room, highest in dBFS').fill('−55,5');
    await page.getByRole('button', { name: 'Use these limits' }).click();
    await saved(page);
    await page.reload();
    await expect(page.getByLabel('Room, highest in dBFS').inputValue()).resolves.toBe('-55.5');
  });
});

describe('templates', () => {
  test('a project starts from one, is kept as another, and that one goes to another browser as a file', async () => {
    const app = await openApp();
    const { page } = app;
    const start = async (template: string, name: string) => {
      await page.getByRole('button', { name: 'New project' }).click();
      await page.getByLabel('Name').fill(name);
      await choose(page, 'Start from', template);
    };
    await start('Interview podcast', 'First');
    await page.getByText(/Tracks “Host”, “Guest”/).waitFor();
    await page.getByRole('button', { name: 'Create' }).click();
    await page.waitForURL(/brief$/);
    await page.getByRole('button', { name: 'Add a part' }).click();
    await page.getByRole('textbox', { name: 'Name of part 2' }).waitFor();
    await expect(page.getByRole('textbox', { name: 'Name of part 2' }).inputValue()).resolves.toBe(
      'Episode 2',
    );
    await page.getByRole('button', { name: 'Keep as a template' }).click();
    await page.getByRole('dialog').getByLabel('Name').fill('Our show');
    await page.getByRole('button', { name: 'Keep', exact: true }).click();
    await page.getByText(/“Our show” is kept/).waitFor();
    await page.goto(baseUrl);
    await start('Our show', 'Second');
    const file = await download(
      page,
      () => page.getByRole('button', { name: 'Save it to a file' }).click(),
      folder,
    );
    await page.getByRole('button', { name: 'Forget it' }).click();
    await page.getByLabel('Template file').setInputFiles({
      name: 'odd.template.json',
      mimeType: 'application/json',
      buffer: Buffer.from('{"parolaTemplate":1,"name":""}'),
    });
    await page.getByText(/odd\.template\.json: This template cannot be used:.*has no name/).waitFor();
    await page.getByLabel('Template file').setInputFiles(file);
    await page.getByText(/Parts “Episode 1”, “Episode 2”/).waitFor();
    await page.getByRole('button', { name: 'Create' }).click();
    await page.waitForURL(/brief$/);
    await page.getByRole('textbox', { name: 'Name of part 2' }).waitFor();
    // The bed waits for its sound: it lies under all that is said then, and goes down when somebody speaks.
    await goTo(page, 'Booth');
    await chooseInput(page, 'Two voices');
    await recordFor(page, 3);
    await goTo(page, 'Finish');
    await page.getByLabel('Its sound').setInputFiles('public/demo/boat-builder-1.mp3');
    await page
      .getByRole('group', { name: 'It, a sound of the bed' })
      .getByText(/^Heard from 00:00\.000 to/)
      .waitFor();
    await page.getByLabel('Another sound at the caret').waitFor({ state: 'attached' });
    await page.getByRole('group', { name: 'Under speech' }).waitFor();
    await page.waitForFunction(async () => {
      const db = await new Promise<IDBDatabase>((resolve) => {
        const request = indexedDB.open('parola');
        request.onsuccess = () => resolve(request.result);
      });
      const parts = await new Promise<
        { timeline: { mix?: { strips: { ducking?: object; points: object[] }[] } } }[]
      >((resolve) => {
        const request = db.transaction('parts').objectStore('parts').getAll();
        request.onsuccess = () => resolve(request.result);
      });
      db.close();
      return parts.some(({ timeline }) =>
        timeline.mix?.strips.some(({ ducking, points }) => ducking && points.length > 1),
      );
    });
    await saved(page);
    expect(app.complaints).toEqual([]);
    await app.close();
  });
});

/** Saves a project file of the demo, which has a film. */
async function saveWithFilm(page: Page, answer: 'Put it in' | 'Leave it out'): Promise<void> {
  await page.getByRole('button', { name: 'Save a project file' }).click();
  await page.getByRole('button', { name: answer }).click();
}

describe('the project file', () => {
  test('opens on another machine with everything in it, bit for bit', async () => {
    const first = await openApp();
    await openDemo(first.page);
    const frames = await sheetFrames(first.page);
    await first.page.keyboard.press('End');
    await first.page.keyboard.press('n');
    await saved(first.page);
    await goTo(first.page, 'Proof');
    const file = await download(first.page, () => saveWithFilm(first.page, 'Put it in'), folder);
    expect(path.basename(file)).toBe('The-Lamp-House.parola');
    await first.page.getByLabel('What').click();
    await first.page.getByRole('option', { name: 'The open part' }).click();
    const original = decode(await exportFloat(first.page, folder));
    for (const [option, format] of lossless) {
      // At the rate of the spec, to which the recording is converted.
      await first.page.getByRole('button', { name: /^As the spec wants it/ }).click();
      await choose(first.page, 'Format', option);
      const written = await download(
        first.page,
        () => first.page.getByRole('button', { name: /^Export 1 file/ }).click(),
        folder,
      );
      expectSameBytes(written, file, format);
    }
    expect(first.complaints).toEqual([]);
    await first.close();

    const second = await openApp();
    await second.page.getByLabel('Project file').setInputFiles(file);
    await second.page.waitForURL(/booth$/);
    await second.page.getByRole('button', { name: /^Part: / }).click();
    await second.page.getByRole('menuitem', { name: /The stair/ }).click();
    await second.page.getByRole('tab', { name: 'Marks 3' }).waitFor();
    expect(await sheetFrames(second.page)).toBe(frames);
    await second.page.keyboard.press('Control+z');
    await second.page.getByRole('tab', { name: 'Marks 2' }).waitFor();
    await goTo(second.page, 'Proof');
    await second.page.getByLabel('What').click();
    await second.page.getByRole('option', { name: 'The open part' }).click();
    const opened = decode(await exportFloat(second.page, folder));
    expect(Buffer.compare(Buffer.from(opened.buffer), Buffer.from(original.buffer))).toBe(0);
    await goTo(second.page, 'Booth');
    await second.page.getByRole('button', { name: /^Part: / }).click();
    await second.page.getByRole('menuitem', { name: /keepers’ film/ }).click();
    await second.page.getByTestId('film').waitFor();
    expect(second.complaints).toEqual([]);
    await second.close();

    // Damaged copies of it open nothing, and say so.
    const third = await openApp();
    const bytes = readFileSync(file);
    const flipped = Buffer.from(bytes);
    flipped[Math.floor(bytes.length / 2)] ^= 0xff;
    const damaged: [string, Buffer, RegExp][] = [
      ['cut.parola', bytes.subarray(0, bytes.length - 5000), /not a whole project file|damaged/],
      ['flipped.parola', flipped, /not a whole project file|damaged/],
      ['text.parola', Buffer.from('this is no project'), /not a whole project file/],
      ['empty.parola', Buffer.alloc(0), /not a whole project file/],
    ];
    for (const [name, content, message] of damaged) {
      const target = path.join(folder, name);
      writeFileSync(target, content);
      await third.page.getByLabel('Project file').setInputFiles(target);
      const notice = third.page.getByRole('alert').filter({ hasText: message });
      await notice.first().waitFor();
      await notice.first().getByRole('button', { name: 'Close' }).click();
      await third.page.getByText('Nothing recorded on this machine yet').waitFor();
    }
    const left = await third.page.evaluate(async () => {
      const db = await new Promise<IDBDatabase>((resolve) => {
        const request = indexedDB.open('parola');
        request.onsuccess = () => resolve(request.result);
      });
      const count = (store: string) =>
        new Promise<number>((resolve) => {
          const request = db.transaction(store).objectStore(store).count();
          request.onsuccess = () => resolve(request.result);
        });
      return [await count('sources'), await count('blocks')];
    });
    expect(left).toEqual([0, 0]);
    await third.close();
  });
});

/** Changes records of a store, as a damaged or an earlier version might have left them. */
const spoil = (page: Page, store: string, changes: Record<string, unknown>, which: 'all' | 'first' = 'all') =>
  page.evaluate(
    ([name, fields, all]) =>
      new Promise<void>((resolve, reject) => {
        const open = indexedDB.open('parola');
        open.onerror = () => reject(open.error);
        open.onsuccess = () => {
          const tx = open.result.transaction(name, 'readwrite');
          const records = tx.objectStore(name).getAll();
          records.onsuccess = () => {
            for (const record of all ? records.result : records.result.slice(0, 1))
              tx.objectStore(name).put({ ...record, ...(fields as object) });
          };
          tx.oncomplete = () => {
            open.result.close();
            resolve();
          };
        };
      }),
    [store, changes, which === 'all'] as const,
  );

describe('what cannot be shown', () => {
  test('takes nothing else with it: a take its list, a project the list of all', async () => {
    const { page, close } = await openApp();
    await openDemo(page);
    await page.getByRole('tab', { name: /^Takes/ }).click();
    await page.getByRole('listitem', { name: 'Take 1' }).waitFor();
    await spoil(page, 'sources', { startedAt: 'once upon a time' });
    await page.reload();
    await page.getByTestId('sheet').waitFor();
    await page.getByRole('tab', { name: /^Takes/ }).click();
    await page
      .getByText(/This take cannot be shown/)
      .first()
      .waitFor();
    // Everything else works: a mark is made, listed and stored.
    await page.keyboard.press('n');
    await page.getByRole('tab', { name: /^Marks/ }).click();
    await page
      .getByRole('button', { name: /^Go to Note/ })
      .first()
      .waitFor();
    await saved(page);

    await page.goto(baseUrl);
    await page.getByRole('link', { name: 'The Lamp House' }).waitFor();
    await createProject(page, 'Another');
    await page.goto(baseUrl);
    await page.getByRole('link', { name: 'Another' }).waitFor();
    await spoil(page, 'projects', { openedAt: 1e300, name: { of: 'nothing' } }, 'first');
    await page.reload();
    await page.getByRole('table', { name: 'Projects' }).waitFor();
    await expect(page.getByRole('row').count()).resolves.toBe(3);
    await close();
  });

  test('an opening that a reload cuts off leaves nothing behind on the next visit', async () => {
    const first = await openApp();
    await openDemo(first.page);
    await goTo(first.page, 'Proof');
    const file = await download(first.page, () => saveWithFilm(first.page, 'Leave it out'), folder);
    await first.close();
    const { page, close } = await openApp();
    const count = (store: string) =>
      page.evaluate(
        (name) =>
          new Promise<number>((resolve) => {
            const open = indexedDB.open('parola');
            open.onsuccess = () => {
              const counted = open.result.transaction(name).objectStore(name).count();
              counted.onsuccess = () => {
                open.result.close();
                resolve(counted.result);
              };
            };
          }),
        store,
      );
    await page.getByLabel('Project file').setInputFiles(file);
    while ((await count('blocks')) === 0) await page.waitForTimeout(10);
    await page.reload();
    await page.getByRole('button', { name: 'Open the demo' }).waitFor();
    for (let wait = 0; wait < 100 && (await count('blocks')) > 0; wait++) await page.waitForTimeout(100);
    expect([await count('sources'), await count('blocks'), await count('peaks')]).toEqual([0, 0, 0]);
    await close();
  });
});
