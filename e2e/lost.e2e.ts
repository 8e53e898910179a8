import type { Page } from 'playwright-core';
import {
  chooseFileInput,
  chooseInput,
  closeOpened,
  createProject,
  goTo,
  openApp,
  recorded,
  recordFor,
  sheetFrames,
  takePlaced,
  type App,
} from './support/app';
import { differencesFrom, noiseFile } from './support/noise';
import { storedTakes } from './support/stored';

/**
 * What is there to record with goes away: a device is unplugged, a simulated one ends, the browser closes or
 * interrupts the sound, the recorder dies. Each time the user must be able to go on within two seconds: the
 * take stands in the list and on the sheet, an input can be chosen, the next take is recorded.
 */
afterEach(closeOpened);

const noise = noiseFile(120, 33);
const limitMs = 2000;

/** Hooks into what the browser gives the page, so that a test can take it away as the browser would. */
async function openWithHooks(): Promise<App> {
  const app = await openApp();
  await app.page.addInitScript(() => {
    const hooks = {
      tracks: [] as MediaStreamTrack[],
      contexts: [] as AudioContext[],
      nodes: [] as [name: string, node: AudioWorkletNode][],
      recorders: [] as Worker[],
      /** What the browser does when a device is unplugged. */
      unplug() {
        for (const track of hooks.tracks) {
          track.stop();
          track.dispatchEvent(new Event('ended'));
        }
      },
      endSimulated() {
        for (const [name, node] of hooks.nodes)
          if (name === 'parola-simulated') node.dispatchEvent(new Event('processorerror'));
      },
      closeContext: () => Promise.all(hooks.contexts.map((context) => context.close())),
      suspendContext: () => Promise.all(hooks.contexts.map((context) => context.suspend())),
      killRecorder: () => hooks.recorders[hooks.recorders.length - 1].terminate(),
    };
    Object.assign(window, { hooks });
    const { mediaDevices } = navigator;
    const getUserMedia = mediaDevices.getUserMedia.bind(mediaDevices);
    mediaDevices.getUserMedia = async (constraints) => {
      const stream = await getUserMedia(constraints);
      hooks.tracks.push(...stream.getAudioTracks());
      return stream;
    };
    window.AudioContext = class extends AudioContext {
      constructor(options?: AudioContextOptions) {
        super(options);
        hooks.contexts.push(this);
      }
    };
    window.AudioWorkletNode = class extends AudioWorkletNode {
      constructor(context: BaseAudioContext, name: string, options?: AudioWorkletNodeOptions) {
        super(context, name, options);
        hooks.nodes.push([name, this]);
      }
    };
    const post = Worker.prototype.postMessage;
    Worker.prototype.postMessage = function (this: Worker, ...message: [never, never]) {
      const [{ type }] = message as unknown as [{ type?: string }];
      if (type === 'attach' && !hooks.recorders.includes(this)) hooks.recorders.push(this);
      return post.apply(this, message);
    };
  });
  await app.page.reload();
  return app;
}

type Hook = 'unplug' | 'endSimulated' | 'closeContext' | 'suspendContext' | 'killRecorder';
const pull = (page: Page, hook: Hook) =>
  page.evaluate((name) => {
    const { hooks } = window as unknown as { hooks: Record<string, () => unknown> };
    void hooks[name]();
  }, hook);

async function openBooth(name: string, input: 'microphone' | 'file'): Promise<App> {
  const app = await openWithHooks();
  await createProject(app.page, name, 'Podcast mono');
  await goTo(app.page, 'Booth');
  if (input === 'microphone') await chooseInput(app.page, 'Microphone');
  else await chooseFileInput(app.page, noise.file);
  return app;
}

const within = { timeout: limitMs };

/** The take stands in the list and on the sheet, and nothing is being stored any more. */
async function takeStands(page: Page, count: number) {
  await page.getByRole('tab', { name: `Takes ${count}` }).waitFor(within);
  await page
    .getByRole('button', { name: /^Record: / })
    .getByText('storing the take')
    .waitFor({ state: 'detached', ...within });
}

/** With an input chosen the next take is recorded, after the one before on the sheet. */
async function nextTake(page: Page, count: number) {
  const before = await sheetFrames(page);
  await recordFor(page, 1);
  await page.getByRole('tab', { name: `Takes ${count}` }).waitFor();
  expect(await sheetFrames(page)).toBeGreaterThan(before + 0.8 * 44_100);
}

const cases: [string, Hook, 'microphone' | 'file', RegExp][] = [
  [
    'a microphone that is unplugged',
    'unplug',
    'microphone',
    /went away while recording\. Everything up to then is kept/,
  ],
  [
    'a simulated input that ends',
    'endSimulated',
    'file',
    /went away while recording\. Everything up to then is kept/,
  ],
  [
    'sound that the browser closes',
    'closeContext',
    'file',
    /went away while recording\. Everything up to then is kept/,
  ],
];

