import { say } from '@/texts/say';
import { ParolaError, cancelled } from '@/core/base/errors';
import { Helpers, type FromHelped } from './helpers';
import { soundWaits } from './soundFirst';
import type { FromWorker, JobMap, JobWorker, ReportProgress, ToWorker } from './protocol';

/** A worker that has jobs and says nothing for so long has got stuck. */
const silentMs = 60_000;
const checkMs = 1000;

interface Waiting {
  resolve: (output: never) => void;
  reject: (error: ParolaError) => void;
  progress?: ReportProgress;
  /**
   * How long the worker may still be silent; counted down while the page runs, so that a machine's sleep does
   * not count.
   */
  leftMs: number;
  limitMs: number;
}

interface RunOptions {
  signal?: AbortSignal;
  progress?: ReportProgress;
  /** The job is to be done after so many milliseconds, however much the worker says that it is there. */
  limitMs?: number;
  /** Buffers of the input that are given away with it. */
  transfer?: Transferable[];
}

const died = () =>
  new ParolaError(
    'worker-died',
    say`The background work stopped unexpectedly. Nothing is lost: start it again.`,
  );
const stuck = () =>
  new ParolaError(
    'no-answer',
    say`The background work did not come to an end and was stopped. Nothing is lost: start it again.`,
  );

/**
 * The page's side of a job worker. The worker starts with the first job; when it dies, its jobs fail with
 * `worker-died`, and with `no-answer` when it says nothing for a minute or takes longer than a job may; the
 * next job starts a new one.
 */
export class JobClient<Jobs extends JobMap> {
  private worker: JobWorker | null = null;
  private helpers: Helpers | null = null;
  private readonly waiting = new Map<number, Waiting>();
  private nextId = 1;
  private timer: ReturnType<typeof setInterval> | undefined;

  /** A worker that makes what is heard stands still for nobody. */
  constructor(
    private readonly start: () => JobWorker,
    private readonly isSound = false,
  ) {}

  /** Rejects with ParolaError: the worker's own, `cancelled` by the signal, `worker-died` or `no-answer`. */
  run<Name extends keyof Jobs & string>(
    job: Name,
    input: Jobs[Name]['input'],
    { signal, progress, limitMs = Infinity, transfer = [] }: RunOptions = {},
  ): Promise<Jobs[Name]['output']> {
    if (signal?.aborted) return Promise.reject(cancelled());
    const id = this.nextId++;
    const worker = (this.worker ??= this.connect());
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject, progress, leftMs: silentMs, limitMs });
      this.timer ??= setInterval(() => this.check(worker), checkMs);
      signal?.addEventListener('abort', () => worker.postMessage({ type: 'cancel', id }), { once: true });
      const request = { type: 'run', id, job, input } as ToWorker<Jobs>;
      worker.postMessage(request, transfer);
    });
  }

  /** Ends the worker; jobs that run are cancelled. */
  close(): void {
    if (this.worker) this.end(this.worker, cancelled());
  }

  /**
   * Ends the worker if nothing waits for it, and with it all it holds: a browser clears up after a worker
   * that is never at rest only when hundreds of megabytes lie about. The next job starts a new one.
   */
  release(): void {
    if (this.waiting.size === 0) this.close();
  }

  private connect(): JobWorker {
    const worker = this.start();
    const helpers = new Helpers((message) => worker.postMessage(message));
    this.helpers = helpers;
    const waits = soundWaits();
    if (waits && !this.isSound) worker.postMessage({ type: 'waits', waits });
    worker.onmessage = ({ data }: MessageEvent<FromWorker | FromHelped>) => {
      if (data.type === 'helper' || data.type === 'helper-over') helpers.receive(data);
      else this.receive(data);
    };
    const ended = () => this.end(worker, died());
    worker.onerror = ended;
    worker.onmessageerror = ended;
    return worker;
  }

  private receive(message: FromWorker) {
    for (const waiting of this.waiting.values()) waiting.leftMs = silentMs;
    if (message.type === 'alive') return;
    const waiting = this.waiting.get(message.id);
    if (!waiting) return;
    if (message.type === 'progress') {
      waiting.progress?.(message.done, message.label);
      return;
    }
    this.waiting.delete(message.id);
    if (this.waiting.size === 0) this.rest();
    if (message.type === 'result') waiting.resolve(message.output as never);
    else waiting.reject(new ParolaError(message.code, message.message));
  }

  private check(worker: JobWorker) {
    for (const waiting of this.waiting.values()) {
      waiting.leftMs -= checkMs;
      waiting.limitMs -= checkMs;
      if (waiting.leftMs <= 0 || waiting.limitMs <= 0) return this.end(worker, stuck());
    }
  }

  private rest() {
    clearInterval(this.timer);
    this.timer = undefined;
  }

  private end(worker: JobWorker, error: ParolaError) {
    worker.terminate();
    this.worker = null;
    this.helpers?.end();
    this.helpers = null;
    this.rest();
    for (const { reject } of this.waiting.values()) reject(error);
    this.waiting.clear();
  }
}
