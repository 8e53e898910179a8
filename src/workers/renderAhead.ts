import type { Planar } from '@/core/base/audio';
import { JobClient } from './client';
import { Helper } from './helper';
import type { RenderInput, RenderJobs } from './renderJobs';

/** So many chunks are asked for before they are needed. */
const chunksAhead = 3;

/**
 * Renders in a worker of its own, a few chunks ahead of whoever takes them. Throws what rendering throws, and
 * what `JobClient` throws where the worker dies. The worker ends with the generator.
 */
export async function* renderAhead(input: RenderInput): AsyncGenerator<Planar> {
  const client = new JobClient<RenderJobs>(() => new Helper('render'));
  const ask = () => {
    const asked = client.run('next', null);
    // Told by whoever waits for it.
    asked.catch(() => undefined);
    return asked;
  };
  try {
    await client.run('begin', input);
    const waiting = Array.from({ length: chunksAhead }, ask);
    for (;;) {
      const chunk = await waiting.shift();
      if (!chunk) return;
      waiting.push(ask());
      yield chunk;
    }
  } finally {
    client.close();
  }
}
