import type { Alignment } from '../dsp/alignment';
import { insertTime, mapTables } from './edits';
import { silence, type AudioPiece, type PieceTable } from './pieces';
import { overlay } from './overlay';
import { sheetFramesOf, type Timeline } from './timeline';

/** A recording as it stands on a track by itself, uncut. */
export interface LoneRecording {
  readonly piece: AudioPiece;
  /** Sheet frame at which frame 0 of its source stands, or would stand. */
  readonly origin: number;
}

/** The one recording of a track; null where there is none, or it has been cut or lies beside others. */
export function loneRecording(table: PieceTable): LoneRecording | null {
  const at = table.pieces.findIndex(({ kind }) => kind === 'audio');
  const piece = table.pieces[at];
  if (piece?.kind !== 'audio' || table.pieces.slice(at + 1).some(({ kind }) => kind === 'audio')) return null;
  return { piece, origin: table.startOf(at) - piece.from };
}

/** A recording whose clock is that of the one it is laid beside. */
export interface Reclocked {
  readonly source: string;
  readonly channel: number;
  readonly frames: number;
}

/**
 * Lays a recording on a track so that it is in step with another one, all of it. Where it began earlier than
 * the sheet, time is opened at the beginning, on every track.
 */
export function layInStep(
  timeline: Timeline,
  first: LoneRecording,
  trackId: string,
  { source, channel, frames }: Reclocked,
  { offsetSeconds, ppm }: Alignment,
  rateHz: number,
): Timeline {
  const offset = Math.round((offsetSeconds / (1 + ppm / 1e6)) * rateHz);
  const at = first.origin - offset;
  const opened = at < 0 ? insertTime(timeline, 0, -at) : timeline;
  const end = sheetFramesOf(opened);
  const cleared = mapTables(opened, (table, { id }) =>
    id === trackId ? table.replace(0, end, [silence(end)]) : table,
  );
  const piece: AudioPiece = { kind: 'audio', source, channel, from: 0, length: frames, gainDb: 0 };
  return overlay(cleared, new Map([[trackId, [piece]]]), Math.max(0, at));
}
