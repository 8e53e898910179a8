import { PieceTable, type Piece } from './pieces';
import type { Step } from './history';
import type { Timeline } from './timeline';

/**
 * One recording takes the place of another of the same length and channels, wherever it stands: in tables,
 * places and guides. Nothing moves.
 */
export function substituteSource(timeline: Timeline, from: string, to: string): Timeline {
  const table = (old: PieceTable) =>
    old.pieces.some((piece) => names(piece, from))
      ? PieceTable.of(old.pieces.map((piece) => (names(piece, from) ? { ...piece, source: to } : piece)))
      : old;
  return {
    ...timeline,
    tracks: timeline.tracks.map((track) => ({ ...track, table: table(track.table) })),
    places: timeline.places.map((place) => (place.source === from ? { ...place, source: to } : place)),
    ...(timeline.guides && {
      guides: timeline.guides.map((guide) => ({ ...guide, table: table(guide.table) })),
    }),
  };
}

const names = (piece: Piece, source: string) => piece.kind !== 'silence' && piece.source === source;

/** The same for a step of the history, so that it fits what it was made on, and can be undone as before. */
export const substituteInStep = (step: Step, from: string, to: string): Step =>
  JSON.stringify(step).includes(from) ? (renamed(step, from, to) as Step) : step;

/** Steps are plain data: whatever names the recording says so in `source`. */
function renamed(value: unknown, from: string, to: string): unknown {
  if (Array.isArray(value)) return value.map((item) => renamed(item, from, to));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, inner]) => [
      key,
      key === 'source' && inner === from ? to : renamed(inner, from, to),
    ]),
  );
}
