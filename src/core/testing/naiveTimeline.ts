import { PieceTable, type Piece } from '../timeline/pieces';
import type { Mark, Timeline } from '../timeline/timeline';

/** The naive model: a track is an array with one entry for each frame of sheet time. */
export interface Frame {
  /** Source and frame, or silence. */
  what: string;
  struck: boolean;
}
export type Model = { tracks: Frame[][]; marks: Mark[] };

function whatOf(piece: Piece, i: number): string {
  if (piece.kind === 'silence') return piece.meant ? 'quiet' : 'silence';
  const { source, channel, from, gainDb } = piece;
  const seed = piece.kind === 'tone' ? `tone${piece.seed}` : '';
  return `${seed}${source}:${channel}:${from + i}:${gainDb}`;
}

export const framesOfPiece = (piece: Piece): Frame[] =>
  Array.from({ length: piece.length }, (_, i) => ({
    what: whatOf(piece, i),
    struck: piece.struck,
  }));

export const modelOf = (timeline: Timeline): Model => ({
  tracks: timeline.tracks.map((track) => track.table.pieces.flatMap(framesOfPiece)),
  marks: [...timeline.marks],
});

export const audioPiece = (source: string, from: number, length: number): Piece => ({
  kind: 'audio',
  source,
  channel: 0,
  from,
  length,
  gainDb: 0,
  struck: false,
});

/** Compared as one string: a Jest expectation for each frame would take minutes. */
export const textOf = (model: Model) =>
  model.tracks.map((frames) => frames.map(({ what, struck }) => (struck ? `~${what}` : what)).join(' '));

export function expectCanonical(table: PieceTable) {
  expect(PieceTable.of(table.pieces).pieces).toEqual(table.pieces);
}
