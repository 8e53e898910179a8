import { dbToAmplitude } from '../base/units';
import { Limiter, type Ceiling } from '../dsp/limiter';
import { mixMono, mixSides, type RenderSettings, type SoundingTrack } from './render';
import type { SourceReader } from './sourceReader';

/** What is done to a whole part after its tracks are put together: offset taken out, gain, ceiling, in this order. */
export interface Output {
  readonly gainDb: number;
  /** Linear, taken off the left and the right side, or the only channel. */
  readonly dcOffsets: readonly number[];
  readonly ceiling: Ceiling | null;
}

export const plainOutput: Output = { gainDb: 0, dcOffsets: [0, 0], ceiling: null };

export const sameOutput = (a: Output | undefined, b: Output | undefined) =>
  JSON.stringify(a ?? plainOutput) === JSON.stringify(b ?? plainOutput);

/** A part as far as its sound goes. */
export interface Sounding {
  readonly tracks: readonly SoundingTrack[];
  readonly output?: Output;
}

/** Renders what is heard of a part: the one way from its tracks to playing, measuring and files. Any chunking gives the same samples. */
export class PartRenderer {
  readonly heardFrames: number;
  /** The most the limiter has turned down so far, dB. */
  reductionDb = 0;
  private readonly output: Output | null;
  private readonly limiter: Limiter | null;

  constructor(
    private readonly sounding: Sounding,
    rateHz: number,
    private readonly sources: SourceReader,
    private readonly settings: RenderSettings,
  ) {
    const { output, tracks } = sounding;
    this.heardFrames = tracks[0]?.table.heardFrames ?? 0;
    this.output = output && !sameOutput(output, plainOutput) ? output : null;
    this.limiter = output?.ceiling ? new Limiter(rateHz, output.ceiling) : null;
  }

  /** Heard frames [from, from + frames): one channel, or left and right where a track has a side. */
  async sides(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    const { output, limiter } = this;
    if (!output) return this.mixed(from, frames);
    const reach = limiter?.reach ?? 0;
    const channels = await this.around(from - reach, frames + 2 * reach);
    const gain = dbToAmplitude(output.gainDb);
    channels.forEach((samples, side) => {
      const offset = output.dcOffsets[side] ?? output.dcOffsets[0] ?? 0;
      for (let i = 0; i < samples.length; i++) samples[i] = (samples[i] - offset) * gain;
    });
    if (!limiter) return channels;
    const { audio, reductionDb } = limiter.process(channels);
    if (reductionDb > this.reductionDb) this.reductionDb = reductionDb;
    return audio;
  }

  /**
   * The same with the number of channels a file has. Mono of two sides is their mean, so a voice in the middle keeps its level; two channels of one are
   * the same twice (*common practice* both).
   */
  async channels(from: number, frames: number, count: number): Promise<Float32Array<ArrayBuffer>[]> {
    if (count === 1 && !this.output)
      return [await mixMono(this.sounding.tracks, from, frames, this.sources, this.settings)];
    const sides = await this.sides(from, frames);
    if (sides.length === count) return sides;
    if (count === 2) return [sides[0], sides[0]];
    const [left, right] = sides;
    return [left.map((sample, i) => (sample + right[i]) / 2)];
  }

  /** A range of `channels` in chunks. */
  async *stream(
    range: { from: number; to: number },
    chunkFrames: number,
    count: number,
  ): AsyncGenerator<Float32Array<ArrayBuffer>[]> {
    for (let from = range.from; from < range.to; from += chunkFrames)
      yield await this.channels(from, Math.min(chunkFrames, range.to - from), count);
  }

  private mixed(from: number, frames: number) {
    return mixSides(this.sounding.tracks, from, frames, this.sources, this.settings);
  }

  /** As `mixed`, with silence before the start and after the end. */
  private async around(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    const first = Math.max(0, from);
    const last = Math.min(this.heardFrames, from + frames);
    const inside = last > first ? await this.mixed(first, last - first) : [new Float32Array(0)];
    if (first === from && last === from + frames) return inside;
    return inside.map((samples) => {
      const padded = new Float32Array(frames);
      padded.set(samples, first - from);
      return padded;
    });
  }
}
