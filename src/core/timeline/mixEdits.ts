import { clamp } from '../base/units';
import { sameChain, type Chain } from '../chain/chain';
import type { Clip } from './bedClips';
import {
  emptyMix,
  isPlainStrip,
  plainStrip,
  stripLimits,
  type Bed,
  type Mix,
  type Strip,
  type Words,
} from './mix';
import type { Side, Timeline } from './timeline';

type Mixed = Pick<Timeline, 'mix'>;

const mixOf = ({ mix }: Mixed): Mix => mix ?? emptyMix;

export const bedsOf = (timeline: Mixed): readonly Bed[] => mixOf(timeline).beds;

export const stripOf = (timeline: Mixed, id: string): Strip =>
  mixOf(timeline).strips.find((strip) => strip.id === id) ?? plainStrip(id);

/** The timeline with another mix; without one where there is nothing in it. */
export function withMix(timeline: Timeline, mix: Mix): Timeline {
  if (mix === timeline.mix) return timeline;
  const next: Timeline = { ...timeline, mix };
  if (mix.strips.length + mix.beds.length === 0) delete (next as { mix?: Mix }).mix;
  return next;
}

/**
 * Changes a strip; level and place stay inside their limits, and the sides of a pair have one chain. The
 * same timeline where nothing would change.
 */
export function changeStrip(timeline: Timeline, id: string, changes: Partial<Omit<Strip, 'id'>>): Timeline {
  const changed = changeOne(timeline, id, changes);
  const other = 'chain' in changes ? otherSide(timeline, id) : null;
  return other === null ? changed : changeOne(changed, other, { chain: changes.chain });
}

function changeOne(timeline: Timeline, id: string, changes: Partial<Omit<Strip, 'id'>>): Timeline {
  const before = stripOf(timeline, id);
  const wanted = { ...before, ...changes };
  const strip: Strip = {
    ...wanted,
    levelDb: clamp(wanted.levelDb, stripLimits.lowestDb, stripLimits.highestDb),
    place: clamp(wanted.place, -1, 1),
  };
  const samePoints = strip.points === before.points || strip.points.length + before.points.length === 0;
  const sameLevels = strip.levelDb === before.levelDb && strip.place === before.place;
  const sameRest = strip.ducking === before.ducking && sameChain(strip.chain, before.chain);
  if (sameLevels && samePoints && sameRest) return timeline;
  const mix = mixOf(timeline);
  const others = mix.strips.filter((one) => one.id !== id);
  return withMix(timeline, { ...mix, strips: isPlainStrip(strip) ? others : [...others, strip] });
}

/**
 * The other side of a stereo pair: the first track that is a left side goes with the first that is a right
 * one, and so on. Null for a track without a side or without another.
 */
export function otherSide({ tracks }: Pick<Timeline, 'tracks'>, id: string): string | null {
  const side = tracks.find((track) => track.id === id)?.side;
  if (!side) return null;
  const of = (wanted: Side) => tracks.filter((track) => track.side === wanted);
  const place = of(side).findIndex((track) => track.id === id);
  return of(side === 'left' ? 'right' : 'left')[place]?.id ?? null;
}

/** Gives a voice a chain; none when it has no steps. */
export const changeChain = (timeline: Timeline, id: string, chain: Chain | undefined): Timeline =>
  changeStrip(timeline, id, { chain: chain && chain.steps.length > 0 ? chain : undefined });

export function addBed(timeline: Timeline, bed: Bed): Timeline {
  const mix = mixOf(timeline);
  return withMix(timeline, { ...mix, beds: [...mix.beds, bed] });
}

/** Removes a bed with its strip. Clips that begin at the end of one of its clips stay where that was. */
export function removeBed(timeline: Timeline, id: string): Timeline {
  const mix = mixOf(timeline);
  return withMix(timeline, {
    ...mix,
    beds: mix.beds.filter((bed) => bed.id !== id),
    strips: mix.strips.filter((strip) => strip.id !== id),
  });
}

/** Without the level and place of a track that goes. */
export function withoutStrip(timeline: Timeline, id: string): Timeline {
  const { mix } = timeline;
  if (!mix?.strips.some((strip) => strip.id === id)) return timeline;
  return withMix(timeline, { ...mix, strips: mix.strips.filter((strip) => strip.id !== id) });
}

function mapBeds(timeline: Timeline, change: (bed: Bed) => Bed): Timeline {
  const mix = mixOf(timeline);
  return mix.beds.length === 0 ? timeline : withMix(timeline, { ...mix, beds: mix.beds.map(change) });
}

export const renameBed = (timeline: Timeline, id: string, name: string): Timeline =>
  mapBeds(timeline, (bed) => (bed.id === id ? { ...bed, name } : bed));

export const addClip = (timeline: Timeline, bedId: string, clip: Clip): Timeline =>
  mapBeds(timeline, (bed) => (bed.id === bedId ? { ...bed, clips: [...bed.clips, clip] } : bed));

export const changeClip = (timeline: Timeline, id: string, changes: Partial<Omit<Clip, 'id'>>): Timeline =>
  mapBeds(timeline, (bed) => ({
    ...bed,
    clips: bed.clips.map((clip) => (clip.id === id ? { ...clip, ...changes } : clip)),
  }));

/** Removes a clip; its bed stays, even with none. */
export const removeClip = (timeline: Timeline, id: string): Timeline =>
  mapBeds(timeline, (bed) => ({ ...bed, clips: bed.clips.filter((clip) => clip.id !== id) }));

/** Notes where the first and the last word are; nothing that is undone. */
export function withWords(timeline: Timeline, words: Words): Timeline {
  const { mix } = timeline;
  if (!mix || (mix.words?.first === words.first && mix.words.last === words.last)) return timeline;
  return { ...timeline, mix: { ...mix, words } };
}
