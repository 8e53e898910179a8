import { writeFileSync } from 'node:fs';
import { chooseInput, openApp, createProject, goTo, choose, dialogGone, saved } from '../e2e/support/app';
import { makeSpeechFile } from '../e2e/support/audio';
import { startServer } from '../e2e/support/server';
import { filmFile, pictureSeen } from '../e2e/support/film';
const rows = ['No;Who;In;Out;Line','1;Old keeper;00:00:06:00;00:00:08:10;You felt it before you saw it.','2;Young keeper;00:00:09:00;00:00:10:20;Every stone of it.','3;Old keeper;00:00:12:00;00:00:16:05;The night the boat came back without a light, I counted to a hundred and started again.','4;Young keeper;00:00:17:00;00:00:18:10;And then?'].join('\n');
writeFileSync('/tmp/look/list.csv', rows);
async function main() {
  makeSpeechFile();
  const server = await startServer();
  const app = await openApp();
  const { page } = app;
  try {
    await createProject(page, 'Talk', 'Podcast mono');
    await goTo(page, 'Booth');
    await chooseInput(page, 'Practice reader');
    await page.keyboard.press('Shift+I');
    await page.getByLabel('Sound files').setInputFiles([filmFile(20)]);
    await page.waitForTimeout(1500);
    await page.screenshot({ path: '/tmp/look/0.png' });
    await page.getByRole('button', { name: 'Import 1 file' }).click();
    await dialogGone(page);
    await page.waitForTimeout(1000);
    await page.keyboard.press('Shift+Q');
    await page.getByLabel('Cue list').setInputFiles('/tmp/look/list.csv');
    await page.getByRole('button', { name: /^Take 4 cues/ }).click();
    await page.keyboard.press('Escape');
    await page.waitForTimeout(500);
    await page.keyboard.press('Shift+ArrowDown');
    await page.waitForTimeout(800);
    console.log('still at cue 1:', await pictureSeen(page), 'wanted 150');
    await page.screenshot({ path: '/tmp/look/1.png' });
    // measure
    await page.evaluate(`(() => {
      window.log = [];
      const video = document.querySelector('[data-testid=film]');
      function again(_, m) { window.log.push([performance.now(), m.mediaTime, m.expectedDisplayTime, video.playbackRate, document.querySelector('[data-testid=timecode]').textContent]); video.requestVideoFrameCallback(again); }
      video.requestVideoFrameCallback(again);
    })()`);
    await page.keyboard.press('/');
    await page.waitForTimeout(2200);
    await page.screenshot({ path: '/tmp/look/2.png' });
    await page.waitForTimeout(5500);
    const log = await page.evaluate(() => (window as any).log);
    console.log(log.length, log.slice(0, 12), log.slice(60, 66));
    await page.keyboard.press('Enter');
    await page.waitForTimeout(4200);
    await page.screenshot({ path: '/tmp/look/3.png' });
    await page.waitForTimeout(4000);
    await page.screenshot({ path: '/tmp/look/4.png' });
    const popup = page.waitForEvent('popup');
    await page.keyboard.press('#');
    const other = await popup;
    await page.keyboard.press('/');
    await page.waitForTimeout(2200);
    await other.screenshot({ path: '/tmp/look/5.png' });
    console.log(app.complaints);
  } catch (e) { console.log(e, app.complaints); await page.screenshot({ path: '/tmp/look/err.png' }); } finally { await app.close(); server.kill(); process.exit(0); }
}
void main();
