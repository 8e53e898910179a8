import { cancelled } from '@/core/base/errors';
import { Meter } from '@/core/loudness/measure';
import { renderMono } from '@/core/timeline/render';
import { soundingTrack } from '@/core/timeline/sounding';
import { BlockReader } from '@/storage/blockReader';
import type { ProofJobs } from './proofJobs';
import { serveJobs } from './serve';

const chunkSeconds = 2;

serveJobs<ProofJobs>({
  /** Measures what is heard of a part, as it would be exported. */
  async measure({ tracks, sources, rateHz, joins }, { signal, progress }) {
    const sounding = tracks.map(soundingTrack);
    const to = sounding[0].table.heardFrames;
    const meter = new Meter(rateHz, 1);
    let done = 0;
    const reader = new BlockReader(sources);
    for await (const chunk of renderMono(sounding, { from: 0, to }, chunkSeconds * rateHz, reader, joins)) {
      if (signal.aborted) throw cancelled();
      meter.process([chunk]);
      done += chunk.length;
      progress(done / to);
    }
    return meter.finish();
  },
});
