import { say } from '@/texts/say';
import { ParolaError, toParolaError } from '@/core/base/errors';
import { hasStruckPieces } from '@/core/timeline/stored';
import { within } from '@/core/base/waiting';
import { lockProject, whenUnlocked } from '@/storage/lock';
import { loadProject, updateProject } from '@/storage/projects';
import { purgeDeleted } from '@/storage/purge';
import { recoverTakes, type Recovered } from '@/storage/recovery';
import type { PartRecord, ProjectRecord, SourceRecord } from '@/storage/schema';
import { sourcesOfProject } from '@/storage/sources';
import { upgradeParts } from '@/storage/upgrade';
import { startCopying } from '../keep/copying';
import { lookForDamage } from '../keep/damage';
import { notify, notifyError } from '../page/notices';
import { resetStores } from '../page/resets';
import { saved, savePassing, stored } from '../page/saving';
import { tellSlowKernels } from '../page/slowKernels';
import { noProject, useProject } from '../project/openProject';
import { readPeaksOf } from '../pictures/peaks';
import { closeTransport } from '../recording/recording';
import { packWhenIdle } from '../recording/repacking';
import { beginSession } from '../recording/sessionStart';
import { preparePart, type PreparedPart } from '../sheet/part';

let release: (() => void) | null = null;
let waiting: AbortController | null = null;
let generation = 0;

/**
 * Opening and closing, one after another: closing ends a take, waits for what is being saved and gives the
 * lock back, and the next project is not opened before that is done.
 */
let queue: Promise<void> = Promise.resolve();

export function enterProject(id: string): Promise<void> {
  queue = queue.then(() => open(id));
  return queue;
}

export function leaveProject(): Promise<void> {
  queue = queue.then(closeTransport).then(close);
  return queue;
}

/**
 * Opens a project with its lock, brings back takes that were cut off, and opens the part that was open last.
 */
async function open(id: string): Promise<void> {
  const mine = ++generation;
  useProject.setState({ ...noProject, status: 'opening' });
  try {
    if (!(await saved()))
      throw new ParolaError(
        'storage-full',
        say`What was changed last is not stored yet, so it would be missing here. Make room on the disk, leave this window open until “Saved” is shown, then open the project again.`,
      );
    const lock = await lockProject(id);
    if (mine !== generation) return lock?.();
    release = lock;
    const { project, parts, sources, writable, recovered } = await today(id, lock !== null);
    const part = parts.find((candidate) => candidate.id === project.openPartId) ?? parts[0];
    const prepared = part && (await preparePart(part));
    if (prepared) await firstPicture(prepared, project.rateHz);
    if (mine !== generation) return;
    const openedAt = Date.now();
    useProject.setState({
      status: 'open',
      project: writable ? { ...project, openedAt } : project,
      parts,
      sources: new Map(sources.map((source) => [source.id, source])),
      readOnly: !writable,
      outdated: lock !== null && !writable,
      recovered,
    });
    const shown = prepared?.show();
    if (!lock) waitForLock(id);
    await shown;
    if (mine !== generation) return;
    // When it was opened is remembered where there is room for it; nobody waits for that.
    if (writable) void savePassing(() => updateProject(id, { openedAt }));
    packWhenIdle();
    tellSlowKernels();
    void beginSession();
    void startCopying();
    void lookForDamage();
  } catch (thrown) {
    if (mine !== generation) return;
    release?.();
    release = null;
    useProject.setState({ ...noProject, status: 'failed', error: toParolaError(thrown).message });
  }
}

/** What is drawn first is read before it is drawn, but nobody waits for it longer than this. */
const pictureMs = 300;
/** Around the caret: a window shows about a minute and a half. */
const pictureSeconds = 45;

const firstPicture = ({ timeline, caret }: PreparedPart, rateHz: number) =>
  within(
    readPeaksOf(timeline, Math.max(0, caret - pictureSeconds * rateHz), caret + 2 * pictureSeconds * rateHz),
    pictureMs,
    '',
    // What is not there is read when it is drawn.
  ).catch(() => undefined);

interface Stored {
  project: ProjectRecord;
  parts: PartRecord[];
  sources: SourceRecord[];
}

async function read(id: string): Promise<Stored> {
  const [{ project, parts }, sources] = await Promise.all([loadProject(id), sourcesOfProject(id)]);
  return { project, parts, sources };
}

/**
 * What is stored of a project, once its parts have today's form and takes that were cut off are in their
 * places: it is read again only where there was something to do.
 */
async function today(
  id: string,
  locked: boolean,
): Promise<Stored & { writable: boolean; recovered: Recovered[] }> {
  const found = await read(id);
  const old = found.parts.some(({ timeline }) => hasStruckPieces(timeline));
  const writable = locked && (!old || (await isUpgraded(id)));
  const cutOff = found.sources.some(({ state }) => state === 'recording' || state === 'receiving');
  const recovered = writable && cutOff ? await recovery(id) : [];
  const changed = writable && (old || cutOff);
  return { ...(changed ? await read(id) : found), writable, recovered };
}

/**
 * Parts of an earlier version have been brought to today's form; where that cannot be stored, they can be
 * looked at and heard.
 */
async function isUpgraded(id: string): Promise<boolean> {
  try {
    await upgradeParts(id);
    return true;
  } catch (thrown) {
    notifyError(thrown, 'kept');
    return false;
  }
}

/** Takes that were cut off; where they cannot be placed now, their audio waits for the next opening. */
async function recovery(id: string): Promise<Recovered[]> {
  try {
    return await recoverTakes(id);
  } catch (thrown) {
    notify(
      'warning',
      say`Recording had been cut off, and its take cannot be put in its place now: ${toParolaError(thrown).message} What was recorded is kept; open the project again when there is room.`,
      'kept',
    );
    return [];
  }
}

function waitForLock(id: string) {
  waiting = new AbortController();
  whenUnlocked(id, waiting.signal).then(
    () => useProject.setState({ canTakeOver: true }),
    () => undefined,
  );
}

async function close(): Promise<void> {
  generation++;
  waiting?.abort();
  const { project, readOnly } = useProject.getState();
  const unlock = release ?? (() => undefined);
  release = null;
  if (await saved()) {
    // Deleted takes could be brought back until now.
    if (project && !readOnly) await purgeDeleted(project.id).catch(() => undefined);
    unlock();
  } else {
    notify(
      'error',
      say`The last changes of “${project?.name ?? say`the project`}” are not stored yet. They are tried again by themselves for as long as this window is open: make room on the disk.`,
      'kept',
    );
    // Nobody else may write to it before that.
    void stored().then(unlock);
  }
  resetStores();
  useProject.setState(noProject);
}
