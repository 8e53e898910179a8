import { availableParallelism } from 'node:os';
import path from 'node:path';
import { Piscina } from 'piscina';
import { cancelled, ParolaError, type ErrorCode } from '@/core/base/errors';
import type { Measured } from './measure.worker';
import type { MeasuredFile } from './proofFile';

export interface MeasureTask {
  file: string;
  name: string;
  mostChannelHours: number;
}

/** Pages are answered by the main thread: one core at least stays for it. */
const threads = Math.max(1, Math.min(4, availableParallelism() - 1));
/** Files that may wait for a thread; what comes then is told to come again. */
const mostWaiting = 16;
/** One file takes no longer than this. */
const longestMs = 900_000;
/** What is decoded of one file: a day of one channel, or an hour of 24. */
const mostChannelHours = 24;
const idleMs = 30_000;

let pool: Piscina<MeasureTask, Measured> | null = null;

const threadsOf = () =>
  (pool ??= new Piscina<MeasureTask, Measured>({
    // Compiled by scripts/build-bundles.mjs.
    filename: path.resolve('build/node/measure.worker.mjs'),
    minThreads: 0,
    maxThreads: threads,
    maxQueue: mostWaiting,
    idleTimeout: idleMs,
    resourceLimits: { maxOldGenerationSizeMb: 512 },
  }));

/**
 * Measures a file on disk in a thread of its own, after those that came before it. Ends at once when `signal`
 * is aborted. Throws ParolaError as `measureFile` does, `cancelled`, `busy` when too many wait, and
 * `no-answer` after a quarter of an hour.
 */
export async function measureApart(file: string, name: string, signal: AbortSignal): Promise<MeasuredFile> {
  const threadPool = threadsOf();
  if (threadPool.queueSize >= mostWaiting) throw busy();
  const timeout = AbortSignal.timeout(longestMs);
  const answer = await threadPool
    .run({ file, name, mostChannelHours }, { signal: AbortSignal.any([signal, timeout]) })
    .catch((error: unknown) => {
      if (signal.aborted) throw cancelled();
      if (timeout.aborted)
        throw new ParolaError(
          'no-answer',
          'Measuring took longer than a quarter of an hour and was stopped.',
        );
      throw error;
    });
  if ('measured' in answer) return answer.measured;
  throw new ParolaError(answer.code as ErrorCode, answer.message);
}

const busy = () =>
  new ParolaError('busy', 'Too many files are waiting to be measured. Send this one again in a minute.');

/** Ends the threads; a later file starts new ones. */
export async function stopMeasuring(): Promise<void> {
  await pool?.destroy();
  pool = null;
}
