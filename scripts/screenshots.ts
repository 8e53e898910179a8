/** Takes the pictures in docs/screenshots from the demo data, with the built application. */
import { chooseInput, goTo, openApp, openDemo, takePlaced } from '../e2e/support/app';
import { makeSpeechFile } from '../e2e/support/audio';
import { startServer } from '../e2e/support/server';

async function main() {
  makeSpeechFile();
  const server = await startServer();
  const app = await openApp();
  const { page } = app;
  const shoot = async (name: string) => {
    await page.waitForTimeout(700);
    await page.screenshot({ path: `docs/screenshots/${name}.png` });
  };
  try {
    await openDemo(page);
    await chooseInput(page, 'Practice reader');
    // The first flub is struck, so that a strike is in the picture.
    await page.getByRole('tab', { name: 'Marks 2' }).click();
    await page.getByRole('button', { name: /^Go to Flub 1/ }).click();
    await page.keyboard.press('Backspace');
    await page.getByRole('tab', { name: 'Script' }).click();
    await page.mouse.move(700, 700);
    await shoot('booth');
    await page.keyboard.press('?');
    await shoot('keys');
    await page.keyboard.press('Escape');
    await goTo(page, 'Brief');
    await shoot('brief');
    await goTo(page, 'Proof');
    await page.getByRole('button', { name: 'Measure again' }).waitFor();
    await page.getByText(/of 6 parts pass/).waitFor();
    await shoot('proof');
    await goTo(page, 'Booth');
    await page.getByRole('button', { name: /^Part: / }).click();
    await page.getByRole('menuitem', { name: /The lamp/ }).click();
    await page.getByRole('button', { name: /Lamp theme/ }).click();
    await page.keyboard.press('Enter');
    await page.waitForTimeout(15_500);
    await page.keyboard.press('f');
    await page.waitForTimeout(3000);
    await shoot('booth-recording-lamp');
    await page.keyboard.press('Enter');
    await takePlaced(page);
    await page.getByRole('button', { name: 'Light theme' }).click();
    await page.getByRole('link', { name: 'Parola: all projects' }).click();
    await page.getByRole('heading', { name: 'Projects' }).waitFor();
    await shoot('projects');
  } finally {
    await app.close();
    server.kill();
  }
}

void main();
