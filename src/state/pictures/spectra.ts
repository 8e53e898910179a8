import { language } from '@/texts/say';
import { spectrogramRows } from '@/core/dsp/spectrogram';
import type { AnalysisJobs } from '@/workers/analysisJobs';
import { JobClient } from '@/workers/client';
import { rateOfProject, useProject } from '../project/openProject';

/** Columns of one tile. */
export const tileColumns = 256;
const keptTiles = 300;
/** As many are asked for at a time, the last wanted first: scrolling past does not pile work up. */
const atOnce = 2;

/** Pictures are made in a worker of their own, so that they wait for nothing and nothing waits for them. */
const client = new JobClient<AnalysisJobs>(
  () =>
    new Worker(new URL('../../workers/analysis.worker.ts', import.meta.url), {
      type: 'module',
      name: language,
    }),
);

export interface SpectrumTile {
  /** `tileColumns` columns of `spectrogramRows` bytes, the lowest frequency first. */
  readonly picture: Uint8Array;
}

interface Wanted {
  key: string;
  source: string;
  channel: number;
  tile: number;
  framesPerColumn: number;
}

/**
 * Tiles of spectrograms by source: edits move them, they never change. A look-up never waits; listeners are
 * told when more has come.
 */
class SpectrumCache {
  private readonly tiles = new Map<string, SpectrumTile>();
  private wanted: Wanted[] = [];
  private running = 0;
  private readonly listeners = new Set<() => void>();

  onLoaded(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  tile(source: string, channel: number, tile: number, framesPerColumn: number): SpectrumTile | null {
    const key = `${source}/${channel}/${framesPerColumn}/${tile}`;
    const known = this.tiles.get(key);
    if (known) {
      this.tiles.delete(key);
      this.tiles.set(key, known);
      return known;
    }
    if (!this.wanted.some((one) => one.key === key)) {
      this.wanted.push({ key, source, channel, tile, framesPerColumn });
      this.wanted = this.wanted.slice(-64);
    }
    this.work();
    return null;
  }

  private work() {
    while (this.running < atOnce && this.wanted.length > 0) {
      const next = this.wanted.pop();
      if (next && !this.tiles.has(next.key)) void this.load(next);
    }
  }

  private async load({ key, source, channel, tile, framesPerColumn }: Wanted) {
    const record = useProject.getState().sources.get(source);
    if (!record) return;
    this.running++;
    try {
      const picture = await client.run('spectrogram', {
        source,
        channel,
        sourceFrames: record.frames,
        rateHz: rateOfProject(),
        from: tile * tileColumns * framesPerColumn,
        columns: tileColumns,
        framesPerColumn,
      });
      this.tiles.set(key, { picture });
      for (const old of this.tiles.keys()) {
        if (this.tiles.size <= keptTiles) break;
        this.tiles.delete(old);
      }
      for (const listener of this.listeners) listener();
    } catch {
      // A tile that could not be made is asked for again when it is next looked at.
    } finally {
      this.running--;
      this.work();
    }
  }
}

export const spectra = new SpectrumCache();
export { spectrogramRows };
