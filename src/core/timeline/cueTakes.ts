import { cueSheetOf } from './cueEdits';
import type { Cue } from './cues';
import { mapTables } from './edits';
import { overlay, recordedFrames, type Recorded } from './overlay';
import { silence, type Piece } from './pieces';
import type { Range } from './range';
import type { TakePlace, Timeline } from './timeline';

/**
 * A take of a cue: kept from sheet frame `from` on, some time before the line begins at `in`, so that whoever
 * starts early loses nothing. The line ends at `out`; the recording ends at `to`, or where it is stopped.
 */
export interface CuePlacement {
  readonly mode: 'cue';
  /** Id of the cue. */
  readonly cue: string;
  readonly from: number;
  readonly in: number;
  readonly out: number;
  readonly to: number | null;
}

/** Where a take of a cue goes: `leadFrames` before it to `runOutFrames` after it; on and on when null. */
export const cuePlacement = (
  { id, from, to }: Pick<Cue, 'id' | 'from' | 'to'>,
  leadFrames: number,
  runOutFrames: number | null,
): CuePlacement => ({
  mode: 'cue',
  cue: id,
  from: Math.max(0, from - leadFrames),
  in: from,
  out: to,
  to: runOutFrames === null ? null : to + runOutFrames,
});

/**
 * Puts a take of a cue on the sheet. Time never moves and nothing is struck. Before the line begins and after
 * it has ended the take gives way to the cues beside it on its tracks; one that runs on does so before it
 * begins only. Where the take is shorter than the line its tracks are silent, and nothing of the take that
 * was heard there before is heard around it. All of it belongs to its place, heard or not.
 */
export const placeCueTake = (
  timeline: Timeline,
  recorded: Recorded,
  placement: CuePlacement,
  keptMarks?: ReadonlySet<string>,
): Timeline =>
  [...recorded].reduce(
    (result, [track, pieces]) => placeOnTrack(result, track, pieces, placement, keptMarks),
    timeline,
  );

function placeOnTrack(
  timeline: Timeline,
  track: string,
  pieces: readonly Piece[],
  placement: CuePlacement,
  keptMarks?: ReadonlySet<string>,
): Timeline {
  const recorded: Recorded = new Map([[track, pieces]]);
  const length = recordedFrames(recorded);
  if (length === 0) return timeline;
  const end = placement.from + length;
  const room = roomOf(timeline, placement, track);
  const heard = {
    from: Math.max(placement.from, room.from),
    to: placement.to === null ? end : Math.min(end, Math.max(room.to, placement.out)),
  };
  const before = new Set(heardTakes(timeline, { from: placement.in, to: placement.out }, new Set([track])));
  const laid = overlay(timeline, recorded, placement.from, keptMarks, heard);
  const left = (from: number, to: number, only: ReadonlySet<string> | null) => (result: Timeline) =>
    silenced(result, { from, to }, track, only);
  return [
    left(Math.max(end, placement.in), placement.out, null),
    left(room.from, heard.from, before),
    left(heard.to, room.to, before),
  ].reduce((result, step) => step(result), laid);
}

/**
 * The room of a cue on a track: from the end of the cue before it there to the beginning of the one after,
 * without end where there is none; all of a track that is another’s.
 */
function roomOf(
  timeline: Timeline,
  { cue, in: begin, out }: Pick<CuePlacement, 'cue' | 'in' | 'out'>,
  track: string,
): Range {
  const { cues } = cueSheetOf(timeline);
  const mine = cues.find(({ id }) => id === cue);
  let room: Range = { from: 0, to: Infinity };
  if (mine && !tracksOfCue(timeline, mine).has(track)) return room;
  for (const other of cues) {
    if (other.id === cue || !tracksOfCue(timeline, other).has(track)) continue;
    if (other.from < begin) room = { ...room, from: Math.max(room.from, Math.min(other.to, begin)) };
    else room = { ...room, to: Math.min(room.to, Math.max(other.from, out)) };
  }
  return room;
}

/** Nothing is heard in a range of a track, or nothing of some sources; its time stays. */
function silenced(
  timeline: Timeline,
  { from, to }: Range,
  track: string,
  only: ReadonlySet<string> | null,
): Timeline {
  return mapTables(timeline, (table, { id }) => {
    const end = Math.min(to, table.frames);
    if (id !== track || end <= from) return table;
    const pieces = table
      .slice(from, end)
      .map((piece) =>
        only === null || (piece.kind === 'audio' && only.has(piece.source)) ? silence(piece.length) : piece,
      );
    return table.replace(from, end, pieces);
  });
}

