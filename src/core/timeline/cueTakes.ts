import { cueSheetOf } from './cueEdits';
import type { Cue } from './cues';
import { fallSilent, overlay, recordedFrames, type Recorded } from './overlay';
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
 * begins only. Where the take is shorter than the line its tracks are silent: nothing of an earlier take is
 * heard behind it. All of it belongs to its place, heard or not.
 */
export function placeCueTake(
  timeline: Timeline,
  recorded: Recorded,
  placement: CuePlacement,
  keptMarks?: ReadonlySet<string>,
): Timeline {
  const length = recordedFrames(recorded);
  if (length === 0) return timeline;
  const end = placement.from + length;
  const room = roomOf(timeline, placement, new Set(recorded.keys()));
  const laid = overlay(timeline, recorded, placement.from, keptMarks, {
    from: room.from,
    to: placement.to === null ? end : Math.min(end, room.to),
  });
  const sheet = Math.max(0, ...laid.tracks.map(({ table }) => table.frames));
  const rest = { from: Math.max(end, placement.in), to: Math.min(room.to, sheet) };
  return rest.to > rest.from ? fallSilent(laid, recorded, rest) : laid;
}

/** Where a take of a cue may be heard: not in the cues before and after it on the same tracks. */
function roomOf(
  timeline: Timeline,
  { cue, from, in: begin, out, to }: CuePlacement,
  tracks: ReadonlySet<string>,
): Range {
  const { cues, characters } = cueSheetOf(timeline);
  const trackOf = new Map(characters.map((one) => [one.id, one.track]));
  const elsewhere = ({ character = '' }: Cue) => {
    const track = trackOf.get(character);
    return track !== undefined && !tracks.has(track) && timeline.tracks.some(({ id }) => id === track);
  };
  let room: Range = { from, to: to ?? out };
  for (const other of cues) {
    if (other.id === cue || other.to <= from || other.from >= room.to || elsewhere(other)) continue;
    if (other.from < begin) room = { ...room, from: Math.max(room.from, Math.min(other.to, begin)) };
    else room = { ...room, to: Math.max(out, Math.min(room.to, other.from)) };
  }
  return room;
}

/** Lets another take of a cue be heard in its place; its time and that of the others stays. */
export function hearCueTake(
  timeline: Timeline,
  recorded: Recorded,
  placement: CuePlacement,
  source: string,
): Timeline {
  const without = { ...timeline, places: timeline.places.filter((place) => place.source !== source) };
  return placeCueTake(without, recorded, placement);
}

/** The sheet frame at which frame 0 of a source would stand where it is placed now; null where it is not. */
export function originOfTake(places: readonly TakePlace[], source: string): number | null {
  const starts = places.flatMap((place) => (place.source === source ? [place.at - place.from] : []));
  return starts.length > 0 ? Math.min(...starts) : null;
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
