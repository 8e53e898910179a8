import { JobClient } from './client';
import type { ToWorker } from './protocol';

type Jobs = { add: { input: [number, number]; output: number } };

/** A worker in the same thread: what is posted to it is kept, what it says is said by hand. */
class PlannedWorker {
  readonly received: ToWorker<Jobs>[] = [];
  terminated = false;
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: (() => void) | null = null;
  postMessage(message: ToWorker<Jobs>) {
    this.received.push(message);
  }
  terminate() {
    this.terminated = true;
  }
  say(data: unknown) {
    this.onmessage?.({ data });
  }
}

function start() {
  const workers: PlannedWorker[] = [];
  const client = new JobClient<Jobs>(() => {
    workers.push(new PlannedWorker());
    return workers[workers.length - 1] as unknown as Worker;
  });
  return { client, workers };
}

test('a job is answered by its own reply, with progress on the way', async () => {
  const { client, workers } = start();
  const progress: [number, string | undefined][] = [];
  const first = client.run('add', [1, 2], { progress: (done, label) => progress.push([done, label]) });
  const second = client.run('add', [3, 4]);
  expect(workers).toHaveLength(1);
  workers[0].say({ type: 'result', id: 2, output: 7 });
  workers[0].say({ type: 'progress', id: 1, done: 0.5, label: 'half' });
  workers[0].say({ type: 'result', id: 1, output: 3 });
  await expect(first).resolves.toBe(3);
  await expect(second).resolves.toBe(7);
  expect(progress).toEqual([[0.5, 'half']]);
});

test('a worker is let go only when nothing waits for it; the next job gets a new one', async () => {
  const { client, workers } = start();
  client.release();
  const first = client.run('add', [1, 2]);
  client.release();
  expect(workers[0].terminated).toBe(false);
  workers[0].say({ type: 'result', id: 1, output: 3 });
  await expect(first).resolves.toBe(3);
  client.release();
  expect(workers[0].terminated).toBe(true);
  const second = client.run('add', [3, 4]);
  workers[1].say({ type: 'result', id: 2, output: 7 });
  await expect(second).resolves.toBe(7);
});

test('errors keep their code', async () => {
  const { client, workers } = start();
  const job = client.run('add', [1, 2]);
  workers[0].say({ type: 'error', id: 1, code: 'storage-full', message: 'Full.' });
  await expect(job).rejects.toMatchObject({ name: 'ParolaError', code: 'storage-full', message: 'Full.' });
});

test('cancelling tells the worker; cancelled before it starts, it never starts', async () => {
  const { client, workers } = start();
  const controller = new AbortController();
  const job = client.run('add', [1, 2], { signal: controller.signal });
  controller.abort();
  expect(workers[0].received[1]).toEqual({ type: 'cancel', id: 1 });
  workers[0].say({ type: 'error', id: 1, code: 'cancelled', message: 'Cancelled.' });
  await expect(job).rejects.toMatchObject({ code: 'cancelled' });
  await expect(client.run('add', [1, 2], { signal: controller.signal })).rejects.toMatchObject({
    code: 'cancelled',
  });
  expect(workers[0].received).toHaveLength(2);
});

test('when the worker dies its jobs fail, and the next job gets a new one', async () => {
  const { client, workers } = start();
  const job = client.run('add', [1, 2]);
  workers[0].onerror?.();
  await expect(job).rejects.toMatchObject({ code: 'worker-died' });
  expect(workers[0].terminated).toBe(true);
  const next = client.run('add', [1, 2]);
  workers[1].say({ type: 'result', id: 2, output: 3 });
  await expect(next).resolves.toBe(3);
});

describe('a worker that gets stuck', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  test('is ended after a minute without a word, and the next job gets a new one', async () => {
    const { client, workers } = start();
    const job = client.run('add', [1, 2]);
    const failed = expect(job).rejects.toMatchObject({ code: 'no-answer' });
    jest.advanceTimersByTime(50_000);
    workers[0].say({ type: 'alive' });
    jest.advanceTimersByTime(50_000);
    expect(workers[0].terminated).toBe(false);
    jest.advanceTimersByTime(11_000);
    await failed;
    expect(workers[0].terminated).toBe(true);
    const next = client.run('add', [1, 2]);
    workers[1].say({ type: 'result', id: 2, output: 3 });
    await expect(next).resolves.toBe(3);
    expect(jest.getTimerCount()).toBe(0);
  });

  test('a job with a limit ends then, however much the worker says that it is there', async () => {
    const { client, workers } = start();
    const job = client.run('add', [1, 2], { limitMs: 3000 });
    const failed = expect(job).rejects.toMatchObject({ code: 'no-answer' });
    for (let second = 0; second < 3; second++) {
      jest.advanceTimersByTime(1000);
      workers[0].say({ type: 'alive' });
    }
    await failed;
    expect(workers[0].terminated).toBe(true);
  });
});
