import { heardTracks, type HeardTrack } from './heard';
import type { JoinLengths } from './joins';
import { sameOutput, type Output } from './output';
import { equalPieces, PieceTable, type Piece } from './pieces';
import type { Side, Timeline } from './timeline';

/**
 * All that makes a part sound, and nothing else, as plain data: two equal soundings are the same samples.
 * Playing, proving and exporting take it; it goes to workers as it is.
 */
export interface Sounding {
  /** What is heard of each track, in heard time. */
  readonly tracks: readonly { readonly pieces: readonly Piece[]; readonly side?: Side }[];
  readonly output?: Output;
  readonly joins: JoinLengths;
  readonly rateHz: number;
}

export type SoundingSettings = Pick<Sounding, 'joins' | 'rateHz'>;

export const soundingOf = (timeline: Timeline, settings: SoundingSettings): Sounding =>
  soundingOfTracks(heardTracks(timeline), settings, timeline.output);

/** A sounding of tables that are in heard time already. */
export const soundingOfTracks = (
  tracks: readonly HeardTrack[],
  { joins, rateHz }: SoundingSettings,
  output?: Output,
): Sounding => ({
  tracks: tracks.map(({ table, side }) => ({ pieces: table.pieces, ...(side && { side }) })),
  ...(output && { output }),
  joins,
  rateHz,
});

export const tracksOf = ({ tracks }: Sounding): HeardTrack[] =>
  tracks.map(({ pieces, side }) => ({ table: PieceTable.of(pieces), ...(side && { side }) }));

export const framesOfPieces = (pieces: readonly Piece[]) =>
  pieces.reduce((sum, { length }) => sum + length, 0);

/** Heard frames of a sounding. */
export const framesOfSounding = ({ tracks }: Sounding): number =>
  Math.max(0, ...tracks.map(({ pieces }) => framesOfPieces(pieces)));

export const samePieces = (a: readonly Piece[], b: readonly Piece[]): boolean =>
  a === b || (a.length === b.length && a.every((piece, index) => equalPieces(piece, b[index])));

const sameJoins = (a: JoinLengths, b: JoinLengths) =>
  a.joinFrames === b.joinFrames && a.toneJoinFrames === b.toneJoinFrames;

/**
 * The same but for what single pieces sound like: joins, output, rate, and the number and sides of the
 * tracks.
 */
export const sameSetting = (a: Sounding, b: Sounding): boolean =>
  a.rateHz === b.rateHz &&
  sameJoins(a.joins, b.joins) &&
  sameOutput(a.output, b.output) &&
  a.tracks.length === b.tracks.length &&
  a.tracks.every(({ side }, index) => side === b.tracks[index].side);

/** Whether two parts sound the same, sample by sample. */
export const sameSounding = (a: Sounding, b: Sounding): boolean =>
  a === b ||
  (sameSetting(a, b) && a.tracks.every(({ pieces }, index) => samePieces(pieces, b.tracks[index].pieces)));
