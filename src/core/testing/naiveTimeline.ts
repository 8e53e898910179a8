import { PieceTable, type Piece } from '../timeline/pieces';
import { clockOf, type Mark, type Timeline } from '../timeline/timeline';

/**
 * The naive model: a track is an array that says for each frame of sheet time what stands there, and one
 * array says what is struck.
 */
export type Model = { tracks: string[][]; struck: boolean[]; marks: Mark[] };

function whatOf(piece: Piece, i: number): string {
  if (piece.kind === 'silence') return piece.meant ? 'quiet' : 'silence';
  const { source, channel, from, gainDb } = piece;
  const seed = piece.kind === 'tone' ? `tone${piece.seed}` : '';
  return `${seed}${source}:${channel}:${from + i}:${gainDb}`;
}

/** Source and frame, or silence, for each frame of a piece. */
export const framesOfPiece = (piece: Piece): string[] =>
  Array.from({ length: piece.length }, (_, i) => whatOf(piece, i));

export const modelOf = (timeline: Timeline): Model => ({
  tracks: timeline.tracks.map((track) => track.table.pieces.flatMap(framesOfPiece)),
  struck: Array.from({ length: clockOf(timeline).sheetFrames }, (_, frame) =>
    clockOf(timeline).isStruck(frame),
  ),
  marks: [...timeline.marks],
});

export const audioPiece = (source: string, from: number, length: number): Piece => ({
  kind: 'audio',
  source,
  channel: 0,
  from,
  length,
  gainDb: 0,
});

/** Compared as one string: a Jest expectation for each frame would take minutes. */
export const textOf = (model: Model) =>
  model.tracks.map((frames) =>
    frames.map((what, frame) => (model.struck[frame] ? `~${what}` : what)).join(' '),
  );

export function expectCanonical(table: PieceTable) {
  expect(PieceTable.of(table.pieces).pieces).toEqual(table.pieces);
}
