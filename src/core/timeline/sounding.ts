import { PieceTable, type Piece } from './pieces';
import type { SoundingTrack } from './render';
import type { Side, Timeline } from './timeline';

/** A track as far as its sound goes, as plain data: what is sent to a worker. */
export interface StoredSound {
  pieces: readonly Piece[];
  side?: Side;
}

export const storedSounds = ({ tracks }: Timeline): StoredSound[] =>
  tracks.map(({ table, side }) => ({ pieces: table.pieces, side }));

export const soundingTrack = ({ pieces, side }: StoredSound): SoundingTrack => ({
  table: PieceTable.of(pieces),
  side,
});
