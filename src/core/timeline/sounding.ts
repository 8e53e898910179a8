import { placedClips, type HeardClip } from './bedTime';
import { heardStrip, heardTable, heardTracks, type HeardTrack } from './heard';
import type { JoinLengths } from './joins';
import type { HeardStrip } from './levelPoints';
import { allOfIt } from './mix';
import { bedsOf } from './mixEdits';
import { sameOutput, type Output } from './output';
import { PieceTable, samePieces, type Piece } from './pieces';
import { clockOf, type Side, type Timeline } from './timeline';

interface SoundingTrack {
  readonly pieces: readonly Piece[];
  readonly side?: Side;
  readonly pair?: Side;
  readonly strip?: HeardStrip;
}

/** A bed in heard time. */
export interface HeardBed {
  readonly clips: readonly HeardClip[];
  readonly strip?: HeardStrip;
}

/**
 * All that makes a part sound, and nothing else, as plain data: two equal soundings are the same samples.
 * Playing, proving and exporting take it; it goes to workers as it is.
 */
export interface Sounding {
  /** What is heard of each track, in heard time. */
  readonly tracks: readonly SoundingTrack[];
  /** Music and atmosphere under them; they make a part no longer. */
  readonly beds?: readonly HeardBed[];
  /** Of all tracks and beds together, before the output. */
  readonly all?: HeardStrip;
  readonly output?: Output;
  readonly joins: JoinLengths;
  readonly rateHz: number;
}

export interface SoundingSettings extends Pick<Sounding, 'joins' | 'rateHz'> {
  /** Without the chains of the voices: as the client wants it. */
  readonly dry?: boolean;
}

/** What of a part is heard: a track, a bed or a guide by its id. */
export type Chosen = (id: string) => boolean;

const everything: Chosen = () => true;
const nothing: Chosen = () => false;

/**
 * What a part sounds like with all that is in its mix, or with what is `chosen` of it: a voice that is left
 * out is silent, a bed is not there. A guide is there only where it is asked for, after the voices.
 */
export function soundingOf(
  timeline: Timeline,
  settings: SoundingSettings,
  chosen: Chosen = everything,
  guided: Chosen = nothing,
): Sounding {
  const strip = (id: string) => heardStrip(timeline, id, settings);
  const tracks = heardTracks(timeline).map((track, index) => {
    const { id } = timeline.tracks[index];
    const own = chosen(id) ? strip(id) : silent(track, strip(id));
    return own ? { ...track, strip: own } : track;
  });
  const clock = clockOf(timeline);
  const guides = (timeline.guides ?? [])
    .filter(({ id }) => guided(id))
    .map(({ id, table }): HeardTrack => {
      const own = strip(id);
      return { table: heardTable(table, clock), ...(own && { strip: own }) };
    });
  const clips = placedClips(timeline);
  const beds = bedsOf(timeline).flatMap(({ id }, index): HeardBed[] => {
    if (!chosen(id) || clips[index].length === 0) return [];
    const own = strip(id);
    return [
      { clips: clips[index].map(({ lost: _, struck: __, ...clip }) => clip), ...(own && { strip: own }) },
    ];
  });
  const all = strip(allOfIt);
  return {
    ...soundingOfTracks([...tracks, ...guides], settings, timeline.output),
    ...(beds.length > 0 && { beds }),
    ...(all && { all }),
  };
}

/** Not heard; the other side of its pair goes through its chain with it all the same. */
export const silent = ({ side }: Pick<HeardTrack, 'side'>, strip: HeardStrip | null): HeardStrip => ({
  levelDb: -Infinity,
  place: 0,
  points: [],
  ...(side && strip?.chain && { chain: strip.chain }),
});

/** A sounding of tables that are in heard time already. */
export const soundingOfTracks = (
  tracks: readonly HeardTrack[],
  { joins, rateHz }: SoundingSettings,
  output?: Output,
): Sounding => ({
  tracks: tracks.map(({ table, side, pair, strip }) => ({
    pieces: table.pieces,
    ...(side && { side }),
    ...(pair && { pair }),
    ...(strip && { strip }),
  })),
  ...(output && { output }),
  joins,
  rateHz,
});

export const tracksOf = ({ tracks }: Sounding): HeardTrack[] =>
  tracks.map(({ pieces, side, pair, strip }) => ({
    table: PieceTable.of(pieces),
    ...(side && { side }),
    ...(pair && { pair }),
    ...(strip && { strip }),
  }));

export const framesOfPieces = (pieces: readonly Piece[]) =>
  pieces.reduce((sum, { length }) => sum + length, 0);

/** Heard frames of a sounding. */
export const framesOfSounding = ({ tracks }: Sounding): number =>
  Math.max(0, ...tracks.map(({ pieces }) => framesOfPieces(pieces)));

const sameJoins = (a: JoinLengths, b: JoinLengths) =>
  a.joinFrames === b.joinFrames && a.toneJoinFrames === b.toneJoinFrames;

/** −∞ has no JSON of its own. */
const sameStrip = (a: HeardStrip | undefined, b: HeardStrip | undefined) =>
  a === b || (a?.levelDb === b?.levelDb && JSON.stringify(a) === JSON.stringify(b));

const sameBeds = (a: readonly HeardBed[] = [], b: readonly HeardBed[] = []) =>
  a === b || JSON.stringify(a) === JSON.stringify(b);

/** Sounds of anything but its tracks as they were recorded. */
export const isMixed = ({ tracks, beds, all }: Sounding): boolean =>
  !!all || !!beds || tracks.some(({ strip }) => strip);

/**
 * The same but for what single pieces sound like: joins, output, rate, beds, levels, and the number, sides
 * and places of the tracks.
 */
export const sameSetting = (a: Sounding, b: Sounding): boolean =>
  a.rateHz === b.rateHz &&
  sameJoins(a.joins, b.joins) &&
  sameOutput(a.output, b.output) &&
  a.tracks.length === b.tracks.length &&
  sameBeds(a.beds, b.beds) &&
  sameStrip(a.all, b.all) &&
  a.tracks.every(
    ({ side, pair, strip }, index) =>
      side === b.tracks[index].side &&
      pair === b.tracks[index].pair &&
      sameStrip(strip, b.tracks[index].strip),
  );

/** Whether two parts sound the same, sample by sample. */
export const sameSounding = (a: Sounding, b: Sounding): boolean =>
  a === b ||
  (sameSetting(a, b) && a.tracks.every(({ pieces }, index) => samePieces(pieces, b.tracks[index].pieces)));
