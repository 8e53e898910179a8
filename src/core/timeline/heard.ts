import { stepsOn } from '../chain/chain';
import type { SheetClock } from './clock';
import { heardPoints, type HeardStrip } from './levelPoints';
import { isPlainStrip } from './mix';
import { stripOf } from './mixEdits';
import type { PieceTable } from './pieces';
import { clockOf, type Side, type Timeline } from './timeline';

/** A track as far as its sound goes: its pieces in heard time. */
export interface HeardTrack {
  readonly table: PieceTable;
  readonly side?: Side;
  /** Its side in a pair that goes through a chain together, where it is heard elsewhere or not at all. */
  readonly pair?: Side;
  /** As it is, in the middle, when missing. */
  readonly strip?: HeardStrip;
}

const known = new WeakMap<PieceTable, { clock: SheetClock; heard: PieceTable }>();

/** What is heard of a track, as a table in heard time: its pieces without what is struck. */
export function heardTable(table: PieceTable, clock: SheetClock): PieceTable {
  if (clock.struck.length === 0) return table;
  const last = known.get(table);
  if (last?.clock === clock) return last.heard;
  const heard = table.only(clock.heardIn({ from: 0, to: table.frames }));
  known.set(table, { clock, heard });
  return heard;
}

/** What is heard of every track of a timeline, each as it is. */
export const heardTracks = (timeline: Timeline): HeardTrack[] => {
  const clock = clockOf(timeline);
  return timeline.tracks.map(({ table, side }) => ({
    table: heardTable(table, clock),
    ...(side && { side }),
  }));
};

/** How a track, a bed or all of it is heard in the mix; null for as it is. */
export function heardStrip(
  timeline: Timeline,
  id: string,
  { rateHz, dry = false }: { readonly rateHz: number; readonly dry?: boolean },
): HeardStrip | null {
  const strip = stripOf(timeline, id);
  const { levelDb, place, points } = strip;
  const steps = dry ? [] : stepsOn(strip.chain);
  if (steps.length === 0 && isPlainStrip({ ...strip, ducking: undefined, chain: undefined })) return null;
  return {
    levelDb,
    place,
    points: heardPoints(points, clockOf(timeline), rateHz),
    ...(steps.length > 0 && { chain: steps }),
  };
}
