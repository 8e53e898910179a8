import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { chromium, type BrowserContext, type Page } from 'playwright-core';
import { speechFile } from './audio';
import { within } from '../../src/core/base/waiting';
import { baseUrl } from './server';
import { warmUp } from './warm';

export const quiet = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

export interface BrowserOptions {
  /** What the fake microphone plays; null for a browser with no microphone at all. */
  microphone?: string | null;
  /** False: the browser refuses the microphone. */
  permission?: boolean;
  profile?: string;
  viewport?: { width: number; height: number };
  /** What the browser prefers; English when missing. */
  language?: string;
  /** The system was asked for less motion. */
  still?: boolean;
  /** A screen that is touched. */
  touch?: boolean;
  /** The whole browser, not the shell without a window. */
  whole?: boolean;
  /** The application keeps itself in the browser, as it does for everybody; others have no need of it. */
  offline?: boolean;
  /** Runs in every page before anything else. */
  before?: () => void;
}

export interface App {
  context: BrowserContext;
  page: Page;
  profile: string;
  /** Everything that must not happen: errors on the console, requests to other origins. */
  complaints: string[];
  close(): Promise<void>;
}

/**
 * The shell without a window is the same browser at less work. It does not ask for permissions, and has no
 * lines over loopback addresses: for that it takes the whole browser.
 */
export const browserFor = (whole: boolean) =>
  process.env.CHROMIUM ?? (whole ? '/usr/bin/chromium' : '/usr/bin/chromium-headless-shell');

/** Opens the application in a fresh Chromium profile, or in one that was used before. */
export async function openApp(options: BrowserOptions = {}): Promise<App> {
  const { microphone = speechFile, permission = true, viewport = { width: 1280, height: 800 } } = options;
  const profile = options.profile ?? mkdtempSync(path.join(tmpdir(), 'parola-e2e-'));
  warmUp(profile);
  const audio = microphone
    ? ['--use-fake-device-for-media-stream', `--use-file-for-fake-audio-capture=${path.resolve(microphone)}`]
    : [];
  const allow = permission ? ['--use-fake-ui-for-media-stream'] : ['--deny-permission-prompts'];
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: browserFor(options.whole === true || !permission),
    args: [
      ...quiet,
      '--autoplay-policy=no-user-gesture-required',
      '--allow-loopback-in-peer-connection',
      ...audio,
      ...allow,
    ],
    viewport,
    reducedMotion: options.still ? 'reduce' : 'no-preference',
    hasTouch: options.touch === true,
    locale: options.language ?? 'en-US',
    acceptDownloads: true,
    serviceWorkers: options.offline ? 'allow' : 'block',
  });
  context.setDefaultTimeout(15_000);
  if (options.before) await context.addInitScript(options.before);
  const page = context.pages()[0] ?? (await context.newPage());
  const complaints: string[] = [];
  watch(page, complaints);
  context.on('page', (other) => watch(other, complaints));
  await page.goto(baseUrl);
  const app: App = {
    context,
    page,
    profile,
    complaints,
    async close() {
      opened.delete(app);
      await within(context.close(), patienceMs, '').catch(() => killBrowser(profile));
      if (!options.profile) rmSync(profile, { recursive: true, force: true });
    },
  };
  opened.add(app);
  return app;
}

const opened = new Set<App>();

/** A browser that hangs is not waited for: the test that it failed has something to say. */
const patienceMs = 10_000;

/**
 * Closes what a failed test has left open: a browser that goes on drawing takes the time that the next
 * recording needs.
 */
export async function closeOpened(): Promise<void> {
  for (const app of opened) await app.close();
}

const saidAs = '[role=alert], [role=status], [role=dialog]';

/** Prints what each open page says to its user, and what it said to the console. */
async function tellPages(): Promise<void> {
  for (const { context, complaints } of opened) {
    for (const page of context.pages()) {
      const texts = page.locator(saidAs).allInnerTexts();
      const said = await within(texts, patienceMs, '').catch(() => ['nothing any more']);
      console.log(`${page.url()} says:\n${said.filter(Boolean).join('\n')}`);
    }
    console.log(complaints.join('\n'));
  }
}
Object.assign(globalThis, { tellPages });

function watch(page: Page, complaints: string[]) {
  page.on('console', (message) => {
    if (message.type() === 'error') complaints.push(`console: ${message.text()}`);
  });
  page.on('pageerror', (error) => complaints.push(`page: ${error.message}`));
  page.on('request', (request) => {
    const url = new URL(request.url());
    const local = url.origin === baseUrl || ['blob:', 'data:'].includes(url.protocol);
    if (!local) complaints.push(`request: ${request.url()}`);
  });
}

/** Creates a project through the dialog and leaves its Brief open. */
export async function createProject(
  page: Page,
  name: string,
  spec = 'Audiobook retail',
  rate?: string,
): Promise<void> {
  await page.getByRole('button', { name: 'New project' }).click();
  await page.getByLabel('Name').fill(name);
  if (spec !== 'Audiobook retail') {
    await page.getByLabel('Delivery specification').click();
    await page.getByRole('option', { name: spec }).click();
  }
  if (rate) {
    await page.getByLabel('Recording sample rate').click();
    await page.getByRole('option', { name: rate }).click();
  }
  await page.getByRole('button', { name: 'Create' }).click();
  await page.waitForURL(/\/brief$/);
}