/** Lets another take of a cue be heard in its place; its time and that of the others stays. */
export function hearCueTake(
  timeline: Timeline,
  recorded: Recorded,
  placement: CuePlacement,
  source: string,
): Timeline {
  const others = timeline.places.filter((place) => place.source !== source || !recorded.has(place.track));
  return placeCueTake({ ...timeline, places: others }, recorded, placement);
}

/** A take as it is placed: from which sheet frame on, and its pieces by track. */
export interface PlacedTake {
  readonly from: number;
  readonly recorded: Recorded;
}

/** A take as it stands in its places, with what was cut out of it or put between; null where it has none. */
export function takeInPlace(places: readonly TakePlace[], id: string): PlacedTake | null {
  const own = places.filter(({ source }) => source === id).sort((a, b) => a.at - b.at);
  if (own.length === 0) return null;
  const [{ at: from }] = own;
  const recorded = new Map<string, Piece[]>();
  for (const { track, source, channel, from: first, length, at } of own) {
    const pieces = recorded.get(track) ?? [];
    const end = pieces.reduce((sum, piece) => sum + piece.length, from);
    if (at > end) pieces.push(silence(at - end));
    // What lies over what came before it is heard in its place.
    const skipped = Math.max(0, end - at);
    if (length > skipped)
      pieces.push({
        kind: 'audio',
        ...{ source, channel, from: first + skipped, length: length - skipped, gainDb: 0 },
      });
    recorded.set(track, pieces);
  }
  return { from, recorded };
}

/** The tracks on which a cue is recorded: the character's own one where that is of the part, else all. */
export function tracksOfCue(timeline: Timeline, { character }: Pick<Cue, 'character'>): ReadonlySet<string> {
  const own = cueSheetOf(timeline).characters.find(({ id }) => id === character)?.track;
  const ids = timeline.tracks.map(({ id }) => id);
  return new Set(own !== undefined && ids.includes(own) ? [own] : ids);
}

/**
 * What is heard of a cue, with what its takes have before and after its line; null where nothing is recorded.
 */
export function heardOfCue(timeline: Timeline, cue: Cue): Range | null {
  const tracks = tracksOfCue(timeline, cue);
  const takes = new Set(heardTakes(timeline, cue, tracks));
  let [from, to] = [Infinity, -Infinity];
  for (const { id, table } of timeline.tracks) {
    const room = roomOf(timeline, { cue: cue.id, in: cue.from, out: cue.to }, id);
    const end = Math.min(room.to, table.frames);
    if (!tracks.has(id) || end <= room.from) continue;
    let at = room.from;
    for (const piece of table.slice(room.from, end)) {
      if (piece.kind === 'audio' && takes.has(piece.source)) {
        from = Math.min(from, at);
        to = Math.max(to, at + piece.length);
      }
      at += piece.length;
    }
  }
  return to > from ? { from, to } : null;
}

/**
 * Takes that were recorded for another cue and have all of this one’s time on its tracks as well: somebody
 * read on, or several spoke at once.
 */
export function takesAcross(timeline: Timeline, cue: Cue): ReadonlySet<string> {
  const tracks = tracksOfCue(timeline, cue);
  return new Set(
    timeline.places.flatMap(({ source, track, at, length }) =>
      tracks.has(track) && at <= cue.from && at + length >= cue.to ? [source] : [],
    ),
  );
}

/** Ids of takes with their frames heard in a range on some tracks, the longest first. */
export function heardTakes(timeline: Timeline, { from, to }: Range, tracks: ReadonlySet<string>): string[] {
  const frames = new Map<string, number>();
  for (const { id, table } of timeline.tracks) {
    if (!tracks.has(id) || from >= table.frames) continue;
    for (const piece of table.slice(from, Math.min(to, table.frames)))
      if (piece.kind === 'audio') frames.set(piece.source, (frames.get(piece.source) ?? 0) + piece.length);
  }
  return [...frames].sort((a, b) => b[1] - a[1]).map(([id]) => id);
}
