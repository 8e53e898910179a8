import type { Output } from './output';
import { PieceTable, type AudioPiece, type Piece } from './pieces';

/** One stave: a voice, or one side of a stereo pair. */
export interface Track {
  readonly id: string;
  readonly name: string;
  readonly side?: Side;
  readonly table: PieceTable;
}

/** Where a track is heard: left or right of a stereo pair; without a side, in the middle. */
export type Side = 'left' | 'right';

/**
 * `clipped` and `faint` are set by the recorder itself: full scale reached, or speech that stayed under the floor. `line` is where the reading of a
 * line of the script begins.
 */
export const markKinds = ['flub', 'note', 'part', 'clipped', 'faint', 'line'] as const;
export type MarkKind = (typeof markKinds)[number];

/** A mark on the sheet: at a point (length 0) or over a range, in frames of sheet time. */
export interface Mark {
  readonly id: string;
  readonly kind: MarkKind;
  readonly at: number;
  readonly length: number;
  readonly name: string;
  /** Of a `line` mark: the id of the script line. */
  readonly line?: string;
}

/**
 * Where a take belongs on the sheet, whether or not it is heard there now: source frame `from` of `channel` stands at sheet frame `at` of its
 * track, for `length` frames. Places move with edits as marks do; a cut through one leaves two.
 */
export interface TakePlace {
  readonly source: string;
  readonly channel: number;
  readonly track: string;
  readonly at: number;
  readonly from: number;
  readonly length: number;
}

/** What is edited and undone as one: the tracks of a part, all of the same sheet length, its marks in order of time, and where its takes belong. */
export interface Timeline {
  readonly tracks: readonly Track[];
  readonly marks: readonly Mark[];
  readonly places: readonly TakePlace[];
  /** Gain and ceiling of the whole part; as recorded when missing. */
  readonly output?: Output;
}

export const emptyTimeline = (trackNames: readonly string[]): Timeline => ({
  tracks: trackNames.map((name, index) => ({ id: `track-${index + 1}`, name, table: PieceTable.empty })),
  marks: [],
  places: [],
});

export const sheetFramesOf = (timeline: Timeline) =>
  timeline.tracks.reduce((longest, track) => Math.max(longest, track.table.sheetFrames), 0);

export const heardFramesOf = (timeline: Timeline) => timeline.tracks[0]?.table.heardFrames ?? 0;

/** Every source any track uses. */
export function sourcesOf(timeline: Timeline): Set<string> {
  const sources = new Set<string>();
  for (const track of timeline.tracks) {
    for (const piece of track.table.pieces) if (piece.kind !== 'silence') sources.add(piece.source);
  }
  return sources;
}

/** A timeline as it is stored: plain data. `places` is missing where nothing was recorded since they exist. */
export interface StoredTimeline {
  tracks: { id: string; name: string; side?: Side; pieces: readonly Piece[] }[];
  marks: readonly Mark[];
  places?: readonly TakePlace[];
  output?: Output;
}

export const storeTimeline = (timeline: Timeline): StoredTimeline => ({
  tracks: timeline.tracks.map(({ table, ...track }) => ({ ...track, pieces: table.pieces })),
  marks: timeline.marks,
  places: timeline.places,
  ...(timeline.output && { output: timeline.output }),
});

export const loadTimeline = (stored: StoredTimeline): Timeline => {
  const tracks = stored.tracks.map(({ pieces, ...track }) => ({ ...track, table: PieceTable.of(pieces) }));
  return {
    tracks,
    marks: stored.marks,
    places: stored.places ?? placesOfPieces(tracks),
    ...(stored.output && { output: stored.output }),
  };
};

/** The places of what is heard: the audio pieces themselves. */
function placesOfPieces(tracks: readonly Track[]): TakePlace[] {
  return tracks.flatMap((track) =>
    track.table.pieces.flatMap((piece, index) =>
      piece.kind === 'audio' ? [placeOfPiece(piece, track.id, track.table.sheetStartOf(index))] : [],
    ),
  );
}

export const placeOfPiece = (
  { source, channel, from, length }: AudioPiece,
  track: string,
  at: number,
): TakePlace => ({ source, channel, track, at, from, length });
