import { language, say } from '@/texts/say';
import { create } from 'zustand';
import { toCopyError } from '@/core/keep/copyErrors';
import { within } from '@/core/base/waiting';
import { copyFolderOf, copyRecord, storeCopyFolder, type CopyFolder } from '@/storage/copies';
import type { CopyFinding } from '@/workers/checkCopy';
import { JobClient } from '@/workers/client';
import type { CopyJobs } from '@/workers/copyJobs';
import { chooseFolder } from '../files/folders';
import { useTransport } from '../hearing/transport';
import { runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { useSaving } from '../page/saving';
import { rateOfProject, useProject } from '../project/openProject';

/**
 * The copy of the open project in a folder outside the browser. `asks`: the browser wants to be asked before
 * it lets the folder be written to; `failed` is tried again by itself.
 */
interface Copying {
  status: 'off' | 'asks' | 'copying' | 'copied' | 'failed';
  folderName: string | null;
  forAll: boolean;
  /** When all of the project stood in the folder, in milliseconds since 1970; null before that. */
  at: number | null;
  /** Of a round that takes long: its share that is done, 0 to 1. */
  done: number;
  files: number;
  bytes: number;
  message: string | null;
}

const none: Copying = {
  status: 'off',
  folderName: null,
  forAll: false,
  at: null,
  done: 0,
  files: 0,
  bytes: 0,
  message: null,
};

export const useCopying = create<Copying>(() => none);
const set = useCopying.setState;

const client = new JobClient<CopyJobs>(
  () =>
    new Worker(new URL('../../workers/copy.worker.ts', import.meta.url), { type: 'module', name: language }),
);

/** After a change: what follows at once goes into the same round. */
const soonMs = 1500;
/** From the end of a round to the beginning of the next one. */
const pauseMs = 5000;
/** While something is being recorded, what is on disk is copied so often. */
const aheadMs = 5000;
const retryMs = [5000, 15_000, 60_000];
/** A browser that does not say whether a folder may be written to. */
const permissionMs = 10_000;

let home: CopyFolder | null = null;
/** Counted up when the copy of another project begins, so that answers of the one before are dropped. */
let generation = 0;
let timer: ReturnType<typeof setTimeout> | undefined;
let ahead: ReturnType<typeof setInterval> | undefined;
/** What runs now; rounds and what is copied ahead follow one another. */
let working: Promise<unknown> = Promise.resolve();
let busy = false;
let changed = false;
/** What stands in the folder has to be looked at anew. */
let freshly = true;
let damaged: readonly string[] = [];
let failures = 0;
let lastEnd = -Infinity;

const projectId = () => useProject.getState().project?.id ?? null;

/** The project's folder, or the one for all, is found again and followed. Not where another tab edits it. */
export async function startCopying(): Promise<void> {
  const mine = ++generation;
  stop();
  const id = projectId();
  if (id === null || useProject.getState().readOnly) return;
  const found = await copyFolderOf(id).catch(() => null);
  if (mine !== generation || !found) return;
  await copyInto(id, found, mine);
}

async function copyInto(id: string, found: CopyFolder, mine: number): Promise<void> {
  const record = await copyRecord(id);
  const allowed = await isAllowed(found.folder);
  if (mine !== generation) return;
  home = found;
  freshly = true;
  failures = 0;
  set({
    ...none,
    folderName: found.folder.name,
    forAll: found.forAll,
    at: record?.at ?? null,
    status: allowed ? 'copying' : 'asks',
  });
  if (!allowed) return;
  ahead = setInterval(() => void copyAhead(), aheadMs);
  changed = true;
  consider();
}

type Permission = (how: { mode: 'readwrite' }) => Promise<PermissionState>;

/** Where a browser keeps no permissions for folders there is nothing to be asked. */
async function permission(
  folder: FileSystemDirectoryHandle,
  how: 'queryPermission' | 'requestPermission',
): Promise<boolean> {
  const ask = (folder as unknown as Partial<Record<typeof how, Permission>>)[how];
  if (!ask) return true;
  return (await ask.call(folder, { mode: 'readwrite' })) === 'granted';
}

const isAllowed = (folder: FileSystemDirectoryHandle) =>
  within(permission(folder, 'queryPermission'), permissionMs, say`The browser does not answer.`).catch(
    () => false,
  );

/** Asks the browser for the folder again; to be called from a key or a click. */
export async function allowAgain(): Promise<void> {
  const id = projectId();
  const found = home;
  if (id === null || !found) return;
  const mine = generation;
  const granted = await permission(found.folder, 'requestPermission').catch(() => false);
  if (mine !== generation) return;
  if (!granted)
    return notify(
      'warning',
      say`The browser does not allow it, so nothing is copied into the folder. Ask again, or choose another folder.`,
      'kept',
    );
  await startCopying();
}

/** Lets the user choose the folder, for this project alone or for all that have none of their own. */
export async function chooseCopyFolder(forAll: boolean): Promise<void> {
  const id = projectId();
  if (id === null) return;
  const folder = await chooseFolder();
  if (!folder) return;
  if (forAll) await storeCopyFolder(id, undefined);
  await storeCopyFolder(forAll ? null : id, folder);
  await startCopying();
}

/** Copies no more; what stands in the folder stays there. */
export async function endCopying(): Promise<void> {
  const id = projectId();
  if (id === null) return;
  await storeCopyFolder(home?.forAll ? null : id, undefined);
  await startCopying();
}

/** Copies at once what is missing, for whoever has plugged the disk in or made room. */
export function copyNow(): void {
  if (!home) return;
  changed = true;
  failures = 0;
  freshly = true;
  schedule(0);
}

function stop() {
  clearTimeout(timer);
  clearInterval(ahead);
  timer = ahead = undefined;
  home = null;
  changed = false;
  damaged = [];
  set(none);
}

/** Looks whether there is something to copy, and when. */
function consider() {
  if (!home || !changed || busy || timer !== undefined || useCopying.getState().status === 'asks') return;
  const failed = useCopying.getState().status === 'failed';
  if (failed) return schedule(retryMs[Math.min(failures - 1, retryMs.length - 1)]);
  schedule(Math.max(soonMs, lastEnd + pauseMs - performance.now()));
}

function schedule(ms: number) {
  clearTimeout(timer);
  timer = setTimeout(() => {
    timer = undefined;
    void inTurn(round);
  }, ms);
}

/** One job of the worker after another. */
const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
  const next = working.then(work);
  working = next.catch(() => undefined);
  return next;
};

