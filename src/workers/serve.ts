import { toParolaError } from '@/core/base/errors';
import { giveWay, type SoundWaits } from './soundFirst';
import { aliveEveryMs, type FromWorker, type JobContext, type JobMap, type ToWorker } from './protocol';

interface ServedContext extends JobContext {
  /** Names buffers of the output that are given away with it, not copied. */
  give: (buffers: readonly ArrayBuffer[]) => void;
}

type Handlers<Jobs extends JobMap> = {
  [Name in keyof Jobs & string]: (
    input: Jobs[Name]['input'],
    context: ServedContext,
  ) => Promise<Jobs[Name]['output']>;
};

/** Progress is drawn by the page: ten times a second is often enough. */
const progressEveryMs = 100;

/** Answers jobs in a worker. */
export function serveJobs<Jobs extends JobMap>(handlers: Handlers<Jobs>): void {
  const running = new Map<number, AbortController>();
  let waits: SoundWaits | null = null;
  /** The page, or the worker that this one helps. */
  let asker: { postMessage(message: FromWorker, options: StructuredSerializeOptions): void } = self;
  const send = (message: FromWorker, transfer: ArrayBuffer[] = []) =>
    asker.postMessage(message, { transfer });
  setInterval(() => running.size > 0 && send({ type: 'alive' }), aliveEveryMs);

  async function run<Name extends keyof Jobs & string>(id: number, job: Name, input: Jobs[Name]['input']) {
    const controller = new AbortController();
    running.set(id, controller);
    let reported = 0;
    const progress = (done: number, label = '') => {
      giveWay(waits);
      const now = performance.now();
      if (now - reported < progressEveryMs) return;
      reported = now;
      send({ type: 'progress', id, done, label });
    };
    try {
      giveWay(waits);
      const given = new Set<ArrayBuffer>();
      const give = (buffers: readonly ArrayBuffer[]) => buffers.forEach((buffer) => given.add(buffer));
      const output = await handlers[job](input, { signal: controller.signal, progress, give });
      send({ type: 'result', id, output }, [...given]);
    } catch (thrown) {
      const { code, message } = toParolaError(thrown);
      send({ type: 'error', id, code, message });
    } finally {
      running.delete(id);
    }
  }

  const receive = ({ data }: MessageEvent<ToWorker<Jobs>>) => {
    if (data.type === 'waits') ({ waits } = data);
    else if (data.type === 'port') {
      asker = data.port;
      data.port.onmessage = receive;
    } else if (data.type === 'cancel') running.get(data.id)?.abort();
    else if (data.type === 'run') void run(data.id, data.job, data.input);
  };
  self.onmessage = receive;
}