test.each(cases)(
  '%s during a take: the take is kept, another input is chosen, the next take recorded',
  async (_name, hook, input, message) => {
    const app = await openBooth('Gone', input);
    const { page } = app;
    await page.keyboard.press('Enter');
    await recorded(page, 2);
    await pull(page, hook);
    await takeStands(page, 1);
    await page.getByText(message).waitFor(within);
    await page.getByRole('button', { name: /not available/ }).waitFor(within);
    expect(await sheetFrames(page)).toBeGreaterThan(1.5 * 44_100);
    if (input === 'file') {
      const [take] = await storedTakes(page);
      const all = take.channels[0].subarray(take.handleFrames);
      const length = await sheetFrames(page);
      expect(differencesFrom(all.subarray(0, length), noise.channels[0])).toEqual({ at: 0, different: 0 });
      // Behind the take the input had been told to stop: what it still gave is its own, or silence.
      const behind = all.subarray(length);
      expect(behind.every((value, i) => value === 0 || value === noise.channels[0][length + i])).toBe(true);
    }
    // The same kind of input again, and another one.
    if (input === 'file') await chooseFileInput(page, noise.file);
    else await chooseInput(page, 'Microphone');
    await nextTake(page, 2);
    await chooseInput(page, 'Practice reader');
    await nextTake(page, 3);
    // The screen can be left.
    await goTo(page, 'Proof');
    expect(app.complaints).toEqual([]);
  },
);

test('sound that the browser interrupts during a take: the take is kept, and the next one recorded with the same input', async () => {
  const app = await openBooth('Interrupted', 'file');
  const { page } = app;
  await page.keyboard.press('Enter');
  await recorded(page, 2);
  await pull(page, 'suspendContext');
  await takeStands(page, 1);
  const message = page
    .getByRole('alert')
    .filter({ hasText: /interrupted the sound\. Everything up to then/ });
  await message.waitFor(within);
  await nextTake(page, 2);
  // There is more to say about it, in a window of its own.
  const [help] = await Promise.all([
    app.context.waitForEvent('page'),
    message.getByRole('link', { name: 'More in the help' }).click(),
  ]);
  const section = help.getByRole('heading', { name: 'When something goes wrong' }).nth(2);
  await expect(section.getAttribute('id')).resolves.toBe('booth-wrong');
  await help.waitForFunction(() => {
    const { top } = document.getElementById('booth-wrong')?.getBoundingClientRect() ?? { top: -1 };
    return top >= 0 && top < 100;
  });
  expect(app.complaints).toEqual([]);
});

test('a recorder that dies during a take: what it had stored is placed, and the next take is recorded by a new one', async () => {
  const app = await openBooth('Dead recorder', 'file');
  const { page } = app;
  await page.keyboard.press('Enter');
  await recorded(page, 3);
  await pull(page, 'killRecorder');
  await takeStands(page, 1);
  await page.getByText(/The recorder stopped unexpectedly.*Everything up to then is kept/).waitFor(within);
  const [take] = await storedTakes(page);
  const own = take.channels[0].subarray(take.handleFrames);
  // Whole blocks of 0.37 s: what had not reached the disk is missing.
  expect(own.length).toBeGreaterThan(2 * 44_100);
  expect(differencesFrom(own, noise.channels[0])).toEqual({ at: 0, different: 0 });
  await nextTake(page, 2);
  expect(app.complaints).toEqual([]);
});

test('a recorder that dies before a take has begun: Record is free again', async () => {
  const app = await openBooth('Dead early', 'file');
  const { page } = app;
  // One that ends while it is still being loaded is replaced at once, and nobody notices.
  await page.waitForTimeout(1500);
  await pull(page, 'killRecorder');
  await page.keyboard.press('Enter');
  await page.getByText(/The recorder stopped unexpectedly/).waitFor({ timeout: 8000 });
  await takePlaced(page);
  await nextTake(page, 1);
});

test('a microphone that is unplugged before the run-up is over: nothing hangs, nothing is placed', async () => {
  const app = await openBooth('Run-up', 'microphone');
  const { page } = app;
  await recordFor(page, 2);
  const before = await sheetFrames(page);
  await page.keyboard.press('2');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Call the run-up off' }).waitFor();
  await pull(page, 'unplug');
  await page.getByRole('button', { name: /not available/ }).waitFor(within);
  expect(await sheetFrames(page)).toBe(before);
  await chooseInput(page, 'Practice reader');
  await page.keyboard.press('1');
  await nextTake(page, 2);
});

test('a microphone that is unplugged during a sound check: the check ends with a word, and can be made again', async () => {
  const app = await openBooth('Check', 'microphone');
  const { page } = app;
  await page.keyboard.press('k');
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /Begin|Start/ }).click();
  await page.waitForTimeout(1200);
  await pull(page, 'unplug');
  await page.getByText(/The sound check stopped: The input went away/).waitFor(within);
  await page.keyboard.press('Escape');
  await chooseInput(page, 'Practice reader');
  await nextTake(page, 1);
});

test('a microphone that is unplugged during a loopback check: the check ends with a word', async () => {
  const app = await openBooth('Loopback', 'microphone');
  const { page } = app;
  await page.getByRole('button', { name: /^Input:/ }).click();
  await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
  await page.getByRole('button', { name: /round trip|loopback/i }).click();
  await page.waitForTimeout(400);
  await pull(page, 'unplug');
  // As an alert that a screen reader reads out, though a dialog is open.
  await page
    .getByRole('alert')
    .filter({ hasText: /went away\. Plug it in and choose it again/ })
    .waitFor(within);
  await page.getByRole('button', { name: 'Done' }).click();
  await chooseInput(page, 'Practice reader');
  await nextTake(page, 1);
});
