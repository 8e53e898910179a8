import type { Page } from 'playwright-core';
import { dialogGone, recorded, takePlaced } from './app';

/** Sets the run-up to so many steps of half a second over the shortest. */
export async function setRunUp(page: Page, steps: number): Promise<void> {
  await page.getByRole('button', { name: /^Run-up/ }).click();
  const slider = page.getByRole('slider', { name: 'Run-up in seconds' });
  await slider.focus();
  await page.keyboard.press('Home');
  for (let i = 0; i < steps; i++) await page.keyboard.press('ArrowRight');
  await closeOptions(page);
}

/** Closes the options of Record; keys mean the Booth again once they are gone. */
export async function closeOptions(page: Page): Promise<void> {
  await page.keyboard.press('Escape');
  await dialogGone(page);
}

/** Presses Enter, waits for the run-up to end, records for a while, and ends the take. */
export async function punch(page: Page, seconds: number): Promise<void> {
  await page.keyboard.press('Enter');
  await recorded(page, seconds);
  await page.keyboard.press('Enter');
  await takePlaced(page);
}
