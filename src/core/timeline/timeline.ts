import { PieceTable, type Piece } from './pieces';

export interface Track {
  readonly id: string;
  readonly name: string;
  readonly table: PieceTable;
}

export const markKinds = ['flub', 'note', 'part'] as const;
export type MarkKind = (typeof markKinds)[number];

/** A mark on the sheet: at a point (length 0) or over a range, in frames of sheet time. */
export interface Mark {
  readonly id: string;
  readonly kind: MarkKind;
  readonly at: number;
  readonly length: number;
  readonly name: string;
}

/** What is edited and undone as one: the tracks of a part, all of the same sheet length, and its marks in order of time. */
export interface Timeline {
  readonly tracks: readonly Track[];
  readonly marks: readonly Mark[];
}

export const emptyTimeline = (trackNames: readonly string[]): Timeline => ({
  tracks: trackNames.map((name, index) => ({ id: `track-${index + 1}`, name, table: PieceTable.empty })),
  marks: [],
});

export const sheetFramesOf = (timeline: Timeline) =>
  timeline.tracks.reduce((longest, track) => Math.max(longest, track.table.sheetFrames), 0);

export const heardFramesOf = (timeline: Timeline) => timeline.tracks[0]?.table.heardFrames ?? 0;

/** Every source any track uses. */
export function sourcesOf(timeline: Timeline): Set<string> {
  const sources = new Set<string>();
  for (const track of timeline.tracks) {
    for (const piece of track.table.pieces) if (piece.kind === 'audio') sources.add(piece.source);
  }
  return sources;
}

/** A timeline as it is stored: plain data. */
export interface StoredTimeline {
  tracks: { id: string; name: string; pieces: readonly Piece[] }[];
  marks: readonly Mark[];
}

export const storeTimeline = (timeline: Timeline): StoredTimeline => ({
  tracks: timeline.tracks.map(({ id, name, table }) => ({ id, name, pieces: table.pieces })),
  marks: timeline.marks,
});

export const loadTimeline = (stored: StoredTimeline): Timeline => ({
  tracks: stored.tracks.map(({ id, name, pieces }) => ({ id, name, table: PieceTable.of(pieces) })),
  marks: stored.marks,
});
