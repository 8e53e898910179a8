import { toParolaError } from '@/core/base/errors';
import { aliveEveryMs, type FromWorker, type JobContext, type JobMap, type ToWorker } from './protocol';

type Handlers<Jobs extends JobMap> = {
  [Name in keyof Jobs & string]: (
    input: Jobs[Name]['input'],
    context: JobContext,
  ) => Promise<Jobs[Name]['output']>;
};

/** Answers jobs in a worker. Progress is passed on at most every 50 ms. */
export function serveJobs<Jobs extends JobMap>(handlers: Handlers<Jobs>): void {
  const running = new Map<number, AbortController>();
  const send = (message: FromWorker) => self.postMessage(message);
  setInterval(() => running.size > 0 && send({ type: 'alive' }), aliveEveryMs);

  async function run<Name extends keyof Jobs & string>(id: number, job: Name, input: Jobs[Name]['input']) {
    const controller = new AbortController();
    running.set(id, controller);
    let reported = 0;
    const progress = (done: number, label = '') => {
      const now = performance.now();
      if (now - reported < 50) return;
      reported = now;
      send({ type: 'progress', id, done, label });
    };
    try {
      const output = await handlers[job](input, { signal: controller.signal, progress });
      send({ type: 'result', id, output });
    } catch (thrown) {
      const { code, message } = toParolaError(thrown);
      send({ type: 'error', id, code, message });
    } finally {
      running.delete(id);
    }
  }

  self.onmessage = ({ data }: MessageEvent<ToWorker<Jobs>>) => {
    if (data.type === 'cancel') running.get(data.id)?.abort();
    else void run(data.id, data.job, data.input);
  };
}
