import { ChainedVoice } from '../chain/chained';
import type { Track as Values } from '../chain/cells';
import type { HeardTrack } from './heard';
import { longestReach, type JoinLengths } from './joins';
import { samePieces } from './pieces';
import { render } from './render';
import type { SourceReader } from './sourceReader';

interface Group {
  /** One track, or the left and the right side of a pair. */
  readonly tracks: readonly HeardTrack[];
  readonly voice: ChainedVoice;
}

/**
 * Tracks that go through a chain, the sides of a pair together; what they sound like depends on the range
 * alone.
 */
export class ChainedTracks {
  private readonly groups: readonly Group[];

  /** `earlier` lends what it has made of the same pieces, as far as the chains are the same. */
  constructor(
    tracks: readonly HeardTrack[],
    sources: SourceReader,
    private readonly joins: JoinLengths,
    rateHz: number,
    earlier: ChainedTracks | null,
  ) {
    this.groups = grouped(tracks).map((group) => {
      const steps = group[0].strip?.chain ?? [];
      const known = earlier?.groups.find(
        (other) => sameSound(other.tracks, group) && earlier.hasJoins(joins),
      );
      const voice = known
        ? known.voice.with(steps)
        : ChainedVoice.of(recordedOf(group, sources, joins), steps, rateHz);
      return { tracks: group, voice };
    });
  }

  /** Heard frames [from, from + frames) of a track that has a chain. */
  async render(track: HeardTrack, from: number, frames: number): Promise<Float32Array<ArrayBuffer>> {
    const { voice, tracks } = this.groupOf(track);
    const channel = tracks.indexOf(track);
    const finished = (await voice.read(from, frames))[channel];
    if (!track.strip?.taken) return finished;
    const recorded = (await voice.recorded(from, frames))[channel];
    for (let i = 0; i < frames; i++) recorded[i] -= finished[i];
    return recorded;
  }

  /** The voice a track is in, by itself or with the other side of its pair. */
  voiceOf(track: HeardTrack): ChainedVoice {
    return this.groupOf(track).voice;
  }

  private groupOf(track: HeardTrack): Group {
    const group = this.groups.find(({ tracks }) => tracks.includes(track));
    if (!group) throw new RangeError('A track without a chain');
    return group;
  }

  /** How far a change of what is recorded can be heard, in frames. */
  get reach(): number {
    return Math.max(0, ...this.groups.map(({ voice }) => voice.reach));
  }

  private hasJoins({ joinFrames, toneJoinFrames }: JoinLengths) {
    return this.joins.joinFrames === joinFrames && this.joins.toneJoinFrames === toneJoinFrames;
  }
}

export const hasChain = ({ strip }: HeardTrack) => !!strip?.chain && strip.chain.length > 0;

/** The first left side with a chain goes with the first right one of the same chain, and so on. */
function grouped(tracks: readonly HeardTrack[]): HeardTrack[][] {
  const chained = tracks.filter(hasChain);
  const rights = chained.filter((track) => pairSide(track) === 'right');
  const groups: HeardTrack[][] = [];
  for (const track of chained) {
    if (pairSide(track) === 'right') continue;
    const other = pairSide(track) === 'left' ? rights.findIndex((right) => sameChains(right, track)) : -1;
    groups.push(other < 0 ? [track] : [track, ...rights.splice(other, 1)]);
  }
  return [...groups, ...rights.map((right) => [right])];
}

const pairSide = ({ pair, side }: HeardTrack) => pair ?? side;

const sameChains = (a: HeardTrack, b: HeardTrack) =>
  JSON.stringify(a.strip?.chain) === JSON.stringify(b.strip?.chain);

const sameSound = (a: readonly HeardTrack[], b: readonly HeardTrack[]) =>
  a.length === b.length && a.every(({ table }, index) => samePieces(table.pieces, b[index].table.pieces));

/** The tracks of a group as they were recorded and joined, silent before their start and after their end. */
function recordedOf(tracks: readonly HeardTrack[], sources: SourceReader, joins: JoinLengths): Values {
  return {
    channels: tracks.length,
    reach: Math.max(...tracks.map(({ table }) => longestReach(table, joins))),
    read: (from, count) =>
      Promise.all(
        tracks.map(async ({ table }) => {
          const [first, last] = [Math.max(0, from), Math.min(table.frames, from + count)];
          const values = new Float32Array(count);
          if (last > first)
            values.set(await render(table, first, last - first, sources, joins), first - from);
          return values;
        }),
      ),
  };
}

/**
 * One track, or the two sides of a pair, as a voice with its chain, which may have no steps. `earlier` lends
 * what it has made of the same pieces.
 */
export function voiceAlone(
  tracks: readonly HeardTrack[],
  sources: SourceReader,
  joins: JoinLengths,
  rateHz: number,
  earlier: ChainedTracks | null = null,
): { tracks: ChainedTracks; voice: ChainedVoice } {
  if (!hasChain(tracks[0])) {
    const voice = ChainedVoice.of(recordedOf(tracks, sources, joins), [], rateHz);
    return { tracks: new ChainedTracks([], sources, joins, rateHz, null), voice };
  }
  const chained = new ChainedTracks(tracks, sources, joins, rateHz, earlier);
  return { tracks: chained, voice: chained.voiceOf(tracks[0]) };
}
