import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { download, openApp, openDemo, saved, type App } from './support/app';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-cues-'));

/** As a spreadsheet with a German locale writes it: semicolons, a mark of UTF-8, its own order of columns. */
const rows = [
  'Anmerkung;Wer;Zeile;Bis;Von;Nr',
  ';Old keeper;You felt it before you saw it.;10:00:04:12;10:00:02:00;1',
  'quick;Young keeper;"Every ""stone"", of it.";10:00:06:20;10:00:05:00;2',
  ';Old keeper;Turned round.;10:00:08:00;10:00:09:00;3',
  ';Young keeper;And then?;10:00:15:16;10:00:14:12;4',
  ';Old keeper;No such frame.;10:00:19:00;10:00:17:25;5',
];
const list = path.join(folder, 'liste.csv');
writeFileSync(list, `\uFEFF${rows.join('\r\n')}`);

const numbers = (page: Page) =>
  page.getByRole('gridcell').and(page.locator('[data-field=number]')).allInnerTexts();
const until = (page: Page, wanted: readonly string[]) =>
  page.waitForFunction(
    (all) =>
      [...document.querySelectorAll('[role=gridcell][data-field=number]')]
        .map((one) => one.textContent)
        .join() === all,
    wanted.join(),
  );

describe('cues of a part', () => {
  let app: App;
  let page: Page;
  beforeAll(async () => {
    app = await openApp();
    page = app.page;
    await openDemo(page);
  });
  afterAll(async () => {
    await app.close();
    expect(app.complaints).toEqual([]);
  });

  test('a list with its columns in another order is read; what cannot be is told row by row', async () => {
    await page.keyboard.press('Shift+Q');
    await page.getByLabel('Cue list').setInputFiles(list);
    const dialog = page.getByRole('dialog', { name: 'Cues of “liste.csv”' });
    await dialog.getByText('3 cues, the first at 10:00:02:00').waitFor();
    const faults = dialog.getByRole('list', { name: 'Rows that cannot be read' }).getByRole('listitem');
    expect(await faults.allInnerTexts()).toEqual([
      expect.stringContaining('Row 4: it ends before it begins'),
      expect.stringContaining('Row 6: “10:00:17:25” has frame 25, but at 25 they end with 24'),
    ]);
    // At 30 a second there is a frame 25.
    await dialog.getByLabel('Pictures a second').click();
    await page.getByRole('option', { name: '30', exact: true }).click();
    await dialog.getByText('4 cues, the first at 10:00:02:00').waitFor();
    await dialog.getByLabel('Pictures a second').click();
    await page.getByRole('option', { name: '25', exact: true }).click();
    await dialog.getByRole('button', { name: 'Take 3 cues, leave out the rest' }).press('Enter');
    await until(page, ['1', '2', '4']);
  });

  test('cells are edited by keys: a time in timecode, one that is none is told and changes nothing', async () => {
    const cell = (field: string) => page.locator(`[role=gridcell][data-field=${field}]`).nth(1);
    await cell('in').click();
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+a');
    await page.keyboard.type('10:00:05:10');
    await page.keyboard.press('Enter');
    await page.waitForFunction(
      () => document.querySelectorAll('[role=gridcell][data-field=in]')[1]?.textContent === '10:00:05:10',
    );
    await cell('out').click();
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+a');
    await page.keyboard.type('10:00:99:10');
    await page.keyboard.press('Enter');
    // Said beside the cell, which keeps what is typed until it is right or given up.
    await page.getByRole('tooltip').getByText('there is no time “10:00:99:10”').waitFor();
    await page.keyboard.press('Control+a');
    await page.keyboard.type('0:01');
    await page.getByRole('tooltip').getByText('A cue has to end after it begins.').waitFor();
    await page.keyboard.press('Escape');
    await page.waitForFunction(
      () => document.querySelectorAll('[role=gridcell][data-field=out]')[1]?.textContent === '10:00:06:20',
    );
    await cell('character').click();
    await page.keyboard.press('Enter');
    await page.keyboard.press('Control+a');
    await page.keyboard.type('The visitor');
    await page.keyboard.press('Enter');
    await page.waitForFunction(
      () =>
        document.querySelectorAll('[role=gridcell][data-field=character]')[1]?.textContent === 'The visitor',
    );
  });

  test('several at once: joined, taken away, brought back by undo; sorted and searched', async () => {
    // A row says that it is chosen once it has been drawn again.
    const tick = async (row: number) => {
      const boxes = page.getByRole('row').getByRole('checkbox');
      await boxes.nth(row).click();
      await boxes
        .nth(row)
        .and(page.getByRole('checkbox', { checked: true }))
        .waitFor();
    };
    await tick(1);
    await tick(2);
    await page.getByRole('button', { name: 'Join' }).click();
    await until(page, ['1', '4']);
    await page.locator('[role=gridcell][data-field=text]').first().click();
    await page.keyboard.press('Control+z');
    await until(page, ['1', '2', '4']);
    await page.getByLabel('Search the cues').fill('stone');
    await until(page, ['2']);
    await page.getByLabel('Search the cues').fill('');
    await until(page, ['1', '2', '4']);
    await page.getByRole('columnheader', { name: 'No.' }).click();
    await page.getByRole('columnheader', { name: 'No.' }).click();
    await until(page, ['4', '2', '1']);
    await page.getByRole('columnheader', { name: 'No.' }).click();
    await page.getByLabel('Whose cues').click();
    await page.getByRole('option', { name: 'Old keeper' }).click();
    await until(page, ['1']);
    await page.getByLabel('Whose cues').click();
    await page.getByRole('option', { name: 'Everybody' }).click();
    await page.locator('[role=gridcell][data-field=text]').first().click();
    await page.keyboard.press('Delete');
    await until(page, ['2', '4']);
    await page.keyboard.press('Control+z');
    await until(page, ['1', '2', '4']);
    // From wherever the focus is left.
    await tick(1);
    await page.getByRole('button', { name: /^Take away/ }).click();
    await until(page, ['2', '4']);
    await page.keyboard.press('Control+z');
    await until(page, ['1', '2', '4']);
    await page.keyboard.press('Control+y');
    await until(page, ['2', '4']);
    await page.keyboard.press('Control+z');
    await until(page, ['1', '2', '4']);
  });

  test('the list goes out as CSV and captions, and comes in again as it was', async () => {
    const save = async (name: string) => {
      await page.getByRole('button', { name: 'Save as …' }).click();
      return download(page, () => page.getByRole('menuitem', { name }).click(), folder);
    };
    const csv = readFileSync(await save('CSV, for a spreadsheet'), 'utf8');
    expect(csv.split('\r\n')[2]).toBe(
      '2,10:00:05:10,10:00:06:20,The visitor,"Every ""stone"", of it.",quick,',
    );
    const vtt = readFileSync(await save('WebVTT captions'), 'utf8');
    expect(vtt).toContain('2\n00:00:05.400 --> 00:00:06.800\n<v The visitor>Every "stone", of it.');
    const again = path.join(folder, 'again.csv');
    writeFileSync(again, csv);
    await page.getByLabel('Cue list').setInputFiles(again);
    await page.getByRole('button', { name: 'Take 3 cues' }).press('Enter');
    await until(page, ['1', '2', '4']);
    // The same times, to the frame.
    expect(await page.locator('[role=gridcell][data-field=in]').allInnerTexts()).toEqual([
      '10:00:02:00',
      '10:00:05:10',
      '10:00:14:12',
    ]);
  });

  test('what is no list is refused with the reason', async () => {
    for (const [name, content, reason] of [
      ['picture.csv', Buffer.from([82, 73, 70, 70, 0, 0, 1, 2]), /no text/],
      ['empty.csv', Buffer.from('\n\n'), /nothing in this list/],
      ['large.csv', Buffer.alloc(16_100_000, 'a,b\n'), /16.?1? MB/],
    ] as const) {
      const file = path.join(folder, name);
      writeFileSync(file, content);
      await page.getByLabel('Cue list').setInputFiles(file);
      const dialog = page.getByRole('dialog', { name: 'This list cannot be read' });
      await dialog.getByText(reason).waitFor();
      const more = dialog.getByRole('link', { name: 'More in the help' });
      expect(await more.getAttribute('href')).toBe('/help#cues-wrong');
      await page.getByRole('button', { name: 'Close' }).click();
      await page.getByRole('dialog', { name: 'This list cannot be read' }).waitFor({ state: 'detached' });
    }
    expect(await numbers(page)).toEqual(['1', '2', '4']);
  });

  test('beside the sheet keys go from cue to cue, and to the next that is still to do', async () => {
    await page.getByRole('button', { name: 'Done', exact: true }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.keyboard.press('Home');
    await page.keyboard.press('Shift+N');
    await page.locator('button[aria-current=true]').getByText('You felt it').waitFor();
    await page.getByRole('img', { name: /caret at 00:02.000/ }).waitFor();
    await page.keyboard.press('Shift+C');
    await page.getByRole('button', { name: 'Still to do 2' }).waitFor();
    await page.keyboard.press('Shift+N');
    await page.getByRole('img', { name: /caret at 00:05.400/ }).waitFor();
    await page.keyboard.press('Shift+ArrowDown');
    await page.getByRole('img', { name: /caret at 00:14.480/ }).waitFor();
    await page.keyboard.press('Shift+ArrowUp');
    await page.getByRole('img', { name: /caret at 00:05.400/ }).waitFor();
    // Cut where the caret stands, which the table leaves where it is.
    const sheet = page.getByTestId('sheet');
    const width = (await sheet.boundingBox())?.width ?? 0;
    await sheet.click({ position: { x: 78 + ((width - 104) * 3) / 12, y: 60 } });
    await page.keyboard.press('Shift+Q');
    await page.getByRole('row').getByRole('checkbox').nth(1).check();
    await page.getByRole('button', { name: 'Split' }).click();
    await until(page, ['1', '1a', '2', '4']);
    await page.keyboard.press('Control+z');
    await until(page, ['1', '2', '4']);
    await page.getByRole('button', { name: 'Done', exact: true }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    // Another part has cues of its own: none, whoever was listed before.
    await page.getByLabel('Whose cues').click();
    await page.getByRole('option', { name: 'Old keeper' }).click();
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /Keepers’ talk/ }).click();
    await page.getByText('No cues. Where each line').waitFor();
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /The stair/ }).click();
    await page.getByRole('tab', { name: 'Cues 3' }).waitFor();
    await page.getByText('And then?').waitFor();
    await saved(page);
    await page.reload();
    await page.getByTestId('sheet').waitFor();
    await page.getByRole('tab', { name: 'Cues 3' }).click();
    await page.getByText('done ✓').waitFor();
  });
});
