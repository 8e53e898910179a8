import type { CueSheet } from './cues';
import type { Mix } from './mix';
import type { Output } from './output';
import { PieceTable, type Piece } from './pieces';
import type { Range } from './range';
import { timelineOfStruckPieces, type StruckTimeline } from './struckPieces';
import type { Mark, Side, TakePlace, Timeline } from './timeline';

interface TimelineData<Pieces> {
  tracks: { id: string; name: string; side?: Side; pieces: Pieces }[];
  struck?: readonly Range[];
  marks: readonly Mark[];
  places?: readonly TakePlace[];
  output?: Output;
  mix?: Mix;
  cueSheet?: CueSheet;
  guides?: { id: string; name: string; free?: true; pieces: Pieces }[];
}

/** A timeline as plain data, for a file that anybody can read. */
export type PlainTimeline = TimelineData<readonly Piece[]>;

/** Numbers of a piece in `PackedPieces`: place of its source, channel, first frame, length, gain in dB. */
const columns = 5;

/**
 * Pieces in a row of numbers: a browser takes fifty times as long to store as many objects. What is more than
 * a stretch of a source with a gain stands in `others` with its place, and its numbers are 0.
 */
export interface PackedPieces {
  readonly sources: readonly string[];
  readonly numbers: Float64Array;
  readonly others: readonly (readonly [place: number, piece: Piece])[];
}

/**
 * A timeline as the browser stores it; earlier versions stored plain pieces. Without `struck` it is from
 * before parts had one clock (struckPieces.ts).
 */
export type StoredTimeline = TimelineData<readonly Piece[] | PackedPieces>;

function dataOf<Pieces>(
  { tracks, struck, marks, places, output, mix, guides, cueSheet }: Timeline,
  form: (table: PieceTable) => Pieces,
): TimelineData<Pieces> {
  return {
    tracks: tracks.map(({ table, ...track }) => ({ ...track, pieces: form(table) })),
    struck,
    marks,
    places,
    ...(output && { output }),
    ...(mix && { mix }),
    ...(cueSheet && { cueSheet }),
    ...(guides && { guides: guides.map(({ table, ...guide }) => ({ ...guide, pieces: form(table) })) }),
  };
}

export const plainTimeline = (timeline: Timeline): PlainTimeline => dataOf(timeline, ({ pieces }) => pieces);

export const storeTimeline = (timeline: Timeline): StoredTimeline =>
  dataOf(timeline, ({ pieces }) => packed(pieces));

/** `kind` and what `columns` counts. */
const plainKeys = 6;

function packed(pieces: readonly Piece[]): PackedPieces {
  const places = new Map<string, number>();
  const numbers = new Float64Array(columns * pieces.length);
  const others: [number, Piece][] = [];
  pieces.forEach((piece, index) => {
    if (piece.kind !== 'audio' || Object.keys(piece).length !== plainKeys) {
      others.push([index, piece]);
      return;
    }
    const { source, channel, from, length, gainDb } = piece;
    const place = places.get(source) ?? places.size;
    if (place === places.size) places.set(source, place);
    const at = columns * index;
    numbers[at] = place;
    numbers[at + 1] = channel;
    numbers[at + 2] = from;
    numbers[at + 3] = length;
    numbers[at + 4] = gainDb;
  });
  return { sources: [...places.keys()], numbers, others };
}

/** The pieces of a track that is stored, in either form. */
export function piecesOf(stored: readonly Piece[] | PackedPieces): readonly Piece[] {
  if (!('numbers' in stored)) return stored;
  const { sources, numbers, others } = stored;
  const pieces: Piece[] = [];
  for (let at = 0; at < numbers.length; at += columns) {
    pieces.push({
      kind: 'audio',
      source: sources[numbers[at]],
      channel: numbers[at + 1],
      from: numbers[at + 2],
      length: numbers[at + 3],
      gainDb: numbers[at + 4],
    });
  }
  for (const [place, piece] of others) pieces[place] = piece;
  return pieces;
}

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
  const tracks = stored.tracks.map(({ pieces, ...track }) => ({
    ...track,
    table: PieceTable.of(piecesOf(pieces)),
  }));
  return {
    tracks,
    struck: stored.struck ?? [],
    marks: stored.marks,
    places: stored.places ?? [],
    ...(stored.output && { output: stored.output }),
    ...(stored.mix && { mix: stored.mix }),
    ...(stored.cueSheet && { cueSheet: stored.cueSheet }),
    ...(stored.guides && {
      guides: stored.guides.map(({ pieces, ...guide }) => ({
        ...guide,
        table: PieceTable.of(piecesOf(pieces)),
      })),
    }),
  };
}
