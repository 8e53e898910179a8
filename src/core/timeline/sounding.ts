import type { Output, Sounding } from './output';
import { PieceTable, type Piece } from './pieces';
import type { Side, Timeline } from './timeline';

/** A part as far as its sound goes, as plain data: what is sent to a worker. */
export interface StoredSounding {
  tracks: { pieces: readonly Piece[]; side?: Side }[];
  output?: Output;
}

export const storeSounding = ({ tracks, output }: Timeline): StoredSounding => ({
  tracks: tracks.map(({ table, side }) => ({ pieces: table.pieces, side })),
  output,
});

export const loadSounding = ({ tracks, output }: StoredSounding): Sounding => ({
  tracks: tracks.map(({ pieces, side }) => ({ table: PieceTable.of(pieces), side })),
  output,
});
