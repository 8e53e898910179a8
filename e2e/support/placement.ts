import type { Page } from 'playwright-core';
import { concat } from '@/core/testing/signals';
import { dialogGone } from './app';
import { storedPieces, storedTakes } from './stored';

/**
 * Lets the practice reader hear what is played, later by so many frames, and measures its round trip as a
 * user would.
 */
export async function setSimulatedDevice(page: Page, delayFrames: number): Promise<void> {
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
  const dialog = page.getByRole('dialog');
  const ears = dialog.getByRole('switch', { name: 'It hears what is played' });
  if (!(await ears.isChecked())) await ears.click();
  const field = dialog.getByLabel('Delay in frames');
  await field.fill(String(delayFrames));
  await field.blur();
  await page.waitForTimeout(300);
  await dialog.getByRole('button', { name: 'Loopback check' }).click();
  await dialog.getByText(`Measured: ${delayFrames} frames`).waitFor({ timeout: 20_000 });
  await dialog.getByRole('button', { name: 'Done' }).click();
  await dialogGone(page);
}

const longestLag = 600;

/**
 * How many frames a take lies off its place: its handle holds the run-up as the simulated device heard it,
 * which has to be the very audio that stands before the punch. Both end at the punch; lags up to 600 frames
 * either way are tried.
 */
export function lagOf(handle: Float32Array, heard: Float32Array): number {
  let best = { lag: Number.NaN, error: Infinity };
  const frames = Math.min(handle.length, heard.length) - 2 * longestLag;
  for (let lag = -longestLag; lag <= longestLag; lag++) {
    let error = 0;
    for (let i = longestLag; i < frames && error < best.error; i++) {
      error += (handle[handle.length - 1 - i] - heard[heard.length - 1 - i + lag]) ** 2;
    }
    if (error < best.error) best = { lag, error };
  }
  return best.lag;
}

/** The lag of the newest take against what is heard before it; joins, which are short, are left out. */
export async function echoLag(page: Page): Promise<number> {
  const takes = await storedTakes(page);
  const last = takes[takes.length - 1];
  const pieces = await storedPieces(page);
  const end = pieces.findIndex(({ source, from }) => source === last.id && from === last.handleFrames);
  const heard = pieces
    .slice(0, end)
    .filter(({ struck }) => !struck)
    .map(({ source, from, length }) =>
      takes.find(({ id }) => id === source)?.channels[0].subarray(from, from + length),
    );
  const all = concat(...heard.map((part) => part ?? new Float32Array(0)));
  return lagOf(last.channels[0].subarray(0, last.handleFrames), all);
}