export async function goTo(page: Page, screen: 'Brief' | 'Booth' | 'Finish' | 'Proof'): Promise<void> {
  await page.getByRole('link', { name: screen, exact: true }).click();
  await page.waitForURL(new RegExp(`/${screen.toLowerCase()}$`));
}

const menuItems = {
  'Practice reader': /^Practice reader Reads/,
  'Two voices': /^Practice reader, two voices/,
  'Practice interpreter': /^Practice interpreter/,
  'Cue by cue': /^Practice reader, cue by cue/,
};

export async function chooseInput(page: Page, which: keyof typeof menuItems | 'Microphone'): Promise<void> {
  await page.getByRole('button', { name: /^Input:/ }).click();
  const item =
    which === 'Microphone'
      ? page.getByRole('menuitem').first()
      : page.getByRole('menuitem', { name: menuItems[which] });
  await item.click();
  await page.getByRole('button', { name: /^Input: .*kHz/ }).waitFor();
}

export const sheetFrames = async (page: Page) =>
  Number(await page.getByTestId('sheet').getAttribute('data-frames'));

/** Waits until the sheet is there with this many frames. */
export const sheetHas = (page: Page, frames: number) =>
  page.locator(`[data-testid=sheet][data-frames="${frames}"]`).waitFor();

/** Seconds that the clock of the deck shows. */
export const clockSeconds = async (page: Page): Promise<number> =>
  ((await page.getByTestId('clock').textContent()) ?? '')
    .split(':')
    .reduce((total, part) => total * 60 + Number(part), 0);

/**
 * Waits until a running take has got this long, by its own clock: on a busy machine audio can run slower than
 * time.
 */
export async function recorded(page: Page, seconds: number): Promise<void> {
  await page.getByRole('button', { name: 'Stop recording' }).waitFor({ timeout: 30_000 });
  const until = (await clockSeconds(page)) + seconds;
  while ((await clockSeconds(page)) < until) await page.waitForTimeout(50);
}

/** Records for about this long, by keyboard, and waits until the take stands on the sheet. */
export async function recordFor(page: Page, seconds: number): Promise<void> {
  await page.keyboard.press('Enter');
  await recorded(page, seconds);
  await page.keyboard.press('Enter');
  await takePlaced(page);
}

/** Resolves when a take that was ended stands on the sheet and is stored. */
export async function takePlaced(page: Page): Promise<void> {
  await page.locator('button[aria-label^="Record: "]:not([disabled])').waitFor();
  await saved(page);
}

/** Waits until everything done so far is stored. */
export async function saved(page: Page): Promise<void> {
  // What was just pressed is drawn first: until then the status tells of what was before.
  await page.evaluate(
    () => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(() => drawn(null)))),
  );
  await page
    .getByRole('status')
    .filter({ hasText: /^Saved(?: · |$)/ })
    .waitFor();
}

/** Clicks what starts a download and returns where the file was put. */
export async function download(page: Page, start: () => Promise<void>, folder: string): Promise<string> {
  const [file] = await Promise.all([page.waitForEvent('download', { timeout: 60_000 }), start()]);
  const target = path.join(folder, file.suggestedFilename());
  await file.saveAs(target);
  return target;
}

/** Exports the open part as 32-bit float WAV and returns the file. */
export async function exportFloat(page: Page, folder: string): Promise<string> {
  await goTo(page, 'Proof');
  await page.getByRole('combobox', { name: 'What' }).click();
  await page.getByRole('option', { name: 'The open part' }).click();
  await page.getByLabel('Format').click();
  await page.getByRole('option', { name: 'WAV · 32-bit float' }).click();
  await page.getByLabel('Sample rate').click();
  const rates = page.getByRole('option');
  const recorded = await page.evaluate(() =>
    document.querySelector('[data-recorded-rate]')?.getAttribute('data-recorded-rate'),
  );
  await rates.filter({ hasText: `${Number(recorded) / 1000} kHz` }).click();
  return download(page, () => page.getByRole('button', { name: /^Export 1 file/ }).click(), folder);
}

/** Chooses an option of a field by their labels; an option given as text is the whole of its label. */
export async function choose(page: Page, field: string, option: string | RegExp): Promise<void> {
  await page.getByLabel(field, { exact: true }).click();
  await page.getByRole('option', { name: option, exact: typeof option === 'string' }).click();
}

/**
 * SIGKILL to every process of the browser that uses this profile: nothing gets to write or say anything any
 * more.
 */
export function killBrowser(profile: string): void {
  spawnSync('pkill', ['-9', '-f', `user-data-dir=${profile}`]);
}

/** Keys mean the Booth again once a dialog has left the page, not already when it is hidden. */
export const dialogGone = (page: Page) =>
  page.waitForFunction(() => document.querySelector('[role=dialog]') === null);

/** Opens the demo project from the first visit and waits for its sheet, or what a phone has for it. */
export async function openDemo(page: Page, shown = 'sheet'): Promise<void> {
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await page.waitForURL(/booth$/);
  await page.getByTestId(shown).waitFor();
}

/** Chooses a sound file as the input: what is recorded is what is in it, from its beginning on. */
export async function chooseFileInput(page: Page, file: string): Promise<void> {
  await page.getByLabel('Sound file as input').setInputFiles(file);
  await page.getByRole('button', { name: new RegExp(`^Input: ${path.basename(file)} .*kHz`) }).waitFor();
}
