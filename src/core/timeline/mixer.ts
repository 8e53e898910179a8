import { addClip } from './bedRender';
import type { HeardTrack } from './heard';
import type { JoinLengths } from './joins';
import { LevelCurve } from './levelPoints';
import { placeGains } from './mix';
import { render } from './render';
import type { HeardBed, Sounding } from './sounding';
import type { SourceReader } from './sourceReader';

/**
 * What a mix is for. Playing and cueing (a run-up, what goes on after a patch) are heard in as many channels
 * as there are sides; a file has the channels its format says.
 */
export type Purpose = 'playing' | 'cueing' | { readonly delivering: number };

/** What is in a mix beside its tracks. */
export type Together = Pick<Sounding, 'beds' | 'all'>;

interface Voice {
  readonly track: HeardTrack;
  readonly curve: LevelCurve | null;
  readonly left: number;
  readonly right: number;
}

interface PlacedBed {
  readonly clips: HeardBed['clips'];
  readonly curve: LevelCurve | null;
  readonly left: number;
  readonly right: number;
}

const curveOf = (strip: HeardTrack['strip']) => (strip ? new LevelCurve(strip) : null);

function voiceOf(track: HeardTrack): Voice {
  const { side, strip } = track;
  const gains = side
    ? { left: side === 'left' ? 1 : 0, right: side === 'right' ? 1 : 0 }
    : placeGains(strip?.place ?? 0);
  return { track, curve: curveOf(strip), ...gains };
}

const bedOf = ({ clips, strip }: HeardBed): PlacedBed => ({
  clips,
  curve: curveOf(strip),
  ...placeGains(strip?.place ?? 0),
});

/** Puts the tracks and beds of a part together. Any chunking gives the same samples. */
export class Mixer {
  private readonly voices: readonly Voice[];
  private readonly beds: readonly PlacedBed[];
  private readonly all: LevelCurve | null;
  /** Left and right differ: a voice has a side or a place, or a bed is in stereo. */
  private readonly hasSides: boolean;
  readonly frames: number;

  constructor(
    tracks: readonly HeardTrack[],
    private readonly sources: SourceReader,
    private readonly joins: JoinLengths,
    { beds = [], all }: Together = {},
  ) {
    this.voices = tracks.map(voiceOf);
    this.beds = beds.map(bedOf);
    this.all = curveOf(all);
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
    const left = new Float32Array(frames);
    const right = new Float32Array(frames);
    this.voices.forEach((voice, index) => {
      add(left, voices[index], voice.left);
      add(right, voices[index], voice.right);
    });
    for (const bed of this.beds) {
      const [own, other] = await this.bed(bed, from, frames, 2);
      add(left, own, bed.left);
      add(right, other, bed.right);
    }
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
    for (const bed of this.beds) {
      // Of a bed that is put to one side its channels do not count alike.
      const count = bed.left === bed.right ? 1 : 2;
      const channels = await this.bed(bed, from, frames, count);
      if (count === 1) add(mixed, channels[0], bed.left);
      else [bed.left, bed.right].forEach((gain, index) => add(mixed, channels[index], gain / 2));
    }
    this.all?.apply(mixed, from);
    return mixed;
  }

  private async rendered(from: number, frames: number): Promise<Float32Array<ArrayBuffer>[]> {
    return Promise.all(
      this.voices.map(async ({ track, curve }) => {
        if (curve?.isSilent) return new Float32Array(frames);
        const samples = await render(track.table, from, frames, this.sources, this.joins);
        curve?.apply(samples, from);
        return samples;
      }),
    );
  }

  private async bed({ clips, curve }: PlacedBed, from: number, frames: number, count: number) {
    const channels = Array.from({ length: count }, () => new Float32Array(frames));
    if (curve?.isSilent) return channels;
    for (const clip of clips) await addClip(clip, from, channels, this.sources);
    for (const channel of channels) curve?.apply(channel, from);
    return channels;
  }
}

function add(mixed: Float32Array, samples: Float32Array, gain: number): void {
  if (gain === 1) for (let i = 0; i < mixed.length; i++) mixed[i] += samples[i];
  else if (gain !== 0) for (let i = 0; i < mixed.length; i++) mixed[i] += gain * samples[i];
}
