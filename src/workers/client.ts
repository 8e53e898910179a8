import { ParolaError, cancelled } from '@/core/base/errors';
import type { FromWorker, JobMap, ReportProgress, ToWorker } from './protocol';

interface Waiting {
  resolve: (output: never) => void;
  reject: (error: ParolaError) => void;
  progress?: ReportProgress;
}

/**
 * The page's side of a job worker. The worker starts with the first job; when it dies, its jobs fail with `worker-died` and the next
 * job starts a new one.
 */
export class JobClient<Jobs extends JobMap> {
  private worker: Worker | null = null;
  private readonly waiting = new Map<number, Waiting>();
  private nextId = 1;

  constructor(private readonly start: () => Worker) {}

  /** Rejects with ParolaError: the worker's own, `cancelled` by the signal, or `worker-died`. */
  run<Name extends keyof Jobs & string>(
    job: Name,
    input: Jobs[Name]['input'],
    { signal, progress }: { signal?: AbortSignal; progress?: ReportProgress } = {},
  ): Promise<Jobs[Name]['output']> {
    if (signal?.aborted) return Promise.reject(cancelled());
    const id = this.nextId++;
    const worker = (this.worker ??= this.connect());
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject, progress });
      signal?.addEventListener('abort', () => worker.postMessage({ type: 'cancel', id }), { once: true });
      const request = { type: 'run', id, job, input } as ToWorker<Jobs>;
      worker.postMessage(request);
    });
  }

  private connect(): Worker {
    const worker = this.start();
    worker.onmessage = ({ data }: MessageEvent<FromWorker>) => this.receive(data);
    const died = () => this.died(worker);
    worker.onerror = died;
    worker.onmessageerror = died;
    return worker;
  }

  private receive(message: FromWorker) {
    const waiting = this.waiting.get(message.id);
    if (!waiting) return;
    if (message.type === 'progress') {
      waiting.progress?.(message.done, message.label);
      return;
    }
    this.waiting.delete(message.id);
    if (message.type === 'result') waiting.resolve(message.output as never);
    else waiting.reject(new ParolaError(message.code, message.message));
  }

  private died(worker: Worker) {
    worker.terminate();
    this.worker = null;
    const error = new ParolaError(
      'worker-died',
      'The background work stopped unexpectedly. Nothing is lost: start it again.',
    );
    for (const { reject } of this.waiting.values()) reject(error);
    this.waiting.clear();
  }
}
