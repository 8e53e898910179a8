import { clamp } from '../base/units';
import type { Chain } from '../chain/chain';
import type { Clip } from './bedClips';
import type { Ducking } from './ducking';
import type { LevelPoint } from './levelPoints';

/** How loud a voice, a bed or all of a part is in the mix, and where; one that is missing is plain. */
export interface Strip {
  /** Id of a track or of a bed, or `allOfIt`. */
  readonly id: string;
  readonly levelDb: number;
  /** From −1, left, to 1, right. The side of a stereo pair and all together have none. */
  readonly place: number;
  /** Levels that change, on top of `levelDb`, in order of time. */
  readonly points: readonly LevelPoint[];
  /** Of a bed: how its points were written for speech, last time. */
  readonly ducking?: Ducking;
  /** Of a voice: what it goes through before its level. The sides of a pair have the same. */
  readonly chain?: Chain;
}

/** Id of the strip of all voices and beds together. */
export const allOfIt = 'all';

export const stripLimits = { lowestDb: -60, highestDb: 24 } as const;

/** Music or atmosphere under the voices: clips in heard time, so that an edit of speech never cuts it. */
export interface Bed {
  readonly id: string;
  readonly name: string;
  readonly clips: readonly Clip[];
}

/** Where the first word that is heard begins and the last one ends, in frames of sheet time. */
export interface Words {
  readonly first: number;
  readonly last: number;
}

/** What is put together of a part beside its voices. */
export interface Mix {
  readonly strips: readonly Strip[];
  readonly beds: readonly Bed[];
  /** As they were found last; missing where nobody has looked. */
  readonly words?: Words;
}

export const emptyMix: Mix = { strips: [], beds: [] };

export const plainStrip = (id: string): Strip => ({ id, levelDb: 0, place: 0, points: [] });

export const isPlainStrip = ({ levelDb, place, points, ducking, chain }: Strip) =>
  levelDb === 0 && place === 0 && points.length === 0 && !ducking && !chain;

/** Equal mixes sound the same and are shown the same. */
export const sameMix = (a: Mix | undefined, b: Mix | undefined): boolean =>
  a === b || JSON.stringify(a ?? emptyMix) === JSON.stringify(b ?? emptyMix);

/** Whether two mixes are told apart by nothing but the chains of their voices. */
export function sameButChains(a: Mix | undefined, b: Mix | undefined): boolean {
  if (a === b) return true;
  const levels = ({ strips, beds, words }: Mix = emptyMix) => {
    const unchained = strips.map((strip) => ({ ...strip, chain: undefined }));
    return JSON.stringify([unchained.filter((strip) => !isPlainStrip(strip)), beds, words]);
  };
  return levels(a) === levels(b);
}

/** Every source the beds use. */
export const sourcesOfBeds = (mix: Mix | undefined): string[] =>
  (mix?.beds ?? []).flatMap(({ clips }) => clips.map(({ source }) => source));

/**
 * Gains of the left and the right channel for a place: constant power, 1 and 1 in the middle, so that a voice
 * is as loud (ITU-R BS.1770 adds the power of channels) wherever it is put; at a side √2 and 0.
 */
export function placeGains(place: number): { left: number; right: number } {
  if (place === 0) return { left: 1, right: 1 };
  const angle = ((clamp(place, -1, 1) + 1) * Math.PI) / 4;
  return { left: Math.SQRT2 * Math.cos(angle), right: Math.SQRT2 * Math.sin(angle) };
}
