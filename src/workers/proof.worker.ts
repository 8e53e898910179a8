import { cancelled } from '@/core/base/errors';
import { Meter } from '@/core/loudness/measure';
import { PartRenderer } from '@/core/timeline/output';
import { loadSounding } from '@/core/timeline/sounding';
import { BlockReader } from '@/storage/blockReader';
import type { ProofJobs } from './proofJobs';
import { serveJobs } from './serve';

const chunkSeconds = 2;

serveJobs<ProofJobs>({
  /** Measures what is heard of a part, as it would be exported. */
  async measure({ sounding, sources, rateHz, joins }, { signal, progress }) {
    const part = new PartRenderer(loadSounding(sounding), rateHz, new BlockReader(sources), joins);
    const to = part.heardFrames;
    const meter = new Meter(rateHz, 1);
    let done = 0;
    for await (const audio of part.stream({ from: 0, to }, chunkSeconds * rateHz, 1)) {
      if (signal.aborted) throw cancelled();
      meter.process(audio);
      done += audio[0].length;
      progress(done / to);
    }
    return meter.finish();
  },
});
