import { language } from '@/texts/say';
import { create } from 'zustand';
import { toParolaError } from '@/core/base/errors';
import type { AnalysisJobs } from '@/workers/analysisJobs';
import type { ChainJobs } from '@/workers/chainJobs';
import { JobClient } from '@/workers/client';
import type { ExportJobs, WrittenFile } from '@/workers/exportJobs';
import type { ImportJobs } from '@/workers/importJobs';
import type { ProofJobs } from '@/workers/proofJobs';
import type { ReportProgress } from '@/workers/protocol';
import { openScratch } from '@/workers/scratchFile';
import { notifyError } from './notices';

/**
 * One for each core there is and one more, at most four: every file is coded by itself, and the last of three
 * on two cores does not wait for the others to end.
 */
const exportWorkers = Math.max(2, Math.min(4, (globalThis.navigator?.hardwareConcurrency ?? 2) + 1));

export const exportClients = Array.from(
  { length: exportWorkers },
  () =>
    new JobClient<ExportJobs>(
      () =>
        new Worker(new URL('../../workers/export.worker.ts', import.meta.url), {
          type: 'module',
          name: language,
        }),
    ),
);
export const exportClient = exportClients[0];

export const proofClient = new JobClient<ProofJobs>(
  () =>
    new Worker(new URL('../../workers/proof.worker.ts', import.meta.url), { type: 'module', name: language }),
);

export const importClient = new JobClient<ImportJobs>(
  () =>
    new Worker(new URL('../../workers/import.worker.ts', import.meta.url), {
      type: 'module',
      name: language,
    }),
);

/** Rehearsing a fix must not hold up measuring. */
export const planClient = new JobClient<ProofJobs>(
  () =>
    new Worker(new URL('../../workers/proof.worker.ts', import.meta.url), { type: 'module', name: language }),
);

export const analysisClient = new JobClient<AnalysisJobs>(
  () =>
    new Worker(new URL('../../workers/analysis.worker.ts', import.meta.url), {
      type: 'module',
      name: language,
    }),
);

/** Long looks through a whole part: two workers, one for each core there is. */
export const findingClients = [0, 1].map(
  () =>
    new JobClient<AnalysisJobs>(
      () =>
        new Worker(new URL('../../workers/analysis.worker.ts', import.meta.url), {
          type: 'module',
          name: language,
        }),
    ),
);

/** What a chain does: one worker measures while the other one makes pictures. */
const chainWorker = () =>
  new JobClient<ChainJobs>(
    () =>
      new Worker(new URL('../../workers/chain.worker.ts', import.meta.url), {
        type: 'module',
        name: language,
      }),
  );
export const chainClient = chainWorker();
export const chainPictureClient = chainWorker();

/**
 * The one long job the user waits for: an export, a project file. Measuring has its own place in the Proof.
 */
interface Job {
  title: string;
  done: number;
  label: string;
  cancel: () => void;
}

export const useJob = create<{ job: Job | null }>(() => ({ job: null }));

/** As it is shown: what changes no figure draws nothing. */
const percent = (done: number) => Math.round(done * 100);

/** Runs a job with its progress shown; null when it was cancelled or failed, which has been told then. */
export async function runShown<T>(
  title: string,
  work: (options: { signal: AbortSignal; progress: ReportProgress }) => Promise<T>,
): Promise<T | null> {
  if (useJob.getState().job) return null;
  const controller = new AbortController();
  const job: Job = { title, done: 0, label: '', cancel: () => controller.abort() };
  useJob.setState({ job });
  try {
    return await work({
      signal: controller.signal,
      progress: (done, label = '') => {
        const shown = useJob.getState().job;
        if (shown?.label === label && percent(shown.done) === percent(done)) return;
        useJob.setState({ job: { ...job, done, label } });
      },
    });
  } catch (thrown) {
    notifyError(toParolaError(thrown));
    return null;
  } finally {
    useJob.setState({ job: null });
  }
}

/** Hands a written file to the user as a download; the browser copies it from disk to disk. */
export async function handOver(file: WrittenFile): Promise<void> {
  handOverBlob(file.fileName, await openScratch(file.path));
}

export const handOverText = (fileName: string, text: string): void =>
  handOverBlob(fileName, new Blob([text], { type: 'application/octet-stream' }));

function handOverBlob(fileName: string, blob: Blob): void {
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = address;
  link.download = fileName;
  link.click();
  // The download reads from the address for as long as it takes; the file itself is cleared away a day later.
  setTimeout(() => URL.revokeObjectURL(address), 600_000);
}
