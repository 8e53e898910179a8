import type { Page } from 'playwright-core';
import { openApp, type App, type BrowserOptions } from './app';

/** What a test holds of the lines of a page. */
interface LineHooks {
  connections: RTCPeerConnection[];
  channels: RTCDataChannel[];
}

/**
 * Lines go over loopback addresses alone: whatever else a browser finds of this machine's addresses is left
 * out. The connections are kept, so that a test can cut one.
 */
export function overLoopback(): void {
  const hooks: LineHooks = { connections: [], channels: [] };
  Object.assign(window, { lines: hooks });
  const Plain = window.RTCPeerConnection;
  window.RTCPeerConnection = class extends Plain {
    constructor(configuration?: RTCConfiguration) {
      super(configuration);
      hooks.connections.push(this);
      this.addEventListener('datachannel', ({ channel }) => hooks.channels.push(channel));
    }
    override async setRemoteDescription(description: RTCSessionDescriptionInit): Promise<void> {
      const lines = (description.sdp ?? '').split('\r\n');
      const kept = lines.filter(
        (line) => !line.startsWith('a=candidate') || / (127\.0\.0\.1|::1) /.test(line),
      );
      await super.setRemoteDescription({ type: description.type, sdp: kept.join('\r\n') });
    }
  };
}

/** Cuts the line of a page, as when a cable is pulled: the other side hears nothing of it. */
export const cutLine = (page: Page) =>
  page.evaluate(() => {
    const { lines } = window as unknown as { lines: LineHooks };
    for (const connection of lines.connections) connection.close();
    // A closed connection tells nobody on its own side.
    for (const connection of lines.connections) connection.dispatchEvent(new Event('connectionstatechange'));
  });

/** Says something over the line that Parola would not say. */
export const sayOverLine = (page: Page, label: 'words' | 'blocks', texts: readonly string[]) =>
  page.evaluate(
    ([name, all]) => {
      const { lines } = window as unknown as { lines: LineHooks };
      const channel = lines.channels.findLast((one) => one.label === name && one.readyState === 'open');
      for (const text of all)
        if (name === 'words') channel?.send(text);
        else channel?.send(new TextEncoder().encode(text));
      return channel !== undefined;
    },
    [label, texts] as const,
  );

/** Bytes that the page has sent as blocks of audio, over all its lines. */
export const blockBytes = (page: Page): Promise<number> =>
  page.evaluate(async () => {
    const { lines } = window as unknown as { lines: LineHooks };
    const reports = await Promise.all(lines.connections.map((connection) => connection.getStats()));
    let bytes = 0;
    for (const report of reports)
      report.forEach((stats: { type: string; label?: string; bytesSent?: number }) => {
        if (stats.type === 'data-channel' && stats.label === 'blocks') bytes += stats.bytesSent ?? 0;
      });
    return bytes;
  });

/**
 * Bytes of sound that have come over the lines of a page (W3C WebRTC statistics): silence takes a fifth of
 * what speech does.
 */
export const soundBytes = (page: Page): Promise<number> =>
  page.evaluate(async () => {
    const { lines } = window as unknown as { lines: LineHooks };
    const reports = await Promise.all(lines.connections.map((connection) => connection.getStats()));
    let bytes = 0;
    for (const report of reports)
      report.forEach((stats: { type: string; bytesReceived?: number }) => {
        if (stats.type === 'inbound-rtp') bytes += stats.bytesReceived ?? 0;
      });
    return bytes;
  });

export const openSide = (options: BrowserOptions = {}) =>
  openApp({ before: overLoopback, whole: true, ...options });

/** Opens the session from the input list and returns the link. */
export async function openSession(page: Page): Promise<string> {
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /^Somebody far away/ }).click();
  const link = await page.getByLabel('Link for the talent').inputValue();
  return link;
}

export async function closeDialog(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Done', exact: true }).click();
  await page.waitForFunction(() => document.querySelector('[role=dialog]') === null);
}

