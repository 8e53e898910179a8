import { exhaustive } from '../base/errors';
import { dbToAmplitude } from '../base/units';
import { Limiter } from '../dsp/limiter';
import { Mixer, type Purpose } from './mixer';
import { plainOutput, sameOutput, type Output } from './output';
import { tracksOf, type Sounding } from './sounding';
import type { SourceReader } from './sourceReader';

/**
 * Renders what is heard of a part: the one way from its sounding to playing, measuring and files. Any
 * chunking gives the same samples.
 */
export class PartRenderer {
  readonly heardFrames: number;
  /** The most the limiter has turned down so far, dB. */
  reductionDb = 0;
  private readonly mixer: Mixer;
  private readonly output: Output | null;
  private readonly limiter: Limiter | null;

  /** `earlier` lends what its chains have made, as far as it is the same. */
  constructor(sounding: Sounding, sources: SourceReader, earlier?: PartRenderer) {
    const { output, joins, rateHz } = sounding;
    this.mixer = new Mixer(tracksOf(sounding), sources, joins, sounding, earlier?.mixer);
    this.heardFrames = this.mixer.frames;
    this.output = output && !sameOutput(output, plainOutput) ? output : null;
    this.limiter = output?.ceiling ? new Limiter(rateHz, output.ceiling) : null;
  }

  /** Frames on either side of a change of pieces within which it can be heard of chains and limiter. */
  get reach(): number {
    return this.mixer.chainReach + (this.limiter?.reach ?? 0);
  }

  /** Heard frames [from, from + frames) as they are wanted for a purpose. */
  mix(purpose: Purpose, from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    switch (purpose) {
      case 'playing':
      case 'cueing':
        return this.sides(from, frames);
      default:
        return typeof purpose === 'object'
          ? this.delivered(from, frames, purpose.delivering)
          : exhaustive(purpose);
    }
  }

  /** A range of a mix in chunks. */
  async *stream(
    purpose: Purpose,
    range: { from: number; to: number },
    chunkFrames: number,
  ): AsyncGenerator<Float32Array<ArrayBuffer>[]> {
    for (let from = range.from; from < range.to; from += chunkFrames)
      yield await this.mix(purpose, from, Math.min(chunkFrames, range.to - from));
  }

  /** One channel, or left and right where a track has a side; with the part's output. */
  private async sides(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    const { output, limiter } = this;
    if (!output) return this.mixer.sides(from, frames);
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
   * With the number of channels a file has. Mono of two sides is their mean, so a voice in the middle keeps
   * its level; two channels of one are the same twice (*common practice* both).
   */
  private async delivered(from: number, frames: number, count: number): Promise<Float32Array<ArrayBuffer>[]> {
    if (count === 1 && !this.output) return [await this.mixer.mono(from, frames)];
    const sides = await this.sides(from, frames);
    if (sides.length === count) return sides;
    if (count === 2) return [sides[0], sides[0]];
    const [left, right] = sides;
    return [left.map((sample, i) => (sample + right[i]) / 2)];
  }

  /** As the mixer's sides, with silence before the start and after the end. */
  private async around(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    const first = Math.max(0, from);
    const last = Math.min(this.heardFrames, from + frames);
    const inside = last > first ? await this.mixer.sides(first, last - first) : [new Float32Array(0)];
    if (first === from && last === from + frames) return inside;
    return inside.map((samples) => {
      const padded = new Float32Array(frames);
      padded.set(samples, first - from);
      return padded;
    });
  }
}
