/** Takes the pictures in docs/screenshots from the demo data, with the built application. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import {
  chooseInput,
  dialogGone,
  download,
  goTo,
  openApp,
  recorded,
  saved,
  takePlaced,
} from '../e2e/support/app';
import { folderChosen } from '../e2e/support/copies';
import { makeSpeechFile } from '../e2e/support/audio';
import { startServer } from '../e2e/support/server';

const folder = mkdtempSync(path.join(tmpdir(), 'parola-pictures-'));

/** As a client writes it: columns in an order of its own, and one line turned round. */
const cueList = [
  'Remark;Who;Line;To;From;No',
  ';Old keeper;You felt it before you saw it.;10:00:04:12;10:00:02:00;1',
  'quick;Young keeper;Every stone of it.;10:00:06:20;10:00:05:00;2',
  ';Old keeper;The night the boat came back without a light, I counted to a hundred and started again.;10:00:13:05;10:00:09:00;3',
  ';Young keeper;And then?;10:00:15:16;10:00:14:12;4',
  ';Old keeper;Then somebody knocked.;10:00:15:00;10:00:16:08;5',
  'dry;Young keeper;Nobody knocks at a lighthouse.;10:00:22:05;10:00:20:00;6',
  ';Old keeper;That is what I said.;10:00:25:02;10:00:23:10;7',
  ';Young keeper;And did you open?;10:00:28:00;10:00:26:14;8',
].join('\r\n');