/** The talent reads what will happen, agrees, chooses the microphone and goes to the studio's door. */
export async function comeIn(page: Page, link: string, name: string): Promise<void> {
  await page.goto(link);
  await page.getByLabel(/^Your name/).fill(name);
  await page.getByRole('checkbox', { name: /^I agree to be recorded/ }).check();
  await page.getByRole('button', { name: 'Go on to the microphone' }).click();
  await toTheDoor(page);
}

export async function toTheDoor(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Choose the microphone' }).click();
  await page.getByTestId('talent-microphone').waitFor();
  await page.getByRole('button', { name: 'Go to the studio' }).click();
}

export const inTheStudio = (page: Page) =>
  page.getByTestId('talent-line').filter({ hasText: 'In the studio' }).waitFor({ timeout: 30_000 });

/** Lets whoever is at the door in, and waits until the line is open at both ends. */
export async function letIn(studio: Page, talent: Page): Promise<void> {
  await studio.getByRole('button', { name: 'Let in', exact: true }).click();
  await inTheStudio(talent);
  await studio.getByText(/in the session · input 1/).waitFor();
}

/** How many takes stand on disk as they were recorded far away, and whether anything is still to come. */
export const arrivals = (page: Page): Promise<{ laid: number; coming: number }> =>
  page.evaluate(async () => {
    const db = await new Promise<IDBDatabase>((resolve) => {
      const request = indexedDB.open('parola');
      request.onsuccess = () => resolve(request.result);
    });
    const sources = await new Promise<{ role?: string; state: string; line?: unknown }[]>((resolve) => {
      const request = db.transaction('sources').objectStore('sources').getAll();
      request.onsuccess = () => resolve(request.result);
    });
    db.close();
    const laid = sources.filter(({ role, state, line }) => !role && state === 'kept' && !line).length;
    return { laid, coming: sources.filter(({ state }) => state === 'arriving').length };
  });

/** Everything that was asked for has come and stands in its place. */
export async function allArrived(studio: Page, takes: number): Promise<void> {
  const until = Date.now() + 60_000;
  for (;;) {
    const { laid, coming } = await arrivals(studio);
    if (laid === takes && coming === 0) return;
    if (Date.now() > until)
      throw new Error(`${laid} of ${takes} takes have come, ${coming} are on their way`);
    await studio.waitForTimeout(300);
  }
}

/** Half-second stretches are compared, which a line's jitter buffer does not stretch much. */
const stretch = 22_050;
const farthest = 4000;

/** The second lies where the first does where it is off by no more: a thousandth of a second. */
const nearby = 44;

/** How many frames later than the first the second fits it best, in the stretch from `from` on. */
function bestLag(
  first: Float32Array,
  second: Float32Array,
  from: number,
  lags: { least: number; most: number; step: number },
): number {
  let best = { lag: Number.NaN, product: -Infinity };
  for (let { least: lag } = lags; lag <= lags.most; lag++) {
    let product = 0;
    for (let i = 0; i < stretch; i += lags.step) product += first[from + i] * second[from + i + lag];
    if (product > best.product) best = { lag, product };
  }
  return best.lag;
}

/** How many frames the second lies later than the first in each stretch, as far as their sound tells. */
function lagsBetween(first: Float32Array, second: Float32Array): number[] {
  const lags: number[] = [];
  for (let from = farthest; from + stretch + farthest < first.length; from += stretch) {
    // With some of the frames roughly, then with all of them.
    const rough = bestLag(first, second, from, { least: -farthest, most: farthest, step: 17 });
    const [least, most] = [Math.max(-farthest, rough - 30), Math.min(farthest, rough + 30)];
    lags.push(bestLag(first, second, from, { least, most, step: 1 }));
  }
  return lags;
}

/**
 * In how many stretches the second lies where the first does, and in how many it would if it lay elsewhere: a
 * line holds its sound for longer or shorter from one moment to the next, above all when it was just opened.
 */
export function placesAgreeing(first: Float32Array, second: Float32Array) {
  const lags = lagsBetween(first, second);
  const agreeing = (lag: number) => lags.filter((other) => Math.abs(other - lag) <= nearby).length;
  return { here: agreeing(0), elsewhere: Math.max(...lags.map(agreeing)) };
}

export type { App };
