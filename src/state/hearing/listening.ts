import { create } from 'zustand';
import type { Chosen } from '@/core/timeline/sounding';
import { whenProjectCloses } from '../page/resets';

/**
 * Which voices and beds are heard while working, by their ids: a state of listening only, of no project and
 * no delivery.
 */
interface Listening {
  readonly muted: ReadonlySet<string>;
  /** While any is soloed, only those are heard. */
  readonly solo: ReadonlySet<string>;
}

const all: Listening = { muted: new Set(), solo: new Set() };

export const useListening = create<Listening>(() => all);

export const hearAll = () => useListening.setState(all);
whenProjectCloses(hearAll);

const toggled = (ids: ReadonlySet<string>, id: string): ReadonlySet<string> =>
  ids.has(id) ? new Set([...ids].filter((other) => other !== id)) : new Set([...ids, id]);

export const toggleMuted = (id: string) =>
  useListening.setState(({ muted }) => ({ muted: toggled(muted, id) }));
export const toggleSolo = (id: string) => useListening.setState(({ solo }) => ({ solo: toggled(solo, id) }));

/** What is heard now, for a sounding. */
export function heardNow({ muted, solo }: Listening = useListening.getState()): Chosen {
  return (id) => (solo.size > 0 ? solo.has(id) : !muted.has(id));
}

/** Something is muted or soloed. */
export const isPartial = ({ muted, solo }: Listening) => muted.size + solo.size > 0;
