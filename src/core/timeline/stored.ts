import type { Output } from './output';
import { PieceTable, type Piece } from './pieces';
import type { Range } from './range';
import { timelineOfStruckPieces, type StruckTimeline } from './struckPieces';
import type { Mark, Side, TakePlace, Timeline } from './timeline';

/**
 * A timeline as it is stored: plain data. Without `struck` it is from before parts had one clock
 * (struckPieces.ts).
 */
export interface StoredTimeline {
  tracks: { id: string; name: string; side?: Side; pieces: readonly Piece[] }[];
  struck?: readonly Range[];
  marks: readonly Mark[];
  places?: readonly TakePlace[];
  output?: Output;
}

export const storeTimeline = ({ tracks, struck, marks, places, output }: Timeline): StoredTimeline => ({
  tracks: tracks.map(({ table, ...track }) => ({ ...track, pieces: table.pieces })),
  struck,
  marks,
  places,
  ...(output && { output }),
});

export const hasStruckPieces = (stored: StoredTimeline | StruckTimeline): stored is StruckTimeline =>
  !('struck' in stored) || stored.struck === undefined;

const known = new WeakMap<StoredTimeline, Timeline>();

/** The timeline of stored data, of any version. The same stored value gives the same timeline. */
export function loadTimeline(stored: StoredTimeline): Timeline {
  const loaded = known.get(stored) ?? load(stored);
  known.set(stored, loaded);
  return loaded;
}

function load(stored: StoredTimeline): Timeline {
  if (hasStruckPieces(stored)) return timelineOfStruckPieces(stored);
  const tracks = stored.tracks.map(({ pieces, ...track }) => ({ ...track, table: PieceTable.of(pieces) }));
  return {
    tracks,
    struck: stored.struck ?? [],
    marks: stored.marks,
    places: stored.places ?? [],
    ...(stored.output && { output: stored.output }),
  };
}
