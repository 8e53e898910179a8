import { insertTime, mapTables, removeTime, stet, strikeAll, within } from './edits';
import { changedPoints } from './levelPoints';
import type { CueSheet } from './cues';
import { markTraits } from './markTraits';
import { emptyMix, type Mix } from './mix';
import { PieceTable, type Piece } from './pieces';
import { without, type Range } from './range';
import { byTime, changeTime, TimeChange } from './timeChange';
import { addTrack } from './tracks';
import { clockOf, sheetFramesOf, type Mark, type TakePlace, type Timeline } from './timeline';

/**
 * A stretch of a sheet by itself: what is copied, moved, or becomes a part of its own. Times count from its
 * start.
 */
export interface Passage {
  readonly frames: number;
  readonly tracks: readonly { readonly id: string; readonly pieces: readonly Piece[] }[];
  readonly struck: readonly Range[];
  readonly marks: readonly Mark[];
  readonly places: readonly TakePlace[];
}

const moved = ({ from, to }: Range, by: number): Range => ({ from: from + by, to: to + by });

/**
 * Copies a range, struck passages and all; nothing of the audio is copied. Throws RangeError outside the
 * sheet.
 */
export function copyPassage(timeline: Timeline, { from, to }: Range): Passage {
  return {
    frames: to - from,
    tracks: timeline.tracks.map(({ id, table }) => ({ id, pieces: table.slice(from, to) })),
    struck: clockOf(timeline)
      .struckIn({ from, to })
      .map((range) => moved(range, -from)),
    marks: timeline.marks
      .filter(({ at, length }) => at >= from && at + length <= to && at < to)
      .map((mark) => ({ ...mark, at: mark.at - from })),
    places: timeline.places
      .flatMap((place) => within(place, from, to))
      .map((place) => ({ ...place, at: place.at - from })),
  };
}

export const cutPassage = (timeline: Timeline, range: Range): Timeline => removeTime(timeline, range);

const withGain = (pieces: readonly Piece[], gainDb: number): readonly Piece[] =>
  gainDb === 0
    ? pieces
    : pieces.map((piece) => (piece.kind === 'silence' ? piece : { ...piece, gainDb: piece.gainDb + gainDb }));

/** The passage's pieces for each track: by the name the track has inside, else by its place from the top. */
function piecesFor(passage: Passage, { tracks }: Timeline): ReadonlyMap<string, readonly Piece[]> {
  const known = new Set(tracks.map(({ id }) => id));
  const target = new Map<string, readonly Piece[]>();
  passage.tracks.forEach(({ id, pieces }, index) => {
    const track = known.has(id) ? id : tracks[index]?.id;
    if (track) target.set(track, pieces);
  });
  return target;
}

export interface PasteOptions {
  /** Added to every pasted piece, to match the level of what is around. */
  gainDb?: number;
  /** Gives pasted marks names of their own, so that a passage can be pasted twice. */
  newId: () => string;
}

/**
 * Lays the passage over [at, at + its length); the sheet has to reach that far. It is struck there where it
 * was struck.
 */
function lay(
  timeline: Timeline,
  passage: Passage,
  at: number,
  { gainDb = 0, newId }: PasteOptions,
): Timeline {
  const target = piecesFor(passage, timeline);
  const tracks = [...target.keys()];
  const laid = mapTables(timeline, (table, { id }) => {
    const pieces = target.get(id);
    return pieces ? table.replace(at, at + passage.frames, withGain(pieces, gainDb)) : table;
  });
  const places = passage.places.flatMap((place) => {
    const index = passage.tracks.findIndex(({ id }) => id === place.track);
    const track = target.has(place.track) ? place.track : tracks[index];
    return track ? [{ ...place, track, at: place.at + at }] : [];
  });
  const marks = passage.marks.map((mark) => ({ ...mark, id: newId(), at: mark.at + at }));
  const standing = stet(laid, { from: at, to: at + passage.frames });
  return {
    ...strikeAll(
      standing,
      passage.struck.map((range) => moved(range, at)),
    ),
    marks: marks.length > 0 ? [...laid.marks, ...marks].sort(byTime) : laid.marks,
    places: [...laid.places, ...places],
  };
}

/** Paste: a gap opens at `at`, and the passage goes in; tracks it does not have stay empty there. */
export function pastePassage(
  timeline: Timeline,
  passage: Passage,
  at: number,
  options: PasteOptions,
): Timeline {
  if (passage.frames === 0) return timeline;
  return lay(insertTime(timeline, at, passage.frames), passage, at, options);
}

