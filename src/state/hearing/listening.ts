import { create } from 'zustand';
import { guidesOf } from '@/core/timeline/guides';
import type { Chosen } from '@/core/timeline/sounding';
import type { Timeline } from '@/core/timeline/timeline';
import { whenProjectCloses } from '../page/resets';

/**
 * Which voices and beds are heard while working, by their ids: a state of listening only, of no project and
 * no delivery.
 */
interface Listening {
  /** In a part with a guide. */
  readonly hear: Hear;
  readonly muted: ReadonlySet<string>;
  /** While any is soloed, only those are heard. */
  readonly solo: ReadonlySet<string>;
}

/** The own voices (with the beds), the guides, or both. */
export const hears = ['both', 'mine', 'guide'] as const;
export type Hear = (typeof hears)[number];

const all: Listening = { hear: 'both', muted: new Set(), solo: new Set() };

export const useListening = create<Listening>(() => all);

export const hearAll = () => useListening.setState(all);
whenProjectCloses(hearAll);

const toggled = (ids: ReadonlySet<string>, id: string): ReadonlySet<string> =>
  ids.has(id) ? new Set([...ids].filter((other) => other !== id)) : new Set([...ids, id]);

export const toggleMuted = (id: string) =>
  useListening.setState(({ muted }) => ({ muted: toggled(muted, id) }));
export const toggleSolo = (id: string) => useListening.setState(({ solo }) => ({ solo: toggled(solo, id) }));

export const setHear = (hear: Hear) => useListening.setState({ hear });
export const nextHear = () =>
  useListening.setState(({ hear }) => ({ hear: hears[(hears.indexOf(hear) + 1) % hears.length] }));

/** What is heard now of the voices and beds of a part, and of its guides; for a sounding. */
export function heardNow(
  timeline: Timeline,
  { hear, muted, solo }: Listening = useListening.getState(),
): { own: Chosen; guides: Chosen } {
  const chosen: Chosen = (id) => (solo.size > 0 ? solo.has(id) : !muted.has(id));
  const guided = guidesOf(timeline).length > 0;
  return {
    own: (id) => !(guided && hear === 'guide') && chosen(id),
    guides: (id) => hear !== 'mine' && chosen(id),
  };
}

/** Something is muted or soloed. */
export const isPartial = ({ muted, solo }: Listening) => muted.size + solo.size > 0;
