import { insertTime, mapTables, silence, strike, type Range } from './edits';
import type { OnlyTracks } from './joints';
import type { Piece, TonePiece, ToneRegion } from './pieces';
import type { Timeline } from './timeline';

/** A track's room tone with its level (dBFS RMS) and where it is from: found in the part, a sound check, or the user's own choice. */
export interface ToneChoice extends ToneRegion {
  readonly levelDbfs: number;
  readonly origin: 'found' | 'check' | 'chosen';
}

/** The room tone of a track, or null where none is known. */
export type ToneOf = (trackId: string) => ToneRegion | null;

const tonePiece = (region: ToneRegion, length: number, seed: number, gainDb: number): TonePiece => ({
  kind: 'tone',
  source: region.source,
  channel: region.channel,
  start: region.start,
  end: region.end,
  seed,
  from: 0,
  length,
  gainDb,
  struck: false,
});

/** Patch tone: room tone over a range, `gainDb` louder than its region. Tracks without a tone stay as they are. */
export function patchTone(
  timeline: Timeline,
  { from, to }: Range,
  toneOf: ToneOf,
  gainDb = 0,
  only: OnlyTracks = null,
): Timeline {
  if (to <= from) return timeline;
  return mapTables(timeline, (table, { id }) => {
    const region = only === null || only.has(id) ? toneOf(id) : null;
    return region ? table.replace(from, to, [tonePiece(region, to - from, from, gainDb)]) : table;
  });
}

/** Puts room tone wherever an edit has left nothing; silence the user asked for stays. Returns the same timeline where there is nothing to do. */
export function fillGaps(timeline: Timeline, toneOf: ToneOf): Timeline {
  const isGap = (piece: Piece) => piece.kind === 'silence' && !piece.meant;
  if (!timeline.tracks.some(({ id, table }) => toneOf(id) && table.pieces.some(isGap))) return timeline;
  return mapTables(timeline, (table, { id }) => {
    const region = toneOf(id);
    if (!region) return table;
    return table.pieces.reduce((result, piece, index) => {
      if (!isGap(piece)) return result;
      const at = table.sheetStartOf(index);
      const tone = { ...tonePiece(region, piece.length, at, 0), struck: piece.struck };
      return result.replace(at, at + piece.length, [tone]);
    }, table);
  });
}

/**
 * Gives a pause a heard length: what is too much is struck in its middle, what is missing opens there as a gap. The ends of the words
 * beside it stay untouched; what was struck inside the pause stays struck.
 */
export function setPauseLength(timeline: Timeline, { from, to }: Range, frames: number): Timeline {
  const { table } = timeline.tracks[0];
  const first = table.sheetToHeard(from);
  const length = table.sheetToHeard(to) - first;
  const more = Math.round(frames) - length;
  if (more === 0) return timeline;
  if (more > 0) return insertTime(timeline, table.heardToSheet(first + Math.floor(length / 2)), more);
  const kept = Math.floor((length + more) / 2);
  return strike(timeline, {
    from: table.heardToSheet(first + kept),
    to: table.heardToSheet(first + kept - more),
  });
}

/** Strikes every range marked with a kind of mark; marks without a length have nothing to strike. */
export function strikeMarked(timeline: Timeline, kind: 'flub' | 'note'): Timeline {
  return timeline.marks
    .filter((mark) => mark.kind === kind && mark.length > 0)
    .reduce((result, { at, length }) => strike(result, { from: at, to: at + length }), timeline);
}

/** A reading of one line among several of the same. */
export interface ReadingChoice {
  readonly chosen: Range;
  /** All readings of the line, the chosen one too, in order of time. */
  readonly readings: readonly Range[];
}

/**
 * Lays out the chosen readings: all others of their groups are struck, and before and after each chosen one stand `spacing` frames of pause, opened
 * as a gap where the pauses at hand are too short. `others` is the speech that belongs to no group: it stays, whole. Groups and others are in order
 * of time and do not overlap.
 */
export function layOutReadings(
  timeline: Timeline,
  groups: readonly ReadingChoice[],
  spacing: number,
  others: readonly Range[] = [],
): Timeline {
  if (groups.length === 0) return timeline;
  const chosen = new Set(groups.map((group) => group.chosen));
  const kept = [...chosen, ...others].sort((a, b) => a.from - b.from);
  const after = Math.floor(spacing / 2);
  const before = spacing - after;
  const end = Math.max(...groups.map(({ readings }) => readings[readings.length - 1].to));
  const start = Math.min(...groups.map(({ readings }) => readings[0].from));
  const last = kept[kept.length - 1];
  let result = timeline;
  // From the end on, so that inserted pauses do not move what is still to be done.
  if (end > last.to + after) result = strike(result, { from: last.to + after, to: end });
  for (let i = kept.length - 1; i > 0; i--) {
    const [left, right] = [kept[i - 1], kept[i]];
    if (!chosen.has(left) && !chosen.has(right)) continue;
    const more = spacing - (right.from - left.to);
    if (more > 0) result = insertTime(result, left.to + Math.floor((right.from - left.to) / 2), more);
    else if (more < 0) result = strike(result, { from: left.to + after, to: right.from - before });
  }
  const first = kept[0].from - before;
  return start < first ? strike(result, { from: start, to: first }) : result;
}

/** On one stave of several: the time stays, and room tone is heard there; without a tone, silence. The reading stays in the stack of takes. */
export function muteStave(timeline: Timeline, track: string, range: Range, toneOf: ToneOf): Timeline {
  if (range.to <= range.from) return timeline;
  return mapTables(timeline, (table, { id }) => {
    if (id !== track) return table;
    const region = toneOf(id);
    const frames = range.to - range.from;
    return table.replace(range.from, range.to, [
      region ? tonePiece(region, frames, range.from, 0) : silence(frames),
    ]);
  });
}
