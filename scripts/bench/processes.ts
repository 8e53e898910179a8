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

/** The renderer processes of a browser profile: the page and its workers. */
function renderers(profile: string): number[] {
  return readdirSync('/proc')
    .filter((entry) => /^\d+$/.test(entry))
    .map(Number)
    .filter((pid) => {
      try {
        const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
        return command.includes('--type=renderer') && command.includes(profile);
      } catch {
        return false;
      }
    });
}

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

/** Processor seconds of those processes so far. */
const cpuSeconds = (pids: number[]) =>
  pids.reduce((sum, pid) => {
    try {
      const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
      return sum + (Number(fields[11]) + Number(fields[12])) / 100;
    } catch {
      return sum;
    }
  }, 0);

export interface Used {
  seconds: number;
  cpu: number;
  /** Most private memory of the page with its workers, and what it had before, MB. */
  peakMb: number;
  beforeMb: number;
}

/** What the page of a browser and its workers take while `work` is done. */
export async function usedBy<T>(profile: string, work: () => Promise<T>): Promise<Used & { result: T }> {
  const pids = renderers(profile);
  const beforeMb = tabMegabytes(profile);
  let peakMb = beforeMb;
  const timer = setInterval(() => (peakMb = Math.max(peakMb, tabMegabytes(profile))), pollMs);
  const cpuBefore = cpuSeconds(pids);
  const started = Date.now();
  try {
    const result = await work();
    const seconds = (Date.now() - started) / 1000;
    return { result, seconds, cpu: cpuSeconds(pids) - cpuBefore, peakMb, beforeMb };
  } finally {
    clearInterval(timer);
  }
}
