import { mapTables, stet, strike } from './edits';
import { heardTable } from './heard';
import type { SourceLengths } from './joins';
import { isAdjacent, silence, type Fade, type FadeShape, type Piece, type PieceTable } from './pieces';
import type { Range } from './range';
import { clockOf, sheetFramesOf, type Timeline } from './timeline';

/** Louder or quieter than this a passage is not made: more is a mistake of the hand. */
export const gainLimitsDb = { least: -60, most: 36 } as const;

/** Tracks an edit is for; all of them when missing. */
export type OnlyTracks = ReadonlySet<string> | null;

const onTracks = (
  timeline: Timeline,
  only: OnlyTracks,
  change: (table: PieceTable) => PieceTable,
): Timeline =>
  mapTables(timeline, (table, { id }) => (only === null || only.has(id) ? change(table) : table));

const changePieces = (
  timeline: Timeline,
  { from, to }: Range,
  only: OnlyTracks,
  change: (piece: Piece) => Piece,
): Timeline =>
  onTracks(timeline, only, (table) => table.replace(from, to, table.slice(from, to).map(change)));

/** Makes a passage louder (or quieter) by so many dB, within `gainLimitsDb`. */
export function changeGain(
  timeline: Timeline,
  range: Range,
  gainDb: number,
  only: OnlyTracks = null,
): Timeline {
  const { least, most } = gainLimitsDb;
  return changePieces(timeline, range, only, (piece) =>
    piece.kind === 'silence'
      ? piece
      : { ...piece, gainDb: Math.max(least, Math.min(most, piece.gainDb + gainDb)) },
  );
}

/** The piece that begins at `at`, changed; `at` becomes the beginning of a piece where it was inside one. */
function changeAt(table: PieceTable, at: number, change: (piece: Piece) => Piece): PieceTable {
  const index = table.indexAt(at);
  const end = index < table.pieces.length ? table.startOf(index + 1) : at;
  const [piece] = table.slice(at, end);
  return piece ? table.replace(at, end, [change(piece)]) : table;
}

function changeBefore(table: PieceTable, at: number, change: (piece: Piece) => Piece): PieceTable {
  const index = table.indexAt(at - 1);
  const start = table.startOf(index);
  const [piece] = table.slice(start, at);
  return piece ? table.replace(start, at, [change(piece)]) : table;
}

/**
 * A joint of the user's own at a sheet frame: the pieces on its two sides can be taken apart. Nothing sounds
 * different.
 */
export function split(timeline: Timeline, at: number): Timeline {
  if (at <= 0 || at >= sheetFramesOf(timeline)) return timeline;
  return mapTables(timeline, (table) =>
    changeAt(table, at, (piece) =>
      piece.joint ? piece : { ...piece, joint: { frames: null, shape: 'power' } },
    ),
  );
}

/** Length (null for the usual one) and shape of the join at a cut. */
export const setJoin = (
  timeline: Timeline,
  at: number,
  frames: number | null,
  shape: FadeShape,
  only: OnlyTracks = null,
): Timeline =>
  onTracks(timeline, only, (table) =>
    changeAt(table, at, (piece) => ({ ...piece, joint: { frames, shape } })),
  );

/** Takes back what was set at a cut by hand. */
export const clearJoin = (timeline: Timeline, at: number): Timeline =>
  mapTables(timeline, (table) => changeAt(table, at, ({ joint: _joint, ...piece }) => piece as Piece));

const withoutFade = (piece: Piece, side: 'fadeIn' | 'fadeOut'): Piece => {
  const { [side]: _gone, ...rest } = piece;
  return rest as Piece;
};

/**
 * A fade over all of the range: in from its start, or out to its end. Null takes the fade at that edge away.
 */
export function setFade(
  timeline: Timeline,
  { from, to }: Range,
  side: 'fadeIn' | 'fadeOut',
  shape: FadeShape | null,
  only: OnlyTracks = null,
): Timeline {
  if (to <= from) return timeline;
  const fade: Fade | null = shape && { frames: to - from, shape };
  const change = (piece: Piece): Piece => (fade ? { ...piece, [side]: fade } : withoutFade(piece, side));
  return onTracks(timeline, only, (table) =>
    side === 'fadeIn' ? changeAt(table, from, change) : changeBefore(table, to, change),
  );
}

/**
 * Every place on a part's sheet where two heard pieces of a track meet that are no neighbours in their
 * source, with what is struck between them.
 */
