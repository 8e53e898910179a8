import type { Page } from 'playwright-core';
import {
  chooseFileInput,
  createProject,
  goTo,
  killBrowser,
  openApp,
  recorded,
  sheetFrames,
  type App,
} from './app';
import { noiseFile } from './noise';

export interface Killed {
  /** The application, opened again in the same profile. */
  again: App;
  /** Sheet frames before the take that was killed, at the kill, and after recovery. */
  before: number;
  shown: number;
  recovered: number;
}

/** Long enough for every take of a test that is killed. */
export const killNoise = () => noiseFile(60, 21);

/**
 * Records a sound file of noise, kills the browser in the middle of a take, and opens the project again.
 * `prepare` brings the Booth to where the fatal take begins, which is with Enter.
 */
export async function killWhileRecording(
  profile: string,
  project: string,
  seconds: number,
  prepare: (page: Page) => Promise<void> = async () => undefined,
): Promise<Killed> {
  const first = await openApp({ profile });
  await createProject(first.page, project, 'Podcast mono');
  await goTo(first.page, 'Booth');
  await chooseFileInput(first.page, killNoise().file);
  await prepare(first.page);
  const before = await sheetFrames(first.page);
  await first.page.keyboard.press('Enter');
  await recorded(first.page, seconds);
  const shown = await sheetFrames(first.page);
  killBrowser(profile);
  await first.close();
  const again = await openApp({ profile });
  await again.page.getByRole('link', { name: project }).click();
  await again.page.getByText(/is recovered/).waitFor();
  await again.page.getByTestId('sheet').waitFor();
  return { again, before, shown, recovered: await sheetFrames(again.page) };
}
