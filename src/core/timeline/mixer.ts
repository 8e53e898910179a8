import type { HeardTrack } from './heard';
import type { JoinLengths } from './joins';
import { render } from './render';
import type { SourceReader } from './sourceReader';
import type { Side } from './timeline';

/**
 * What a mix is for. Playing and cueing (a run-up, what goes on after a patch) are heard in as many channels
 * as there are sides; a file has the channels its format says.
 */
export type Purpose = 'playing' | 'cueing' | { readonly delivering: number };

/** Puts the tracks of a part together. Any chunking gives the same samples. */
export class Mixer {
  constructor(
    private readonly tracks: readonly HeardTrack[],
    private readonly sources: SourceReader,
    private readonly joins: JoinLengths,
  ) {}

  get frames(): number {
    return Math.max(0, ...this.tracks.map(({ table }) => table.frames));
  }

  private get hasSides() {
    return this.tracks.some(({ side }) => side);
  }

  /**
   * Heard frames [from, from + frames): left and right where a track has a side, one channel where none has.
   */
  async sides(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    const rendered = await this.rendered(from, frames);
    const channel = (other: Side) => this.sum(frames, rendered, ({ side }) => (side === other ? 0 : 1));
    return this.hasSides ? [channel('right'), channel('left')] : [channel('right')];
  }

  /**
   * All tracks in one channel, summed in their order; the two sides of a pair count half each, which is their
   * mean (*common practice*). It is the mean of what `sides` gives.
   */
  async mono(from: number, frames: number): Promise<Float32Array<ArrayBuffer>> {
    const rendered = await this.rendered(from, frames);
    if (this.tracks.length === 1 && !this.hasSides) return rendered[0];
    return this.sum(frames, rendered, ({ side }) => (side ? 0.5 : 1));
  }

  private async rendered(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    return Promise.all(this.tracks.map(({ table }) => render(table, from, frames, this.sources, this.joins)));
  }

  private sum(
    frames: number,
    rendered: readonly Float32Array[],
    gainOf: (track: HeardTrack) => number,
  ): Float32Array<ArrayBuffer> {
    const mixed = new Float32Array(frames);
    rendered.forEach((samples, index) => {
      const gain = gainOf(this.tracks[index]);
      if (gain === 1) for (let i = 0; i < frames; i++) mixed[i] += samples[i];
      else if (gain !== 0) for (let i = 0; i < frames; i++) mixed[i] += gain * samples[i];
    });
    return mixed;
  }
}
