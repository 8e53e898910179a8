import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { AxeResults } from 'axe-core';
import type { Page } from 'playwright-core';
import { chooseInput, dialogGone, goTo, openApp, openDemo, recordFor, type App } from './support/app';
import './support/after';
import { baseUrl } from './support/server';

/** Run in the page through the debugger, which the page's own policy does not bind. */
const axe = readFileSync(createRequire(__filename).resolve('axe-core/axe.min.js'), 'utf8');

/** WCAG 2.2 at A and AA, and what axe calls best practice. */
const everything = {
  type: 'tag',
  values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22a', 'wcag22aa', 'best-practice'],
};
/** Themes differ in nothing but colours. */
const colours = { type: 'rule', values: ['color-contrast', 'link-in-text-block'] };
type Rules = typeof everything;
/** Nothing is put together of what passes. */
const onlyFaults = { resultTypes: ['violations'], selectors: false, elementRef: false };

/** What lies over the page; what is under it was looked at by itself. */
const over = '[role=dialog], [role=menu]';

async function violations(page: Page, rules: Rules, root: string): Promise<string[]> {
  // Everything has come in: what fades has no contrast of its own.
  await page.waitForFunction(() =>
    document
      .getAnimations()
      .every(
        ({ playState, effect }) =>
          playState !== 'running' || effect?.getComputedTiming().endTime === Infinity,
      ),
  );
  if (!(await page.evaluate('typeof axe !== "undefined"'))) await page.evaluate(axe);
  const { violations: found } = (await page.evaluate(
    `axe.run(document.querySelector(${JSON.stringify(root)}) ?? document, ${JSON.stringify({ ...onlyFaults, runOnly: rules })})`,
  )) as AxeResults;
  return found.flatMap(({ id, nodes }) =>
    nodes.map(
      ({ html, any, all }) =>
        `${id}: ${html.replace(/(Mui|mui)[\w-]+ ?/g, '').slice(0, 260)} · ${[...any, ...all].map(({ message }) => message).join(' ')}`,
    ),
  );
}

/** Both themes stand in every page; an attribute says which one is shown. Returns what it said before. */
const setScheme = (page: Page, scheme: string | null): Promise<string | null> =>
  page.evaluate((wanted) => {
    const root = document.documentElement;
    const before = root.getAttribute('data-scheme');
    if (wanted === null) root.removeAttribute('data-scheme');
    else root.setAttribute('data-scheme', wanted);
    return before;
  }, scheme);

const background = (page: Page) => page.evaluate(() => getComputedStyle(document.body).backgroundColor);

/** What was found, each once, with where it was seen first. */
class Looking {
  private readonly seen = new Set<string>();
  readonly found: string[] = [];
  looked = 0;
  constructor(private readonly page: Page) {}

  /** As it is shown, and its colours in the other theme: the themes differ in nothing but those. */
  async at(where: string): Promise<void> {
    this.looked++;
    this.note(where, await violations(this.page, everything, over));
    const paper = await background(this.page);
    const scheme = await setScheme(this.page, 'dark');
    expect(await background(this.page)).not.toBe(paper);
    this.note(`${where}, by lamp light`, await violations(this.page, colours, over));
    await setScheme(this.page, scheme);
  }

  private note(where: string, found: readonly string[]) {
    for (const what of found) {
      if (!this.seen.has(what)) this.found.push(`${where}: ${what}`);
      this.seen.add(what);
    }
  }

  /** What a key or a button opens; closed again with Escape. */
  async inside(where: string, open: () => Promise<unknown>): Promise<void> {
    await open();
    await this.at(where);
    await this.page.keyboard.press('Escape');
    // Keys mean the Booth again once a menu has faded, too.
    await this.page.waitForFunction(() => !document.querySelector('[role=dialog], [role=menu]'));
  }
}

const dialog = (page: Page) => page.getByRole('dialog').waitFor();
const menu = (page: Page) => page.getByRole('menu').waitFor();
const button = (page: Page, name: RegExp | string) =>
  page.getByRole('button', { name, ...(typeof name === 'string' && { exact: true }) }).first();

