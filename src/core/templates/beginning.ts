import type { Chain } from '../chain/chain';
import { emptyMix, plainStrip, type Mix } from '../timeline/mix';
import type { TemplateBed } from './template';

/** The beds of a part as others begin with them: with level, place and how they go down, without sounds. */
export const bedsWithoutSound = (mix: Mix | undefined): TemplateBed[] =>
  (mix?.beds ?? []).map(({ id, name }) => {
    const { levelDb, place, ducking } = mix?.strips.find((strip) => strip.id === id) ?? plainStrip(id);
    return { name, levelDb, place, ...(ducking && { ducking }) };
  });

/**
 * What a part begins with beside its tracks: chains by the ids of tracks, and beds that wait for their sound;
 * undefined where there is nothing. `newId` gives each bed an id of its own.
 */
export function mixToBeginWith(
  chains: readonly { readonly id: string; readonly chain?: Chain }[],
  beds: readonly TemplateBed[],
  newId: () => string,
): Mix | undefined {
  const fresh = beds.map(({ name, ...strip }) => ({ name, strip: { ...strip, id: newId(), points: [] } }));
  const strips = [
    ...chains.flatMap(({ id, chain }) => (chain ? [{ ...plainStrip(id), chain }] : [])),
    ...fresh.map(({ strip }) => strip),
  ];
  if (strips.length === 0) return undefined;
  return { ...emptyMix, strips, beds: fresh.map(({ name, strip: { id } }) => ({ id, name, clips: [] })) };
}
