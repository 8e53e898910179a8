import { say } from '@/texts/say';
import { ParolaError } from '@/core/base/errors';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { BlockReader } from '@/storage/blockReader';
import type { PlayingJobs } from './playingJobs';
import { serveJobs } from './serve';

/** A run-up, what goes on after a patch, and what is played can overlap. */
const keptSoundings = 4;
const begun = new Map<string, PartRenderer>();

/** Renders what is played, apart from the page: a busy interface is never heard. */
serveJobs<PlayingJobs>({
  async begin({ name, sounding, sources }) {
    // What the chains of the last one have made is taken over as far as it is the same.
    const earlier = [...begun.values()].at(-1);
    begun.set(name, new PartRenderer(sounding, new BlockReader(sources), earlier));
    for (const old of begun.keys()) if (begun.size > keptSoundings) begun.delete(old);
    return null;
  },

  async render({ name, purpose, from, frames }) {
    const part = begun.get(name);
    if (!part)
      throw new ParolaError('not-found', say`What was played is not there any more. Press play again.`);
    return part.mix(purpose, from, frames);
  },
});