async function main() {
  makeSpeechFile();
  const server = await startServer();
  // A line over loopback addresses, and a folder that nobody has to choose by hand.
  const app = await openApp({ whole: true, before: folderChosen });
  const { page } = app;
  const shoot = async (name: string) => {
    await page.waitForTimeout(700);
    await page.screenshot({ path: `docs/screenshots/${name}.png` });
  };
  try {
    await page.getByRole('button', { name: 'Show me the whole job in five steps' }).click();
    await page.getByTestId('sheet').waitFor();
    await chooseInput(page, 'Practice reader');
    await page.keyboard.press('!');
    await shoot('first-visit');
    await page.keyboard.press('!');
    await page.getByRole('button', { name: 'End', exact: true }).click();
    // The first flub is struck, so that a strike is in the picture.
    await page.getByRole('tab', { name: 'Marks 2' }).click();
    await page.getByRole('button', { name: /^Go to Flub 1/ }).click();
    await page.keyboard.press('Backspace');
    await page.getByRole('tab', { name: 'Script' }).click();
    await page.mouse.move(700, 700);
    await shoot('booth');
    await page.keyboard.press('Shift+T');
    await page.getByRole('button', { name: /^Stop(?! recording)/ }).waitFor();
    await page.keyboard.press('Escape');
    await page.keyboard.press('x');
    await page.getByRole('button', { name: 'Look again' }).waitFor({ timeout: 60_000 });
    await page.keyboard.press('Home');
    await page.keyboard.press('Control+ArrowRight');
    await page.keyboard.press('g');
    await page.keyboard.press('z');
    await page.mouse.move(700, 700);
    await shoot('finds');
    await page.keyboard.press('z');
    await page.getByRole('tab', { name: 'Script' }).click();
    await page.getByRole('button', { name: 'Lay along the sheet' }).click();
    await page.getByText(/lines are laid/).waitFor();
    await page.getByRole('button', { name: 'Close', exact: true }).click();
    await page.mouse.move(700, 700);
    await goTo(page, 'Brief');
    await shoot('brief');
    await goTo(page, 'Proof');
    await page.getByText(/of 8 parts pass/).waitFor();
    await page.getByRole('button', { name: /^Make it pass/ }).waitFor({ timeout: 60_000 });
    await shoot('proof');
    // A client with a stricter room: gain and a limiter are not enough.
    await goTo(page, 'Brief');
    await page.getByLabel('Room, highest in dBFS').fill('-72');
    await page.getByRole('button', { name: 'Use these limits' }).click();
    await saved(page);
    await goTo(page, 'Proof');
    await page
      .getByRole('button', { name: /dB softer/ })
      .first()
      .waitFor({ timeout: 90_000 });
    await page.getByRole('button', { name: /^Make it pass/ }).click();
    await page.getByText(/measured afterwards/).waitFor({ timeout: 60_000 });
    await page.getByText(/^Through the chain of/).waitFor();
    await page.getByRole('heading', { name: '3 The stair' }).scrollIntoViewIfNeeded();
    await shoot('proof-fixed');
    const archive = await download(
      page,
      () => page.getByRole('button', { name: /^Export 5 files/ }).click(),
      folder,
    );
    // What was read back is told until somebody looks.
    await page.getByRole('button', { name: /^Last export/ }).click();
    await page.getByRole('dialog').waitFor();
    await page.getByRole('button', { name: 'Close', exact: true }).click();
    await dialogGone(page);
    execFileSync('unzip', ['-q', '-o', archive, '*_report.html', '-d', folder]);
    const paper = await page.context().newPage();
    await paper.goto(`file://${folder}/The-Lamp-House_report.html`);
    await paper.screenshot({ path: 'docs/screenshots/report.png' });
    await paper.close();
    await goTo(page, 'Finish');
    await page.keyboard.press('h');
    await page.getByRole('button', { name: 'Use Close to the microphone' }).click();
    await page
      .getByText(/Most taken off .* at/)
      .first()
      .waitFor({ timeout: 60_000 });
    await page.getByRole('listitem', { name: 'Equaliser' }).getByRole('heading').click();
    await page.waitForTimeout(3000);
    await shoot('equaliser');
    await goTo(page, 'Booth');
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /The lamp/ }).click();
    await page.getByRole('button', { name: /Lamp theme/ }).click();
    await page.mouse.move(700, 700);
    await page.keyboard.press('Enter');
    await page.waitForTimeout(15_500);
    await page.keyboard.press('f');
    await page.waitForTimeout(3000);
    await shoot('booth-recording-lamp');
    // The flub is read again from the start of its sentence.
    await page.keyboard.press('Backspace');
    await page.getByRole('button', { name: 'Call the run-up off' }).waitFor();
    await recorded(page, 5);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await page.getByRole('button', { name: 'Light theme' }).click();
    await page.getByRole('tab', { name: /^Takes/ }).click();
    await page.getByRole('button', { name: 'Circle Take 2' }).click();
    await page.getByLabel('Note on Take 2').fill('the better tone');
    await page.getByLabel('Note on Take 2').press('Enter');
    await page.getByRole('checkbox', { name: 'Select Take 1' }).check();
    await page.getByRole('checkbox', { name: 'Select Take 2' }).check();
    const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
    const box = await sheet.boundingBox();
    const row = { y: 60 + 102 };
    await sheet.dragTo(sheet, {
      sourcePosition: { x: (box?.width ?? 800) * 0.57, ...row },
      targetPosition: { x: (box?.width ?? 800) * 0.76, ...row },
    });
    await page.keyboard.press('k');
    await page.getByRole('button', { name: 'Begin' }).click();
    await page.getByRole('button', { name: 'Check again' }).waitFor({ timeout: 60_000 });
    await shoot('sound-check');
    await page.getByRole('button', { name: 'Close', exact: true }).click();
    await dialogGone(page);
    await page.getByRole('tab', { name: 'Script' }).click();
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /boat builder/i }).click();
    await goTo(page, 'Finish');
    await page.getByRole('button', { name: 'Let it go down under speech' }).click();
    await page.getByRole('group', { name: 'Under speech' }).waitFor();
    const level = page.getByRole('spinbutton', { name: 'Level of Shore, dB' });
    await level.fill('10');
    await level.press('Enter');
    await page.getByRole('slider', { name: 'Place of Ines' }).focus();
    for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowLeft');
    await page.getByRole('slider', { name: 'Place of Boat builder' }).focus();
    for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight');
    await page.getByRole('button', { name: 'Measure Shore' }).click();
    await page.getByRole('cell', { name: /LU/ }).first().waitFor();
    await page.getByRole('button', { name: 'Find turns' }).click();
    await page.locator('[data-testid=sheet][data-turns="6"]').waitFor();
    await page.getByRole('tab', { name: 'Ines' }).click();
    await page.keyboard.press('h');
    await page.getByRole('button', { name: 'Use Two people, one table' }).click();
    await page
      .getByText(/Most taken off .* at/)
      .first()
      .waitFor({ timeout: 60_000 });
    await page.getByRole('listitem', { name: 'Evener reading' }).getByRole('heading').click();
    await page.getByRole('list', { name: 'Steps' }).hover();
    await page.waitForTimeout(2500);
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await page.waitForTimeout(3500);
    await shoot('finish');
    await page.keyboard.press('Escape');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Two voices');
    await page.getByRole('button', { name: /^Input:/ }).click();
    await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
    await page.getByRole('checkbox', { name: 'Record Boat builder' }).check();
    await page.getByRole('button', { name: 'Done' }).click();
    await dialogGone(page);
    await page.keyboard.press('Enter');
    await recorded(page, 9);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /visitor/i }).click();
    await chooseInput(page, 'Practice interpreter');
    // The third sentence goes wrong: it is cut back, and read again with the guide going on.
    await page.keyboard.press('Enter');
    await recorded(page, 33);
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await page.getByRole('button', { name: /^Hear both .* behind/ }).waitFor();
    for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowLeft');
    await page.waitForTimeout(1500);
    await page.keyboard.press('Shift+R');
    await page.keyboard.press('Enter');
    await recorded(page, 4);
    await shoot('guide');
    await page.keyboard.press('Enter');
    await takePlaced(page);
    const list = path.join(folder, 'keepers.csv');
    writeFileSync(list, cueList);
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /Keepers’ talk/ }).click();
    await page.keyboard.press('Shift+Q');
    await page.getByLabel('Cue list').setInputFiles(list);
    await page.getByRole('button', { name: /^Take 7 cues/ }).waitFor();
    await page.getByRole('button', { name: /^Take 7 cues/ }).click();
    await page.getByText('7 cues are on the cue sheet').waitFor();
    await page.getByText('7 cues are on the cue sheet').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Done', exact: true }).click();
    await dialogGone(page);
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /keepers’ film/ }).click();
    await chooseInput(page, 'Cue by cue');
    await page.getByTestId('film').waitFor();
    for (let cue = 1; cue <= 5; cue++) {
      await page.keyboard.press('Shift+ArrowDown');
      for (let take = 1; take <= (cue === 5 ? 2 : 1); take++) {
        await page.keyboard.press('Enter');
        await page.getByRole('button', { name: /^Stop recording/ }).waitFor();
        if (take === 2) {
          await page.waitForTimeout(1500);
          await page.screenshot({ path: 'docs/screenshots/cue-recording.png' });
        }
        await takePlaced(page);
      }
      if (cue < 5) await page.keyboard.press('Shift+C');
    }
    await page.keyboard.press('Shift+Q');
    await page.getByText('4 of 12 done').waitFor();
    await shoot('cue-sheet');
    await page.getByRole('button', { name: 'Done', exact: true }).click();
    await dialogGone(page);
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /stair/ }).click();
    await page.getByRole('button', { name: /^Input:/ }).click();
    const [guest] = await Promise.all([
      app.context.waitForEvent('page'),
      page.getByRole('menuitem', { name: /^A guest who practises/ }).click(),
    ]);
    await guest.setViewportSize({ width: 1280, height: 800 });
    await page
      .getByLabel('Far away')
      .getByText(/input 1/)
      .waitFor({ timeout: 30_000 });
    await page.getByRole('button', { name: 'Continue', exact: true }).click();
    await page.keyboard.press('Enter');
    await recorded(page, 9);
    await page.getByTestId('arriving').waitFor();
    await page.screenshot({ path: 'docs/screenshots/far.png' });
    await guest.screenshot({ path: 'docs/screenshots/talent.png' });
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await page.keyboard.press('8');
    await page.getByRole('button', { name: /for all projects/ }).click();
    await page.getByText(/All of it is in/).waitFor({ timeout: 60_000 });
    await page.mouse.move(640, 790);
    await shoot('kept');
    await page.keyboard.press('Escape');
    await dialogGone(page);
    await page.getByRole('link', { name: 'Parola: all projects' }).click();
    await page.getByRole('heading', { name: 'Projects' }).waitFor();
    await shoot('projects');
    await page.getByRole('button', { name: 'New project' }).click();
    await page.getByLabel('Start from').click();
    await page.getByRole('option', { name: /Interview podcast/ }).click();
    await shoot('templates');
  } finally {
    await app.close();
    server.kill();
  }
}

void main();
