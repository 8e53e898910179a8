import { cancelled } from '@/core/base/errors';
import { Meter } from '@/core/loudness/measure';
import { PieceTable } from '@/core/timeline/pieces';
import { renderMono } from '@/core/timeline/render';
import { BlockReader } from '@/storage/blockReader';
import type { ProofJobs } from './proofJobs';
import { serveJobs } from './serve';

const chunkSeconds = 2;

serveJobs<ProofJobs>({
  /** Measures what is heard of a part, as it would be exported. */
  async measure({ tracks, sources, rateHz, joinFrames }, { signal, progress }) {
    const tables = tracks.map((pieces) => PieceTable.of(pieces));
    const to = tables[0].heardFrames;
    const meter = new Meter(rateHz, 1);
    let done = 0;
    const reader = new BlockReader(sources);
    for await (const chunk of renderMono(tables, { from: 0, to }, chunkSeconds * rateHz, reader, {
      joinFrames,
    })) {
      if (signal.aborted) throw cancelled();
      meter.process([chunk]);
      done += chunk.length;
      progress(done / to);
    }
    return meter.finish();
  },
});
