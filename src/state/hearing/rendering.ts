import { language, say } from '@/texts/say';
import { within } from '@/core/base/waiting';
import type { Purpose } from '@/core/timeline/mixer';
import type { Sounding } from '@/core/timeline/sounding';
import { JobClient } from '@/workers/client';
import type { PlayingJobs } from '@/workers/playingJobs';
import { soundFirst } from '@/workers/soundFirst';
import { sourceLengths } from '../project/openProject';

const client = new JobClient<PlayingJobs>(
  () =>
    new Worker(new URL('../../workers/playing.worker.ts', import.meta.url), {
      type: 'module',
      name: language,
    }),
  true,
);

/**
 * A quarter of a second is rendered in a few milliseconds; storage that does not answer by then will not do
 * so in time.
 */
const longestMs = 10_000;
const noAnswer = say`The sound could not be read in time. Press play again.`;

let count = 0;

export type Rendered = (from: number, frames: number) => Promise<Float32Array<ArrayBuffer>[]>;

/** Renders heard frames of a sounding in a worker. Rejects with ParolaError. */
export function renderer(sounding: Sounding, purpose: Purpose, gain = 1): Rendered {
  const name = `sounding ${++count}`;
  const begun = client.run('begin', { name, sounding, sources: sourceLengths() });
  begun.catch(() => undefined);
  let first = true;
  // The worker takes jobs in their order: what is to be rendered is asked for before it says it has begun.
  const render = async (from: number, frames: number) => {
    const asked = client.run('render', { name, purpose, from, frames });
    asked.catch(() => undefined);
    await within(begun, longestMs, noAnswer);
    return within(asked, longestMs, noAnswer);
  };
  return async (from, frames) => {
    const isFirst = first;
    first = false;
    const channels = await (isFirst ? soundFirst(() => render(from, frames)) : render(from, frames));
    if (gain !== 1) for (const samples of channels) for (let i = 0; i < frames; i++) samples[i] *= gain;
    return channels;
  };
}
