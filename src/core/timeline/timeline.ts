import { SheetClock } from './clock';
import type { CueSheet } from './cues';
import type { Guide } from './guides';
import type { MarkKind } from './markTraits';
import { sameButChains, sourcesOfBeds, type Mix } from './mix';
import type { Output } from './output';
import { PieceTable, type AudioPiece } from './pieces';
import type { Range } from './range';

/** One stave: a voice, or one side of a stereo pair. */
export interface Track {
  readonly id: string;
  readonly name: string;
  readonly side?: Side;
  readonly table: PieceTable;
}

/** Where a track is heard: left or right of a stereo pair; without a side, in the middle. */
export type Side = 'left' | 'right';

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
 * Where a take belongs on the sheet, whether or not it is heard there now: source frame `from` of `channel`
 * stands at sheet frame `at` of its track, for `length` frames. Places move with edits as marks do; a cut
 * through one leaves two.
 */
export interface TakePlace {
  readonly source: string;
  readonly channel: number;
  readonly track: string;
  readonly at: number;
  readonly from: number;
  readonly length: number;
}

/**
 * What is edited and undone as one: the tracks of a part, all of the same sheet length, what is struck of
 * their common time, the marks in order of time, and where the takes belong.
 */
export interface Timeline {
  readonly tracks: readonly Track[];
  /** Sheet time nobody hears, of all tracks alike: in order, ranges that touch are one. */
  readonly struck: readonly Range[];
  readonly marks: readonly Mark[];
  readonly places: readonly TakePlace[];
  /** Gain and ceiling of the whole part; as recorded when missing. */
  readonly output?: Output;
  /** Heard while playing and recording; none when missing. */
  readonly guides?: readonly Guide[];
  /** Levels, places and beds; every voice as it is and no bed when missing. */
  readonly mix?: Mix;
  /** Lines that are recorded one by one; none when missing. */
  readonly cueSheet?: CueSheet;
}

/** A sheet with nothing on it, with these staves. */
export const emptyStaves = (staves: readonly Omit<Track, 'table'>[]): Timeline => ({
  tracks: staves.map(({ id, name, side }) => ({ id, name, ...(side && { side }), table: PieceTable.empty })),
  struck: [],
  marks: [],
  places: [],
});

export const emptyTimeline = (trackNames: readonly string[]): Timeline =>
  emptyStaves(trackNames.map((name, index) => ({ id: `track-${index + 1}`, name })));

export const sheetFramesOf = ({ tracks }: Pick<Timeline, 'tracks'>) =>
  tracks.reduce((longest, { table }) => Math.max(longest, table.frames), 0);

const clocks = new WeakMap<readonly Range[], SheetClock>();

/** The part's clock: sheet and heard time of all its tracks. */
export function clockOf(timeline: Pick<Timeline, 'tracks' | 'struck'>): SheetClock {
  const { struck } = timeline;
  const sheetFrames = sheetFramesOf(timeline);
  const known = clocks.get(struck);
  if (known?.sheetFrames === sheetFrames) return known;
  const clock = SheetClock.of(struck, sheetFrames);
  clocks.set(struck, clock);
  return clock;
}

export const heardFramesOf = (timeline: Timeline) => clockOf(timeline).heardFrames;

/** Every source any track, guide or bed uses. */
export function sourcesOf({
  tracks,
  guides = [],
  mix,
}: Pick<Timeline, 'tracks' | 'guides' | 'mix'>): Set<string> {
  const sources = new Set(sourcesOfBeds(mix));
  for (const { table } of [...tracks, ...guides]) {
    for (const piece of table.pieces) if (piece.kind !== 'silence') sources.add(piece.source);
  }
  return sources;
}

/** Whether two states of a part are told apart by nothing but the chains of its voices. */
export const differInChains = (a: Timeline, b: Timeline): boolean =>
  a.tracks === b.tracks &&
  a.struck === b.struck &&
  a.marks === b.marks &&
  a.places === b.places &&
  a.output === b.output &&
  a.guides === b.guides &&
  a.cueSheet === b.cueSheet &&
  sameButChains(a.mix, b.mix);

export const placeOfPiece = (
  { source, channel, from, length }: AudioPiece,
  track: string,
  at: number,
): TakePlace => ({ source, channel, track, at, from, length });

export type { MarkKind } from './markTraits';
