import { openApp } from './e2e/support/app';
import { makeSpeechFile } from './e2e/support/audio';
import { startServer } from './e2e/support/server';
makeSpeechFile();
const server = await startServer();
const app = await openApp();
const { page } = app;
try {
  await page.waitForTimeout(800);
  await page.screenshot({ path: '/tmp/look-1.png' });
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await page.waitForURL(/booth/, { timeout: 20000 });
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/look-2.png' });
  await page.getByRole('link', { name: 'Proof' }).click();
  await page.waitForTimeout(5000);
  await page.screenshot({ path: '/tmp/look-3.png' });
  await page.getByRole('link', { name: 'Brief' }).click();
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/look-4.png' });
} catch (e) {
  console.log(e);
  await page.screenshot({ path: '/tmp/look-err.png' });
}
console.log(app.complaints);
await app.close();
server.kill();
process.exit(0);
