import type { Page } from 'playwright-core';
import { dialogGone } from './app';
import { storedTakes } from './stored';

/** Lets the practice reader hear what is played, later by so many frames, and measures its round trip as a user would. */
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

/**
 * How many frames the newest take lies off its place: its handle holds the run-up as the simulated device heard it, which has to be the very
 * audio that stands before the punch. Compared over half a second, for lags up to 600 frames either way.
 */
export async function echoLag(page: Page): Promise<number> {
  const takes = await storedTakes(page);
  const last = takes[takes.length - 1];
  const heard = await heardBefore(page, last.handleFrames);
  const handle = last.channels[0].subarray(0, last.handleFrames);
  const frames = Math.min(handle.length, heard.length) - 1200;
  let best = { lag: Number.NaN, error: Infinity };
  for (let lag = -600; lag <= 600; lag++) {
    let error = 0;
    // Both end at the punch.
    for (let i = 600; i < frames && error < best.error; i++) {
      error += (handle[handle.length - 1 - i] - heard[heard.length - 1 - i + lag]) ** 2;
    }
    if (error < best.error) best = { lag, error };
  }
  return best.lag;
}

/** What is heard before the newest take, pieces put together from the stored sources; joins are left out. */
export async function heardBefore(page: Page, newestHandle: number): Promise<Float32Array> {
  const list = await page.evaluate(
    () =>
      new Promise<{
        pieces: { source: string; from: number; length: number; struck: boolean }[];
        ids: string[];
      }>((resolve) => {
        const open = indexedDB.open('parola');
        open.onsuccess = () => {
          const tx = open.result.transaction(['parts', 'sources']);
          const parts = tx.objectStore('parts').getAll();
          const sources = tx.objectStore('sources').getAll();
          tx.oncomplete = () => {
            open.result.close();
            const takes = sources.result
              .filter((source: { role?: string }) => (source.role ?? 'take') === 'take')
              .sort((a: { startedAt: number }, b: { startedAt: number }) => a.startedAt - b.startedAt);
            resolve({
              pieces: parts.result[0].timeline.tracks[0].pieces,
              ids: takes.map(({ id }: { id: string }) => id),
            });
          };
        };
      }),
  );
  const takes = await storedTakes(page);
  const newest = list.ids[list.ids.length - 1];
  const end = list.pieces.findIndex(({ source, from }) => source === newest && from === newestHandle);
  const parts = list.pieces
    .slice(0, end)
    .filter(({ struck }) => !struck)
    .map(({ source, from, length }) =>
      takes[list.ids.indexOf(source)].channels[0].subarray(from, from + length),
    );
  const all = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}
