import type { ErrorCode } from '@/core/base/errors';
import type { SoundWaits } from './soundFirst';

/**
 * Jobs: one request, any number of progress reports, one result or one coded error; can be cancelled. `Jobs`
 * maps each job's name to its input and output.
 */
export type JobMap = Record<string, { input: unknown; output: unknown }>;

export type JobRequest<Jobs extends JobMap> = {
  [Name in keyof Jobs & string]: { type: 'run'; id: number; job: Name; input: Jobs[Name]['input'] };
}[keyof Jobs & string];

/**
 * Before its first job a worker is told for what it stands still, and where its jobs come from if not from
 * the page.
 */
export type ToWorker<Jobs extends JobMap> =
  | JobRequest<Jobs>
  | { type: 'cancel'; id: number }
  | { type: 'waits'; waits: SoundWaits }
  | { type: 'port'; port: MessagePort };

/** What a job is given to: a worker, or the way to one. */
export interface JobWorker {
  onmessage: ((event: MessageEvent) => void) | null;
  /** It has died; nothing is known of why. */
  onerror: ((event: never) => void) | null;
  onmessageerror: ((event: MessageEvent) => void) | null;
  postMessage(message: unknown, transfer?: Transferable[]): void;
  terminate(): void;
}

/** While a worker has a job it says at least this often that it is there. */
export const aliveEveryMs = 2000;

export type FromWorker =
  | { type: 'alive' }
  | { type: 'progress'; id: number; done: number; label: string }
  | { type: 'result'; id: number; output: unknown }
  | { type: 'error'; id: number; code: ErrorCode; message: string };

/** `done` goes from 0 to 1; `label` says what is being worked on. */
export type ReportProgress = (done: number, label?: string) => void;

export interface JobContext {
  signal: AbortSignal;
  progress: ReportProgress;
}
