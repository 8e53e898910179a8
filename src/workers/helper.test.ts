import { JobClient } from './client';
import { Helper } from './helper';
import type { ToWorker } from './protocol';

/**
 * Three threads in one: the page with a worker, in which a job wants a helper, and the helper, which the page
 * starts and whose jobs come over the port that is handed to it.
 */
type Jobs = { add: { input: [number, number]; output: number } };

/** A helper: adds, over its port; dies or keeps silent when it is told to. */
class AddingWorker {
  static all: AddingWorker[] = [];
  static dies = false;
  ended = false;
  onerror: (() => void) | null = null;
  port: MessagePort | null = null;

  constructor() {
    AddingWorker.all.push(this);
  }

  postMessage(message: { type: 'port'; port: MessagePort }) {
    this.port = message.port;
    this.port.onmessage = ({ data }: MessageEvent<ToWorker<Jobs>>) => {
      if (data.type !== 'run') return;
      if (AddingWorker.dies) return this.onerror?.();
      const [a, b] = data.input;
      this.port?.postMessage({ type: 'result', id: data.id, output: a + b });
    };
  }

  terminate() {
    this.ended = true;
    this.port?.close();
  }
}

/** The worker that wants helpers, as the page has it; what it says itself goes over `self`. */
class Helped {
  static last: Helped;
  ended = false;
  onmessage: ((event: { data: unknown }) => void) | null = null;
  readonly hearing = new Set<(event: { data: unknown }) => void>();

  constructor() {
    Helped.last = this;
  }
  postMessage(data: unknown) {
    for (const hear of this.hearing) hear({ data });
  }
  terminate() {
    this.ended = true;
  }
}
type Hear = (event: { data: unknown }) => void;
const self = {
  postMessage: (data: unknown) => Helped.last.onmessage?.({ data }),
  addEventListener: (_: string, hear: Hear) => Helped.last.hearing.add(hear),
  removeEventListener: (_: string, hear: Hear) => Helped.last.hearing.delete(hear),
};

let page: JobClient<Jobs>;
let job: Promise<number>;
beforeAll(() => Object.assign(globalThis, { Worker: AddingWorker, self }));
beforeEach(() => {
  AddingWorker.all = [];
  AddingWorker.dies = false;
  page = new JobClient<Jobs>(() => new Helped() as unknown as Worker);
  job = page.run('add', [0, 0]);
  job.catch(() => undefined);
});
afterEach(() => {
  page.close();
  // An open port keeps the process alive.
  for (const helper of AddingWorker.all) helper.terminate();
});

const helped = () => new JobClient<Jobs>(() => new Helper('hash'));

test('jobs go to the helper that the page has started, and it ends when it is needed no more', async () => {
  const client = helped();
  expect(await client.run('add', [1, 2])).toBe(3);
  expect(await client.run('add', [3, 4])).toBe(7);
  expect(AddingWorker.all).toHaveLength(1);
  client.close();
  expect(AddingWorker.all[0].ended).toBe(true);
  expect(Helped.last.hearing.size).toBe(0);
  // Whoever it helped goes on.
  Helped.last.onmessage?.({ data: { type: 'result', id: 1, output: 9 } });
  expect(await job).toBe(9);
});

test('a helper that dies is told to whom it helped; the next job has another one', async () => {
  const [first, second] = [helped(), helped()];
  expect(await first.run('add', [1, 1])).toBe(2);
  AddingWorker.dies = true;
  await expect(second.run('add', [1, 2])).rejects.toMatchObject({ code: 'worker-died' });
  AddingWorker.dies = false;
  // Not the other one's.
  expect(await first.run('add', [2, 2])).toBe(4);
  expect(await second.run('add', [1, 2])).toBe(3);
  expect(AddingWorker.all.map(({ ended }) => ended)).toEqual([false, true, false]);
  first.close();
  second.close();
});

test('helpers end with the worker they help, however it ends', async () => {
  const client = helped();
  expect(await client.run('add', [1, 2])).toBe(3);
  page.close();
  await expect(job).rejects.toMatchObject({ code: 'cancelled' });
  expect(Helped.last.ended).toBe(true);
  expect(AddingWorker.all.map(({ ended }) => ended)).toEqual([true]);
  client.close();
});
