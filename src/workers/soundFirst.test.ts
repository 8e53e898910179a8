import { Worker } from 'node:worker_threads';
import { giveWay, soundFirst, type SoundWaits } from './soundFirst';

const counter = (): SoundWaits => new Int32Array(new SharedArrayBuffer(4));

test('what is waited for is counted until it is there, or has failed', async () => {
  const waits = counter();
  let come: (sound: string) => void = () => undefined;
  const first = soundFirst(() => new Promise<string>((resolve) => (come = resolve)), waits);
  const second = soundFirst(() => Promise.reject(new Error('no sound')), waits);
  expect(waits[0]).toBe(2);
  await expect(second).rejects.toThrow('no sound');
  expect(waits[0]).toBe(1);
  come('there');
  expect(await first).toBe('there');
  expect(waits[0]).toBe(0);
});

test('where nothing is waited for, or memory is not shared, nobody stands still', () => {
  const started = performance.now();
  giveWay(counter());
  giveWay(null);
  expect(performance.now() - started).toBeLessThan(200);
});

test('who works in the background goes on as soon as the sound is there', async () => {
  const waits = counter();
  Atomics.store(waits, 0, 1);
  // Another thread takes the wait away: this one stands still until then.
  const other = new Worker(
    `const { workerData } = require('node:worker_threads');
     Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 60);
     Atomics.store(workerData, 0, 0);
     Atomics.notify(workerData, 0);`,
    { eval: true, workerData: waits },
  );
  giveWay(waits);
  expect(waits[0]).toBe(0);
  await new Promise((resolve) => other.once('exit', resolve));
});

test('a sound that never comes holds nothing up for good', () => {
  const waits = counter();
  Atomics.store(waits, 0, 1);
  giveWay(waits);
  expect(waits[0]).toBe(1);
});
