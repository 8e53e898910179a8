import { create } from 'zustand';
import type { PieceTable } from '@/core/timeline/pieces';
import type { Timeline } from '@/core/timeline/timeline';
import { whenProjectCloses } from '../page/resets';
import { usePart } from './part';

/** The stave that edits of sound are for, of several; null when they are for all. */
export const useStaveFocus = create<{ track: string | null }>(() => ({ track: null }));

whenProjectCloses(() => useStaveFocus.setState({ track: null }));

/** The tracks edits are for now; null for all. A focus on a track of another part counts as none. */
export function focusedTracks(): ReadonlySet<string> | null {
  const { track } = useStaveFocus.getState();
  const { tracks } = usePart.getState().timeline;
  return track && tracks.length > 1 && tracks.some(({ id }) => id === track) ? new Set([track]) : null;
}

/**
 * The table of the stave that is looked at: the focused one, else the first. For what is heard and measured,
 * never for the time.
 */
export function focusedTable({ tracks }: Timeline): PieceTable {
  const only = focusedTracks();
  return (tracks.find(({ id }) => only?.has(id)) ?? tracks[0]).table;
}

/** From all staves to the first, the next … and back to all. */
export function stepFocus(): void {
  const { tracks } = usePart.getState().timeline;
  const order = [null, ...tracks.map(({ id }) => id)];
  const { track } = useStaveFocus.getState();
  useStaveFocus.setState({
    track: tracks.length < 2 ? null : order[(order.indexOf(track) + 1) % order.length],
  });
}

export const focusOn = (track: string | null) =>
  useStaveFocus.setState((state) => ({ track: state.track === track ? null : track }));