export function cutsOf(timeline: Timeline, table = timeline.tracks[0].table): Range[] {
  const clock = clockOf(timeline);
  const heard = heardTable(table, clock);
  const cuts: Range[] = [];
  heard.pieces.forEach((piece, index) => {
    if (index === 0) return;
    const at = heard.startOf(index);
    const to = clock.heardToSheet(at);
    const from = clock.heardToSheet(at - 1) + 1;
    if (to > from || piece.joint || !isAdjacent(heard.pieces[index - 1], piece)) cuts.push({ from, to });
  });
  return cuts;
}

/** The cuts of all tracks, in order of time, each once. */
export function allCuts(timeline: Timeline): Range[] {
  const cuts = new Map<string, Range>();
  for (const { table } of timeline.tracks)
    for (const cut of cutsOf(timeline, table)) cuts.set(`${cut.from} ${cut.to}`, cut);
  return [...cuts.values()].sort((a, b) => a.from - b.from || a.to - b.to);
}

/** How far the cut at sheet frame `at` of a table can be moved: [least, most], 0 between them. */
export function jointRoom(
  table: PieceTable,
  at: number,
  lengths: SourceLengths,
): { least: number; most: number } {
  const index = table.indexAt(at);
  const left = table.pieces[index - 1];
  const right = table.pieces[index];
  if (!left || !right || table.startOf(index) !== at) return { least: 0, most: 0 };
  const before = right.kind === 'audio' ? right.from : Infinity;
  const after = left.kind === 'audio' ? lengths(left.source) - (left.from + left.length) : Infinity;
  return { least: -Math.min(left.length - 1, before), most: Math.min(right.length - 1, after) };
}

/**
 * Moves a joint: the left piece is heard longer by `by` frames and the right one starts later, or the other
 * way round. Nothing else moves. The move is cut to what both sources have on every track; tracks that have
 * no cut there stay as they are.
 */
export function moveJoint(timeline: Timeline, at: number, by: number, lengths: SourceLengths): Timeline {
  const rooms = timeline.tracks.map(({ table }) => jointRoom(table, at, lengths));
  const concerned = rooms.filter(({ least, most }) => least < 0 || most > 0);
  if (concerned.length === 0) return timeline;
  const least = Math.max(...concerned.map((room) => room.least));
  const most = Math.min(...concerned.map((room) => room.most));
  const move = Math.max(least, Math.min(by, most));
  if (move === 0) return timeline;
  let track = 0;
  return mapTables(timeline, (table) => {
    const room = rooms[track++];
    if (room.least === 0 && room.most === 0) return table;
    const index = table.indexAt(at);
    const left = table.pieces[index - 1];
    const right = table.pieces[index];
    const shifted: Piece[] = [
      { ...left, length: left.length + move },
      right.kind === 'silence'
        ? { ...right, length: right.length - move }
        : { ...right, from: right.from + move, length: right.length - move },
    ];
    return table.replace(table.startOf(index - 1), table.startOf(index + 1), shifted);
  });
}

/** Moves the two ends of a struck passage; it stays at least one frame long and inside the sheet. */
export function moveStrike(timeline: Timeline, range: Range, byFrom: number, byTo: number): Timeline {
  const end = sheetFramesOf(timeline);
  const from = Math.max(0, Math.min(range.from + byFrom, end - 1));
  const to = Math.max(from + 1, Math.min(range.to + byTo, end));
  if (from === range.from && to === range.to) return timeline;
  return strike(stet(timeline, range), { from, to });
}

/** The heard piece of the first track around a sheet frame: from the cut before it to the cut after it. */
export function pieceAround(timeline: Timeline, at: number): Range | null {
  const end = sheetFramesOf(timeline);
  if (end === 0) return null;
  const frame = Math.min(Math.max(0, at), end - 1);
  const cuts = cutsOf(timeline);
  const before = cuts.filter(({ to }) => to <= frame).pop();
  const after = cuts.find(({ from }) => from > frame);
  const range = { from: before?.to ?? 0, to: after?.from ?? end };
  return range.to > range.from ? range : null;
}

/** Strikes what a piece has before the caret, or after it. */
export function trimPiece(timeline: Timeline, at: number, end: 'start' | 'end'): Timeline {
  const around = pieceAround(timeline, at);
  if (!around) return timeline;
  const range = end === 'start' ? { from: around.from, to: at } : { from: at, to: around.to };
  return range.to > range.from ? strike(timeline, range) : timeline;
}

/** Digital silence over a range, because the user wants it. */
export const silenceRange = (timeline: Timeline, { from, to }: Range, only: OnlyTracks = null): Timeline =>
  to <= from
    ? timeline
    : onTracks(timeline, only, (table) =>
        table.replace(from, to, [{ ...silence(to - from), meant: true } as Piece]),
      );
