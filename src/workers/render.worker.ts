import { say } from '@/texts/say';
import type { Planar } from '@/core/base/audio';
import { ParolaError } from '@/core/base/errors';
import { atFileRate } from '@/core/formats/soundFile';
import { PartRenderer } from '@/core/timeline/partRenderer';
import { BlockReader } from '@/storage/blockReader';
import type { RenderJobs } from './renderJobs';
import { serveJobs } from './serve';

let chunks: AsyncIterator<Planar> | null = null;

/** Renders for an export that encodes meanwhile, on another core. */
serveJobs<RenderJobs>({
  async begin({ sounding, sources, range, chunkFrames, settings }) {
    const part = new PartRenderer(sounding, new BlockReader(sources));
    const audio = part.stream({ delivering: settings.format.channels }, range, chunkFrames);
    chunks = atFileRate(audio, settings)[Symbol.asyncIterator]();
    return null;
  },

  async next(_input, { give }) {
    if (!chunks) throw new ParolaError('not-found', say`Nothing was begun to be rendered.`);
    const { done, value } = await chunks.next();
    if (done) return null;
    // Made for this chunk: nobody needs it here any more.
    give(value.map(({ buffer }) => buffer as ArrayBuffer));
    return [...value];
  },
});
