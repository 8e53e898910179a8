import { goTo, openApp, openDemo } from '../e2e/support/app';
import { startServer } from '../e2e/support/server';
async function main() {
  const server = await startServer();
  const app = await openApp();
  const { page } = app;
  page.on('console', (m) => m.type() === 'error' && console.log('console', m.text()));
  try {
    await openDemo(page);
    await goTo(page, 'Finish');
    await page.waitForTimeout(1500);
    await page.screenshot({ path: '/tmp/f1.png' });
    await page.keyboard.press('h');
    await page.waitForTimeout(500);
    await page.screenshot({ path: '/tmp/f2.png' });
    await page.getByRole('button', { name: 'Use Close to the microphone' }).click();
    await page.waitForTimeout(6000);
    await page.keyboard.press('g');
    await page.keyboard.press('g');
    await page.keyboard.press('g');
    await page.waitForTimeout(3000);
    await page.screenshot({ path: '/tmp/f3.png' });
    await page.keyboard.press('g');
    await page.keyboard.press('g');
    await page.waitForTimeout(1500);
    await page.screenshot({ path: '/tmp/f4.png' });
  } finally {
    await app.close();
    server.kill();
  }
}
void main().then(() => process.exit(0), (e) => { console.error(e); process.exit(1); });