/**
 * Puts a range of another part in at `at`, with its marks and places. Tracks it has beyond this part's are
 * added, silent elsewhere.
 */
export function putIn(
  timeline: Timeline,
  other: Timeline,
  range: Range,
  at: number,
  options: PasteOptions,
): Timeline {
  const known = new Set(timeline.tracks.map(({ id }) => id));
  const more = other.tracks.slice(timeline.tracks.length).filter(({ id }) => !known.has(id));
  const wide = more.reduce(
    (result, { id, name, side }) => addTrack(result, { id, name, ...(side && { side }) }),
    timeline,
  );
  return pastePassage(wide, copyPassage(other, range), at, options);
}

/**
 * Paste over: the passage replaces as much as it is long; the sheet grows where it reaches beyond the end.
 */
export function pasteOver(timeline: Timeline, passage: Passage, at: number, options: PasteOptions): Timeline {
  if (passage.frames === 0) return timeline;
  const missing = at + passage.frames - sheetFramesOf(timeline);
  const grown = missing > 0 ? insertTime(timeline, sheetFramesOf(timeline), missing) : timeline;
  return lay(grown, passage, at, options);
}

/**
 * Slides a passage by so many frames, later when positive, as far as the sheet allows. It covers what it
 * comes to lie on, which stays in the stack of takes, and leaves a gap where it came from; nothing else
 * moves. Its marks go with it.
 */
export function slidePassage(timeline: Timeline, { from, to }: Range, by: number): Timeline {
  const end = sheetFramesOf(timeline);
  const move = Math.max(-from, Math.min(by, end - to));
  if (move === 0 || to <= from) return timeline;
  const target = { from: from + move, to: to + move };
  const slid = changeTime(timeline, TimeChange.slide({ from, to }, move, end));
  const covered = without([target], [{ from, to }]);
  const hidden = covered.flatMap((range) =>
    timeline.places.flatMap((place) => within(place, range.from, range.to)),
  );
  return hidden.length === 0 ? slid : { ...slid, places: [...hidden, ...slid.places] };
}

/**
 * A range as a timeline of its own, for a part of its own: its voices as loud and where they are. Beds and
 * guides stay with the part they were laid under.
 */
export function timelineOfRange(timeline: Timeline, range: Range): Timeline {
  const { struck, marks, places, tracks } = copyPassage(timeline, range);
  return {
    tracks: timeline.tracks.map((track, index) => ({ ...track, table: PieceTable.of(tracks[index].pieces) })),
    struck,
    marks,
    places,
    ...(timeline.output && { output: timeline.output }),
    ...(timeline.mix && { mix: stripsOfRange(timeline, range) }),
    ...(timeline.cueSheet && { cueSheet: cuesOfRange(timeline.cueSheet, range) }),
  };
}

/** Cues that lie inside. */
const cuesOfRange = (sheet: CueSheet, { from, to }: Range): CueSheet => ({
  ...sheet,
  cues: sheet.cues
    .filter((cue) => cue.from >= from && cue.to <= to)
    .map((cue) => ({ ...cue, from: cue.from - from, to: cue.to - from })),
});

function stripsOfRange({ mix = emptyMix, guides = [] }: Timeline, { from, to }: Range): Mix {
  const gone = new Set([...mix.beds, ...guides].map(({ id }) => id));
  return {
    strips: mix.strips
      .filter(({ id }) => !gone.has(id))
      .map((strip) => ({ ...strip, points: changedPoints(strip.points, [{ kind: 'kept', from, to }]) })),
    beds: [],
  };
}

/** Where part marks cut a sheet: from each to the next. The stretch before the first one has no name. */
export function partRanges(timeline: Timeline): (Range & { name: string | null })[] {
  const end = sheetFramesOf(timeline);
  const starts = timeline.marks.filter(({ kind, at }) => kind === 'part' && at < end);
  const cuts = starts.filter(({ at }, index) => at > 0 && at !== starts[index - 1]?.at);
  const first = starts.find(({ at }) => at === 0);
  const all = [{ at: 0, name: first?.name ?? null }, ...cuts.map(({ at, name }) => ({ at, name }))];
  return all.map(({ at, name }, index) => ({ from: at, to: all[index + 1]?.at ?? end, name }));
}

/** Chapters and notes of a timeline, as a delivered file names them. */
export const chapterMarks = ({ marks }: Timeline): Mark[] =>
  marks.filter(({ kind }) => markTraits[kind].chapter);
