import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import {
  createProject,
  goTo,
  openApp,
  recorded,
  recordFor,
  takePlaced,
  chooseInput,
} from '../../e2e/support/app';
import { makeSpeechFile, speechFile } from '../../e2e/support/audio';
import {
  allArrived,
  blockBytes,
  closeDialog,
  comeIn,
  cutLine,
  inTheStudio,
  letIn,
  openSession,
  openSide,
} from '../../e2e/support/far';
import { startServer } from '../../e2e/support/server';
import { cpuNow, tabMegabytes } from './processes';
import type { Row } from './row';

/** What one of two browsers takes while `work` is done, as a share of one core, and its page's memory. */
function meter(profile: string) {
  const before = { ...cpuNow(profile), mb: tabMegabytes(profile), ms: Date.now() };
  return () => {
    const now = cpuNow(profile);
    const seconds = (Date.now() - before.ms) / 1000;
    return {
      share: (now.browser - before.browser) / seconds,
      mb: tabMegabytes(profile),
      grown: tabMegabytes(profile) - before.mb,
    };
  };
}

const percent = (share: number) => `${(100 * share).toFixed(0)} % of a core`;
const megabytes = (mb: number) => `${mb.toFixed(0)} MB`;

/** A studio and a talent in two browsers of this machine, for so many minutes; then a line that is cut. */
export async function benchFar(minutes: number): Promise<Row[]> {
  makeSpeechFile();
  const server = await startServer();
  const profiles = ['studio', 'talent'].map((name) =>
    mkdtempSync(path.join(tmpdir(), `parola-bench-${name}-`)),
  );
  const alone = await soloShare();
  const studio = await openSide({ profile: profiles[0] });
  const talent = await openSide({ profile: profiles[1], microphone: speechFile });
  try {
    studio.page.setDefaultTimeout(120_000);
    await createProject(studio.page, 'Far', 'Podcast mono');
    await goTo(studio.page, 'Booth');
    const link = await openSession(studio.page);
    await comeIn(talent.page, link, 'Mara Quist');
    await letIn(studio.page, talent.page);
    await closeDialog(studio.page);
    await studio.page.keyboard.press('Enter');
    await recorded(studio.page, 5);
    const meters = profiles.map(meter);
    const sentBefore = await blockBytes(talent.page);
    const startedMs = Date.now();
    await recorded(studio.page, minutes * 60);
    const [here, there] = meters.map((read) => read());
    const perHour =
      ((await blockBytes(talent.page)) - sentBefore) / ((Date.now() - startedMs) / 3_600_000) / 1e6;
    await studio.page.keyboard.press('Enter');
    await takePlaced(studio.page);
    const layingMs = Date.now();
    await allArrived(studio.page, 1);
    const laid = (Date.now() - layingMs) / 1000;
    // A line that is cut for half a minute of a take.
    await studio.page.keyboard.press('Enter');
    await recorded(studio.page, 5);
    await talent.context.route('**/api/rooms/**', (route) => route.abort());
    await cutLine(talent.page);
    await recorded(studio.page, 30);
    await talent.context.unroute('**/api/rooms/**');
    await inTheStudio(talent.page);
    const openMs = Date.now();
    await talent.page.getByText('recording · 100 % sent').waitFor({ timeout: 60_000 });
    const caughtUp = (Date.now() - openMs) / 1000;
    await studio.page.keyboard.press('Enter');
    await takePlaced(studio.page);
    await allArrived(studio.page, 2);
    const ratio = (share: number) =>
      `${percent(share)}, ${(share / alone).toFixed(1)} × recording alone (${percent(alone)})`;
    return [
      [
        `The studio’s browser, recording a talent for ${minutes} minutes`,
        `${ratio(here.share)}; ${megabytes(here.mb)}, ${megabytes(here.grown)} more than at the beginning`,
        'no growth',
      ],
      [
        'The talent’s browser meanwhile',
        `${ratio(there.share)}; ${megabytes(there.mb)}, ${megabytes(there.grown)} more`,
        'no growth',
      ],
      [
        'Sent by the talent, 44.1 kHz of 16 bits',
        `${perHour.toFixed(0)} MB an hour (318 would be its samples alone)`,
        '',
      ],
      [`From the end of ${minutes} minutes to the take in its place`, `${laid.toFixed(1)} s`, ''],
      [
        'A line cut for 30 s of a take: to all of it sent, once it is open again',
        `${caughtUp.toFixed(1)} s`,
        'under 30 s',
      ],
    ];
  } finally {
    await studio.close();
    await talent.close();
    server.kill();
    for (const profile of profiles) rmSync(profile, { recursive: true, force: true });
  }
}

/** What recording a microphone takes by itself, as a share of a core. */
async function soloShare(): Promise<number> {
  const profile = mkdtempSync(path.join(tmpdir(), 'parola-bench-alone-'));
  const app = await openApp({ profile, whole: true });
  try {
    await createProject(app.page, 'Alone', 'Podcast mono');
    await goTo(app.page, 'Booth');
    await chooseInput(app.page, 'Microphone');
    await recordFor(app.page, 2);
    await app.page.keyboard.press('Enter');
    await recorded(app.page, 5);
    const read = meter(profile);
    await recorded(app.page, 60);
    const { share } = read();
    await app.page.keyboard.press('Enter');
    await takePlaced(app.page);
    return share;
  } finally {
    await app.close();
    rmSync(profile, { recursive: true, force: true });
  }
}
