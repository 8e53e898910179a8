import { withoutStrip } from './mixEdits';
import { PieceTable, silence } from './pieces';
import { mapTables } from './edits';
import { sheetFramesOf, type Timeline, type Track } from './timeline';

/** Brings every track to at least `length` frames of sheet time. */
export function padTo(timeline: Timeline, length: number): Timeline {
  if (timeline.tracks.every(({ table }) => table.frames >= length)) return timeline;
  return mapTables(timeline, (table) =>
    table.replace(table.frames, table.frames, [silence(Math.max(0, length - table.frames))]),
  );
}

/** Adds a track, silent for as long as the others are. */
export function addTrack(timeline: Timeline, track: Omit<Track, 'table'>): Timeline {
  const table = PieceTable.of([silence(sheetFramesOf(timeline))]);
  return { ...timeline, tracks: [...timeline.tracks, { ...track, table }] };
}

/**
 * Removes a track with what is on it; its takes stay in the list of takes. A part keeps at least one track.
 */
export function removeTrack(timeline: Timeline, id: string): Timeline {
  if (timeline.tracks.length < 2) return timeline;
  return {
    ...withoutStrip(timeline, id),
    tracks: timeline.tracks.filter((track) => track.id !== id),
    places: timeline.places.filter(({ track }) => track !== id),
  };
}

export const changeTrack = (
  timeline: Timeline,
  id: string,
  changes: Partial<Pick<Track, 'name' | 'side'>>,
): Timeline => ({
  ...timeline,
  tracks: timeline.tracks.map((track) => (track.id === id ? { ...track, ...changes } : track)),
});
