import { insertTime, insertTimes, mapTables, strike, strikeAll } from './edits';
import type { OnlyTracks } from './joints';
import { PieceTable, silence, type Piece, type TonePiece, type ToneRegion } from './pieces';
import type { Range } from './range';
import { clockOf, type Timeline } from './timeline';

/**
 * A track's room tone with its level (dBFS RMS) and where it is from: found in the part, a sound check, or
 * the user's own choice.
 */
export interface ToneChoice extends ToneRegion {
  readonly levelDbfs: number;
  readonly origin: 'found' | 'check' | 'chosen';
}

/** The room tone of a track, or null where none is known. */
export type ToneOf = (trackId: string) => ToneRegion | null;

/** A window on a region's tone. Two with different seeds sound different. */
export const tonePiece = (region: ToneRegion, length: number, seed: number, gainDb = 0): TonePiece => ({
  kind: 'tone',
  source: region.source,
  channel: region.channel,
  start: region.start,
  end: region.end,
  seed,
  from: 0,
  length,
  gainDb,
});

/**
 * Patch tone: room tone over a range, `gainDb` louder than its region. Tracks without a tone stay as they
 * are.
 */
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

/**
 * Puts room tone wherever an edit has left nothing; silence the user asked for stays. Returns the same
 * timeline where there is nothing to do.
 */
export function fillGaps(timeline: Timeline, toneOf: ToneOf): Timeline {
  const isGap = (piece: Piece) => piece.kind === 'silence' && !piece.meant;
  if (!timeline.tracks.some(({ id, table }) => toneOf(id) && table.pieces.some(isGap))) return timeline;
  return mapTables(timeline, (table, { id }) => {
    const region = toneOf(id);
    if (!region || !table.pieces.some(isGap)) return table;
    return PieceTable.of(
      table.pieces.map((piece, index) =>
        isGap(piece) ? tonePiece(region, piece.length, table.startOf(index)) : piece,
      ),
    );
  });
}

/**
 * Gives a pause a heard length: what is too much is struck in its middle, what is missing opens there as a
 * gap. The ends of the words beside it stay untouched; what was struck inside the pause stays struck.
 */
export function setPauseLength(timeline: Timeline, { from, to }: Range, frames: number): Timeline {
  const clock = clockOf(timeline);
  const first = clock.sheetToHeard(from);
  const length = clock.sheetToHeard(to) - first;
  const more = Math.round(frames) - length;
  if (more === 0) return timeline;
  if (more > 0) return insertTime(timeline, clock.heardToSheet(first + Math.floor(length / 2)), more);
  const kept = Math.floor((length + more) / 2);
  return strike(timeline, {
    from: clock.heardToSheet(first + kept),
    to: clock.heardToSheet(first + kept - more),
  });
}

/** Strikes every range marked with a kind of mark; marks without a length have nothing to strike. */
export function strikeMarked(timeline: Timeline, kind: 'flub' | 'note'): Timeline {
  const marked = timeline.marks.filter((mark) => mark.kind === kind && mark.length > 0);
  return strikeAll(
    timeline,
    marked.map(({ at, length }) => ({ from: at, to: at + length })),
  );
}

/** A reading of one line among several of the same. */
export interface ReadingChoice {
  readonly chosen: Range;
  /** All readings of the line, the chosen one too, in order of time. */
  readonly readings: readonly Range[];
}

/**
 * Lays out the chosen readings: all others of their groups are struck, and before and after each chosen one
 * stand `spacing` frames of pause, opened as a gap where the pauses at hand are too short. `others` is the
 * speech that belongs to no group: it stays, whole. Groups and others are in order of time and do not
 * overlap.
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
  const struck: Range[] = [{ from: last.to + after, to: end }];
  const gaps: { at: number; frames: number }[] = [];
  for (let i = 1; i < kept.length; i++) {
    const [left, right] = [kept[i - 1], kept[i]];
    if (!chosen.has(left) && !chosen.has(right)) continue;
    const more = spacing - (right.from - left.to);
    if (more > 0) gaps.push({ at: left.to + Math.floor((right.from - left.to) / 2), frames: more });
    else if (more < 0) struck.push({ from: left.to + after, to: right.from - before });
  }
  struck.push({ from: start, to: kept[0].from - before });
  // Strikes are in the time the readings are told in; the gaps move them along.
  return insertTimes(strikeAll(timeline, struck), gaps);
}

/**
 * On one stave of several: the time stays, and room tone is heard there; without a tone, silence. The reading
 * stays in the stack of takes.
 */
export function muteStave(timeline: Timeline, track: string, range: Range, toneOf: ToneOf): Timeline {
  if (range.to <= range.from) return timeline;
  return mapTables(timeline, (table, { id }) => {
    if (id !== track) return table;
    const region = toneOf(id);
    const frames = range.to - range.from;
    return table.replace(range.from, range.to, [
      region ? tonePiece(region, frames, range.from) : silence(frames),
    ]);
  });
}
