import { mapTables, removeReadingMarks, stet } from './edits';
import { PieceTable, silence, type Piece } from './pieces';
import type { Range } from './range';
import { placeOfPiece, type TakePlace, type Timeline } from './timeline';
import { padTo } from './tracks';

const lengthOf = (pieces: readonly Piece[]) => pieces.reduce((sum, piece) => sum + piece.length, 0);

/** What was recorded in one go: the pieces of each track that was armed, all of the same length. */
export type Recorded = ReadonlyMap<string, readonly Piece[]>;

export const recordedFrames = (recorded: Recorded) => Math.max(0, ...[...recorded.values()].map(lengthOf));

/**
 * Lays a recording over sheet range [at, at + its length) of its tracks; the sheet grows where it reaches
 * beyond the end. What stood there stays in the stack of takes; where it was struck, the range stands again.
 * Marks about the old reading go, but for `keptMarks`. Only what of it is in `heard` is heard, where given.
 */
export function overlay(
  timeline: Timeline,
  recorded: Recorded,
  at: number,
  keptMarks: ReadonlySet<string> = new Set(),
  heard: Range = { from: at, to: at + recordedFrames(recorded) },
): Timeline {
  const length = recordedFrames(recorded);
  const range = { from: Math.max(at, heard.from), to: Math.min(at + length, heard.to) };
  if (range.to <= range.from) return timeline;
  const padded = padTo(timeline, at + length);
  const placed: TakePlace[] = [];
  const laid = mapTables(padded, (table, track) => {
    const pieces = recorded.get(track.id);
    if (!pieces) return table;
    let start = at;
    for (const piece of pieces) {
      if (piece.kind === 'audio') placed.push(placeOfPiece(piece, track.id, start));
      start += piece.length;
    }
    const whole = PieceTable.of([...pieces, silence(length - lengthOf(pieces))]);
    return table.replace(range.from, range.to, whole.slice(range.from - at, range.to - at));
  });
  return stet(
    { ...removeReadingMarks(laid, range, keptMarks), places: [...padded.places, ...placed] },
    range,
  );
}

/** What was there before is not heard on the tracks of a recording; its time stays. */
export const fallSilent = (timeline: Timeline, recorded: Recorded, { from, to }: Range): Timeline =>
  mapTables(timeline, (table, { id }) =>
    recorded.has(id) ? table.replace(from, to, [silence(to - from)]) : table,
  );
