import { addClip } from './bedRender';
import { ChainedTracks, hasChain } from './chainedTracks';
import type { HeardTrack } from './heard';
import type { JoinLengths } from './joins';
import { LevelCurve } from './levelPoints';
import { placeGains } from './mix';
import { render } from './render';
import type { HeardBed, Sounding } from './sounding';
import type { SourceReader } from './sourceReader';
import type { Side } from './timeline';

/**
 * What a mix is for. Playing and cueing (a run-up, what goes on after a patch) are heard in as many channels
 * as there are sides; a file has the channels its format says.
 */
export type Purpose = 'playing' | 'cueing' | { readonly delivering: number };

/** What is in a mix beside its tracks. */
export type Together = Pick<Sounding, 'beds' | 'all'> & Partial<Pick<Sounding, 'rateHz'>>;

/** What is heard of a voice or a bed in each channel; a level that changes is in `curve`. */
interface Gains {
  readonly curve: LevelCurve | null;
  readonly silent: boolean;
  readonly left: number;
  readonly right: number;
}

function gainsOf(strip: HeardTrack['strip'], side?: Side): Gains {
  const placed = side
    ? { left: side === 'left' ? 1 : 0, right: side === 'right' ? 1 : 0 }
    : placeGains(strip?.place ?? 0);
  if (!strip) return { curve: null, silent: false, ...placed };
  const curve = new LevelCurve(strip);
  const level = curve.constant ?? 1;
  return {
    curve: curve.constant === null ? curve : null,
    silent: curve.isSilent,
    left: level * placed.left,
    right: level * placed.right,
  };
}

/**
 * Puts the tracks and beds of a part together. Any chunking gives the same samples. An `earlier` mixer lends
 * what chains have made in it, where they and what goes into them are the same.
 */
export class Mixer {
  private readonly voices: readonly (Gains & { readonly track: HeardTrack })[];
  private readonly beds: readonly PlacedBed[];
  private readonly all: LevelCurve | null;
  private readonly chained: ChainedTracks;
  /** Left and right differ: a voice has a side or a place, or a bed is in stereo. */
  private readonly hasSides: boolean;
  readonly frames: number;

  constructor(
    tracks: readonly HeardTrack[],
    private readonly sources: SourceReader,
    private readonly joins: JoinLengths,
    { beds = [], all, rateHz = 48_000 }: Together = {},
    earlier?: Mixer,
  ) {
    this.chained = new ChainedTracks(tracks, sources, joins, rateHz, earlier?.chained ?? null);
    this.voices = tracks.map((track) => ({ track, ...gainsOf(track.strip, track.side) }));
    this.beds = beds.map(({ clips, strip }) => ({ clips, ...gainsOf(strip) }));
    this.all = all ? new LevelCurve(all) : null;
    this.frames = Math.max(0, ...tracks.map(({ table }) => table.frames));
    this.hasSides =
      [...this.voices, ...this.beds].some(({ left, right }) => left !== right) ||
      beds.some(({ clips }) => clips.some(({ channels }) => channels === 2));
  }

  /**
   * Heard frames [from, from + frames): left and right where they differ, one channel where they do not.
   */
  async sides(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    if (!this.hasSides) return [await this.mono(from, frames)];
    const voices = await this.rendered(from, frames);
    const [left, right] = [new Float32Array(frames), new Float32Array(frames)];
    this.voices.forEach((voice, index) => addToBoth(left, right, voices[index], voice));
    for (const bed of this.beds) await this.addBed(bed, from, [left, right], [bed.left, bed.right]);
    for (const channel of [left, right]) this.all?.apply(channel, from);
    return [left, right];
  }

  /**
   * All in one channel, summed in their order; the two sides of a pair count half each, which is their mean
   * (*common practice*). It is the mean of what `sides` gives.
   */
  async mono(from: number, frames: number): Promise<Float32Array<ArrayBuffer>> {
    const voices = await this.rendered(from, frames);
    const [only] = this.voices;
    const alone = this.voices.length === 1 && this.beds.length === 0 && only.left === 1 && only.right === 1;
    const mixed = alone ? voices[0] : new Float32Array(frames);
    if (!alone)
      this.voices.forEach((voice, index) => add(mixed, voices[index], (voice.left + voice.right) / 2));
    for (const bed of this.beds) await this.addBedToMono(bed, from, mixed);
    this.all?.apply(mixed, from);
    return mixed;
  }

  /** How far a change of what is recorded can be heard of chains, in frames. */
  get chainReach(): number {
    return this.chained.reach;
  }

  private async rendered(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    return Promise.all(
      this.voices.map(async ({ track, curve, silent }) => {
        if (silent) return new Float32Array(frames);
        const samples = hasChain(track)
          ? await this.chained.render(track, from, frames)
          : await render(track.table, from, frames, this.sources, this.joins);
        curve?.apply(samples, from);
        return samples;
      }),
    );
  }

  /** Of a bed that is put to one side its channels do not count alike in their mean. */
  private async addBedToMono(bed: PlacedBed, from: number, mixed: Float32Array): Promise<void> {
    if (bed.left === bed.right) return this.addBed(bed, from, [mixed], [bed.left]);
    const sides = [new Float32Array(mixed.length), new Float32Array(mixed.length)];
    await this.addBed(bed, from, sides, [bed.left / 2, bed.right / 2]);
    for (const side of sides) add(mixed, side, 1);
  }

  private async addBed(
    { clips, curve, silent }: PlacedBed,
    from: number,
    mixed: readonly Float32Array[],
    gains: readonly number[],
  ): Promise<void> {
    if (silent) return;
    const own = curve ? mixed.map((channel) => new Float32Array(channel.length)) : mixed;
    for (const clip of clips) await addClip(clip, from, own, this.sources, gains);
    if (!curve) return;
    own.forEach((channel, index) => {
      curve.apply(channel, from);
      add(mixed[index], channel, 1);
    });
  }
}

type PlacedBed = Gains & { readonly clips: HeardBed['clips'] };

/** One pass over memory for both channels. */
function addToBoth(
  left: Float32Array,
  right: Float32Array,
  samples: Float32Array,
  { left: toLeft, right: toRight }: { left: number; right: number },
): void {
  if (toLeft === 0) return add(right, samples, toRight);
  if (toRight === 0) return add(left, samples, toLeft);
  const frames = samples.length;
  for (let i = 0; i < frames; i++) {
    const value = samples[i];
    left[i] += toLeft * value;
    right[i] += toRight * value;
  }
}

function add(mixed: Float32Array, samples: Float32Array, gain: number): void {
  const frames = mixed.length;
  if (gain === 1) for (let i = 0; i < frames; i++) mixed[i] += samples[i];
  else if (gain !== 0) for (let i = 0; i < frames; i++) mixed[i] += gain * samples[i];
}
