import { within } from '@/core/base/waiting';
import type { Purpose } from '@/core/timeline/mixer';
import type { Sounding } from '@/core/timeline/sounding';
import { JobClient } from '@/workers/client';
import type { PlayingJobs } from '@/workers/playingJobs';
import { sourceLengths } from '../project/openProject';

const client = new JobClient<PlayingJobs>(
  () => new Worker(new URL('../../workers/playing.worker.ts', import.meta.url), { type: 'module' }),
);

/**
 * A quarter of a second is rendered in a few milliseconds; storage that does not answer by then will not do
 * so in time.
 */
const longestMs = 10_000;
const noAnswer = 'The sound could not be read in time. Press play again.';

let count = 0;

export type Rendered = (from: number, frames: number) => Promise<Float32Array<ArrayBuffer>[]>;

/** Renders heard frames of a sounding in a worker. Rejects with ParolaError. */
export function renderer(sounding: Sounding, purpose: Purpose, gain = 1): Rendered {
  const name = `sounding ${++count}`;
  const begun = client.run('begin', { name, sounding, sources: sourceLengths() });
  begun.catch(() => undefined);
  return async (from, frames) => {
    await within(begun, longestMs, noAnswer);
    const channels = await within(client.run('render', { name, purpose, from, frames }), longestMs, noAnswer);
    if (gain !== 1) for (const samples of channels) for (let i = 0; i < frames; i++) samples[i] *= gain;
    return channels;
  };
}