/** A round that takes no longer than this shows no progress. */
const shownAfterMs = 1000;

async function round(): Promise<void> {
  const id = projectId();
  if (!home || id === null || busy) return;
  // What is not stored yet would be missing in the copy; when it is, this comes again.
  if (useSaving.getState().pending > 0) return schedule(soonMs);
  busy = true;
  changed = false;
  const mine = generation;
  const begun = performance.now();
  const input = { folder: home.folder, projectId: id, freshly, damaged, live: liveSource() };
  try {
    const { files, bytes, at } = await client.run('round', input, {
      progress: (done) => {
        if (mine === generation && performance.now() - begun > shownAfterMs) set({ status: 'copying', done });
      },
    });
    if (mine !== generation) return;
    freshly = false;
    damaged = [];
    failures = 0;
    set({ status: 'copied', at, files, bytes, done: 1, message: null });
  } catch (thrown) {
    if (mine !== generation) return;
    await failed(thrown);
  } finally {
    lastEnd = performance.now();
    busy = false;
    if (mine === generation) consider();
  }
}

async function failed(thrown: unknown): Promise<void> {
  const { code, message } = toCopyError(thrown);
  changed = true;
  freshly = true;
  if (code === 'permission-denied' && home && !(await isAllowed(home.folder))) {
    set({ status: 'asks', message });
    return notify('warning', message, 'kept');
  }
  failures++;
  set({ status: 'failed', message });
  // Told once; the sign shows it for as long as it is so.
  if (failures === 1) notify('warning', message, 'kept');
}

const liveSource = () => {
  const { mode, live } = useTransport.getState();
  return mode === 'recording' || mode === 'finishing' ? (live?.sourceId ?? null) : null;
};

/** What is on disk of a take that is being recorded, so that little is left to copy when it ends. */
async function copyAhead(): Promise<void> {
  const { mode, live } = useTransport.getState();
  const id = projectId();
  if (busy || mode !== 'recording' || !live || !home || id === null) return;
  if (useCopying.getState().status !== 'copied') return;
  const { folder } = home;
  const source = { id: live.sourceId, rateHz: rateOfProject(), channels: live.trackIds.length };
  // The round at the end says what is wrong.
  await inTurn(() => client.run('ahead', { folder, projectId: id, source })).catch(() => undefined);
}

/** Reads the whole copy and says whether it is what was written; what is not is copied again. */
export async function checkCopyFolder(): Promise<void> {
  const id = projectId();
  if (!home || id === null) return;
  const { folder } = home;
  const found = await runShown(say`Checking the copy`, (options) =>
    inTurn(() => client.run('check', { folder, projectId: id }, options)),
  );
  if (!found) return;
  notify(...checkTold(found));
  if (found.damaged.length + found.missing.length === 0) return;
  damaged = [...found.damaged, ...found.missing];
  copyNow();
}

/** What is said of a copy that was checked. */
export function checkTold({ files, missing, damaged: wrong }: CopyFinding): ['success' | 'warning', string] {
  if (missing.length + wrong.length === 0)
    return ['success', say`The copy is whole: ${files} files, each as its checksum says.`];
  const told = [
    missing.length > 0 && say`${missing.length} of ${files} files are missing (${listed(missing)})`,
    wrong.length > 0 && say`${wrong.length} are not what was written (${listed(wrong)})`,
  ].filter(Boolean);
  return ['warning', say`In the copy ${told.join('; ')}. They are copied again now; look after that disk.`];
}

const mostListed = 3;
const listed = (paths: readonly string[]) =>
  paths.length > mostListed ? `${paths.slice(0, mostListed).join(', ')} …` : paths.join(', ');

useSaving.subscribe(({ savedAt, pending }, before) => {
  if (savedAt === before.savedAt && pending >= before.pending) return;
  changed = true;
  consider();
});

whenProjectCloses(() => {
  generation++;
  stop();
});

/** The recordings of a project that are not whole in this browser. */
export const damageIn = (projectId: string) => client.run('damage', { projectId });

/** Brings recordings back from the copy; resolves to how many of them are whole again. */
export async function repairFromCopy(sources: readonly string[]): Promise<number> {
  const id = projectId();
  if (!home || id === null) return 0;
  const { folder } = home;
  const repaired = await runShown(say`Bringing audio back from the copy`, (options) =>
    inTurn(() => client.run('repair', { folder, projectId: id, sources }, options)),
  );
  if (repaired === 0)
    notify(
      'warning',
      say`The copy does not hold what is missing. Another copy or a project file may.`,
      'kept',
    );
  return repaired ?? 0;
}
