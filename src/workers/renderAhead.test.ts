import { renderAhead } from './renderAhead';
import type { RenderInput } from './renderJobs';

/** A worker in the same thread that renders chunks of one sample, 0 to 4, unless it is told otherwise. */
class RenderWorker {
  static all: RenderWorker[] = [];
  static diesAt = Infinity;
  static failsAt = Infinity;
  asked = 0;
  ended = false;
  onmessage: ((event: { data: unknown }) => void) | null = null;
  onerror: (() => void) | null = null;

  constructor() {
    RenderWorker.all.push(this);
  }

  postMessage({ id, job }: { id: number; job: string }) {
    const number = job === 'next' ? this.asked++ : -1;
    setTimeout(() => {
      if (this.ended) return;
      if (number === RenderWorker.diesAt) return this.onerror?.();
      const message = 'The audio of this part cannot be read.';
      if (number === RenderWorker.failsAt)
        return this.onmessage?.({ data: { type: 'error', id, code: 'damaged-file', message } });
      const output = number >= 0 && number < 5 ? [Float32Array.of(number)] : null;
      this.onmessage?.({ data: { type: 'result', id, output } });
    });
  }

  terminate() {
    this.ended = true;
  }
}

/** In place of a helper that the page starts. */
const mockHelper = () => new RenderWorker();
jest.mock('./helper', () => ({ Helper: jest.fn(() => mockHelper()) }));

beforeEach(() => {
  RenderWorker.all = [];
  RenderWorker.diesAt = RenderWorker.failsAt = Infinity;
});

async function taken(): Promise<number[]> {
  const chunks: number[] = [];
  for await (const [samples] of renderAhead({} as RenderInput)) chunks.push(samples[0]);
  return chunks;
}

test('chunks come in their order, to the last, and the worker ends', async () => {
  expect(await taken()).toEqual([0, 1, 2, 3, 4]);
  expect(RenderWorker.all.map(({ ended }) => ended)).toEqual([true]);
});

test('no more than three are rendered before they are taken', async () => {
  const chunks = renderAhead({} as RenderInput);
  await chunks.next();
  await new Promise((resolve) => setTimeout(resolve, 30));
  expect(RenderWorker.all[0].asked).toBe(4);
  await chunks.return(undefined);
  expect(RenderWorker.all[0].ended).toBe(true);
});

test('what cannot be rendered, and a worker that dies, ends it with the reason', async () => {
  RenderWorker.failsAt = 2;
  await expect(taken()).rejects.toMatchObject({ code: 'damaged-file' });
  RenderWorker.failsAt = Infinity;
  RenderWorker.diesAt = 3;
  await expect(taken()).rejects.toMatchObject({ code: 'worker-died' });
  expect(RenderWorker.all.map(({ ended }) => ended)).toEqual([true, true]);
});
