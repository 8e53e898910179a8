/** Takes the pictures in docs/screenshots from the demo data, with the built application. */
import { openApp, chooseInput, goTo } from '../e2e/support/app';
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
    await page.getByRole('button', { name: 'Open the demo' }).click();
    await page.waitForURL(/booth$/);
    await chooseInput(page, 'Practice reader');
    await page.mouse.move(700, 700);
    await shoot('booth');
    await goTo(page, 'Brief');
    await shoot('brief');
    await goTo(page, 'Proof');
    await page.getByRole('button', { name: 'Measure again' }).waitFor();
    await page.waitForTimeout(3000);
    await shoot('proof');
  } finally {
    await app.close();
    server.kill();
  }
}

void main();
