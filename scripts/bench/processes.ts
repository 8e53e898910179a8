import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';

const pollMs = 250;

/** Processor seconds of a command that runs in one thread, its children counted. */
export function cpuOf(command: string, ...args: string[]): number {
  const times = execFileSync(
    'bash',
    ['-c', 'TIMEFORMAT="%U %S"; { time "$@" >/dev/null 2>&1; } 2>&1', '-', command, ...args],
    { encoding: 'utf8' },
  );
  return times
    .trim()
    .split(/\s+/)
    .reduce((sum, part) => sum + Number(part), 0);
}

const processIds = () =>
  readdirSync('/proc')
    .filter((entry) => /^\d+$/.test(entry))
    .map(Number);

/** Empty when the process is gone. */
function commandOf(pid: number): string {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8');
  } catch {
    return '';
  }
}

/** The renderer processes of a browser profile: the page and its workers. */
const renderers = (profile: string) =>
  processIds().filter((pid) => {
    const command = commandOf(pid);
    return command.includes('--type=renderer') && command.includes(profile);
  });

/** What a process holds by itself, workers and caches included; pages it shares with others do not count. */
function privateMegabytes(pid: number): number {
  try {
    const rollup = readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8');
    return Number(/^Private_Dirty:\s+(\d+)/m.exec(rollup)?.[1] ?? 0) / 1000;
  } catch {
    return 0;
  }
}

/** The same of the page of a browser and its workers. */
export const tabMegabytes = (profile: string) => Math.max(...renderers(profile).map(privateMegabytes));

/** A process with its parent and the processor seconds it has used; null when it is gone. */
function statOf(pid: number): { pid: number; parent: number; cpu: number } | null {
  try {
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
    return { pid, parent: Number(fields[1]), cpu: (Number(fields[11]) + Number(fields[12])) / 100 };
  } catch {
    return null;
  }
}

/** Processor seconds of a browser so far: the page, its workers, and what reads and writes for them. */
function cpuSeconds(profile: string): number {
  const all = processIds().flatMap((pid) => statOf(pid) ?? []);
  const [main] = renderers(profile);
  // Up to the browser itself, whose parent is no browser any more.
  const isBrowser = (pid: number) => /chrom/.test(commandOf(pid));
  let root = main;
  for (let parent = statOf(root)?.parent; parent && isBrowser(parent); parent = statOf(root)?.parent)
    root = parent;
  const within = new Set([root]);
  for (let size = 0; size < within.size;) {
    size = within.size;
    for (const { pid, parent } of all) if (within.has(parent)) within.add(pid);
  }
  return all.reduce((sum, { pid, cpu }) => sum + (within.has(pid) ? cpu : 0), 0);
}

/** Processor seconds so far of the page of a browser with its workers, and of the whole browser. */
export const cpuNow = (profile: string) => ({
  page: renderers(profile).reduce((sum, pid) => sum + (statOf(pid)?.cpu ?? 0), 0),
  browser: cpuSeconds(profile),
});

export interface Used {
  seconds: number;
  cpu: number;
  /** Most private memory of the page with its workers, and what it had before, MB. */
  peakMb: number;
  beforeMb: number;
}

/**
 * What a browser takes while `work` is done: time, processor time of all its processes, memory of the page.
 */
export async function usedBy<T>(profile: string, work: () => Promise<T>): Promise<Used & { result: T }> {
  const beforeMb = tabMegabytes(profile);
  let peakMb = beforeMb;
  const timer = setInterval(() => (peakMb = Math.max(peakMb, tabMegabytes(profile))), pollMs);
  const cpuBefore = cpuSeconds(profile);
  const started = Date.now();
  try {
    const result = await work();
    const seconds = (Date.now() - started) / 1000;
    return { result, seconds, cpu: cpuSeconds(profile) - cpuBefore, peakMb, beforeMb };
  } finally {
    clearInterval(timer);
  }
}
