import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { decode, probe } from './support/audio';
import {
  chooseInput,
  createProject,
  download,
  goTo,
  openApp,
  recordFor,
  saved,
  sheetFrames,
  type App,
} from './support/app';

/**
 * The main job from an empty machine to a file that ffmpeg reads, by keyboard wherever a voice artist would.
 */
describe('from an empty project to a file', () => {
  let app: App;
  beforeAll(async () => {
    app = await openApp();
  });
  afterAll(() => app.close());

  test('record with the practice reader, strike, close up, undo after a reload, export', async () => {
    const { page } = app;
    const folder = mkdtempSync(path.join(tmpdir(), 'parola-files-'));
    await createProject(page, 'First job', 'Dry voice');
    await goTo(page, 'Booth');
    await expect(page.getByRole('button', { name: /^Record: / }).isDisabled()).resolves.toBe(true);
    await chooseInput(page, 'Practice reader');
    await recordFor(page, 4);
    const recorded = await sheetFrames(page);
    expect(recorded).toBeGreaterThan(3.5 * 48_000);
    expect(recorded).toBeLessThan(6 * 48_000);

    // Strike the first half by pointer and key, close it up.
    const sheet = page.getByTestId('sheet').locator('canvas').nth(1);
    await sheet.dragTo(sheet, { sourcePosition: { x: 120, y: 60 }, targetPosition: { x: 200, y: 60 } });
    await page.keyboard.press('Backspace');
    await saved(page);
    expect(await sheetFrames(page)).toBe(recorded);
    await page.keyboard.press('Control+j');
    await saved(page);
    const closedUp = await sheetFrames(page);
    expect(closedUp).toBeLessThan(recorded);

    // The history survives a reload.
    await page.reload();
    await page.getByTestId('sheet').waitFor();
    expect(await sheetFrames(page)).toBe(closedUp);
    await page.keyboard.press('Control+z');
    await saved(page);
    expect(await sheetFrames(page)).toBe(recorded);
    await page.keyboard.press('Control+Shift+z');
    await saved(page);
    expect(await sheetFrames(page)).toBe(closedUp);

    await goTo(page, 'Proof');
    await page.getByLabel('Format').click();
    await page.getByRole('option', { name: 'WAV · 32-bit float' }).click();
    const file = await download(
      page,
      () => page.getByRole('button', { name: 'Export 1 file' }).click(),
      folder,
    );
    expect(path.basename(file)).toBe('First-job_01_Part-1.wav');
    expect(probe(file)).toMatchObject({ codec: 'pcm_f32le', sampleRate: 48_000, channels: 1 });
    expect(decode(file)).toHaveLength(closedUp);
    expect(app.complaints).toEqual([]);
  });
});