async function lookAround({ page }: App): Promise<Looking> {
  const look = new Looking(page);
  const key = (name: string) => () => page.keyboard.press(name).then(() => dialog(page));
  await look.at('first visit');
  await look.inside('new project', () =>
    button(page, 'New project')
      .click()
      .then(() => dialog(page)),
  );
  await openDemo(page);
  await look.at('Booth');
  for (const tab of ['Marks', 'Finds', 'Takes', 'Script']) {
    await page.getByRole('tab', { name: new RegExp(`^${tab}`) }).click();
    await look.at(`tab ${tab}`);
  }
  await look.inside('keys', key('?'));
  await page.keyboard.press('?');
  await dialog(page);
  await button(page, /: change the key of “Play across/).click();
  await look.at('keys, changing');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await dialogGone(page);
  await look.inside('where it is kept', key('8'));
  await look.inside('import', key('Shift+I'));
  await look.inside('sound check', key('k'));
  await look.inside('prompter', () =>
    page.keyboard.press('b').then(() => page.getByTestId('prompter').waitFor()),
  );
  await look.inside('input menu', () =>
    button(page, /^Input:/)
      .click()
      .then(() => menu(page)),
  );
  await look.inside('inputs and tracks', async () => {
    await button(page, /^Input:/).click();
    await page.getByRole('menuitem', { name: /Inputs and tracks/ }).click();
    await dialog(page);
  });
  await look.inside('parts', () =>
    button(page, /^Part: /)
      .click()
      .then(() => menu(page)),
  );
  for (const name of ['Passage', 'Joins', 'Room', /per row/])
    await look.inside(`menu ${name}`, () =>
      button(page, name)
        .click()
        .then(() => menu(page)),
    );
  await page.keyboard.press('Control+a');
  await page.locator('[data-testid=sheet]:not([data-selection=""])').waitFor();
  await look.inside('move to', key('Shift+P'));
  // Struck pieces, room tone and finds.
  await page.keyboard.press('Escape');
  await page.keyboard.press('x');
  await button(page, 'Look again').waitFor({ timeout: 60_000 });
  await page.keyboard.press('g');
  await look.at('finds, one chosen');
  await chooseInput(page, 'Practice reader');
  await recordFor(page, 2);
  await page.getByRole('tab', { name: /^Takes/ }).click();
  await look.at('takes');
  await page.getByRole('checkbox', { name: 'Select Take 1' }).check();
  await look.inside('export takes', () =>
    button(page, /^Export 1/)
      .click()
      .then(() => dialog(page)),
  );
  const openPart = async (name: RegExp) => {
    await button(page, /^Part: /).click();
    await page.getByRole('menuitem', { name }).click();
  };
  await openPart(/visitor/i);
  await button(page, /^Hear both/).waitFor();
  await look.at('a guide');
  await look.inside('talents far away', async () => {
    await page.keyboard.press('6');
    await button(page, 'Open the session').click();
    await page.getByLabel('Link for the talent').waitFor();
    for (const more of ['Session log', 'Without a server', 'Helpers']) await button(page, more).click();
  });
  await look.at('the strip of a session');
  await openPart(/boat builder/i);
  await goTo(page, 'Finish');
  await button(page, 'Find turns').click();
  await page.locator('[data-testid=sheet][data-turns="6"]').waitFor();
  await button(page, 'Let it go down under speech').click();
  await page.getByRole('group', { name: 'Under speech' }).waitFor();
  await button(page, 'mute Ines').click();
  await look.at('Finish');
  await openPart(/The stair/);
  await goTo(page, 'Brief');
  await look.at('Brief');
  await goTo(page, 'Proof');
  await page.getByText(/of 8 parts pass/).waitFor();
  await button(page, /^Make it pass/).waitFor({ timeout: 60_000 });
  await look.at('Proof');
  await page.keyboard.press('y');
  await look.at('Proof, a fault chosen');
  await page.goto(baseUrl);
  await button(page, 'New project').waitFor();
  await look.at('projects');
  await look.inside('work log', () =>
    button(page, 'Work log')
      .click()
      .then(() => dialog(page)),
  );
  await page.goto(`${baseUrl}/help`);
  await page.getByRole('heading', { name: 'Help', level: 1 }).waitFor();
  await look.at('help');
  await page.goto(baseUrl);
  await button(page, 'New project').waitFor();
  await look.inside('another project', () =>
    button(page, 'New project')
      .click()
      .then(() => dialog(page)),
  );
  return look;
}

const slowest = (page: Page) =>
  page.evaluate(() => {
    const all = [...document.querySelectorAll('button')].map((one) => getComputedStyle(one));
    return Math.max(...all.map(({ transitionDuration }) => parseFloat(transitionDuration)));
  });

test('every view and dialog has no violation of WCAG 2.2 A and AA, nor of best practice, in both themes', async () => {
  const app = await openApp({ still: true });
  await button(app.page, 'Open the demo').waitFor();
  // Less motion was asked for: nothing fades. With more, it does.
  expect(await slowest(app.page)).toBe(0);
  await app.page.emulateMedia({ reducedMotion: 'no-preference' });
  expect(await slowest(app.page)).toBeGreaterThan(0);
  await app.page.emulateMedia({ reducedMotion: 'reduce' });
  const look = await lookAround(app);
  expect(look.found).toEqual([]);
  expect(look.looked).toBeGreaterThan(33);
}, 300_000);

test('the page of a talent has none either', async () => {
  const app = await openApp({ still: true });
  const { page } = app;
  const look = new Looking(page);
  await page.goto(`${baseUrl}/talent`);
  await page.getByLabel('Text from the studio').waitFor();
  await look.at('no link');
  await page.goto('about:blank');
  await page.goto(`${baseUrl}/talent#${'A'.repeat(22)}`);
  await button(page, 'Go on to the microphone').click();
  await look.at('welcome');
  await page.getByLabel(/^Your name/).fill('Mara');
  await page.getByRole('checkbox').check();
  await button(page, 'Go on to the microphone').click();
  await button(page, 'Choose the microphone').click();
  await page.getByTestId('talent-microphone').waitFor();
  await look.at('microphone');
  await button(page, 'Go to the studio').click();
  await page.getByText(/Nobody is in this session/).waitFor();
  await look.at('at the door');
  await button(page, 'Leave').click();
  await look.at('left');
  expect(look.found).toEqual([]);
});
