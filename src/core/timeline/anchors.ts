import { firstIndex } from '../base/search';
import type { AudioPiece, PieceTable } from './pieces';

/** A moment of a recording, wherever it stands on the sheet now. */
export interface Anchor {
  readonly source: string;
  readonly channel: number;
  readonly frame: number;
}

/** The moment of a recording at a sheet frame; null where none sounds there. */
export function anchorAt(table: PieceTable, at: number): Anchor | null {
  const index = table.indexAt(at);
  const piece = table.pieces[index];
  if (piece?.kind !== 'audio') return null;
  const { source, channel, from } = piece;
  return { source, channel, frame: from + at - table.startOf(index) };
}

interface Placed {
  readonly piece: AudioPiece;
  readonly at: number;
  /** The furthest end, in the source, of this piece and all that begin before it. */
  end: number;
}

/** Finds anchors on a table: by source, then by time. Built once for a table, O(pieces log pieces). */
export class AnchorIndex {
  private readonly pieces = new Map<string, Placed[]>();

  constructor(table: PieceTable) {
    table.pieces.forEach((piece, index) => {
      if (piece.kind !== 'audio') return;
      const key = `${piece.source}/${piece.channel}`;
      const list = this.pieces.get(key);
      const entry = { piece, at: table.startOf(index), end: 0 };
      if (list) list.push(entry);
      else this.pieces.set(key, [entry]);
    });
    for (const list of this.pieces.values()) {
      list.sort((a, b) => a.piece.from - b.piece.from || a.at - b.at);
      let end = 0;
      for (const entry of list) {
        end = Math.max(end, entry.piece.from + entry.piece.length);
        entry.end = end;
      }
    }
  }

  /**
   * The sheet frame of an anchor; null when that moment is not on the sheet any more. Where it stands several
   * times, in the piece that begins latest in the recording.
   */
  sheetOf({ source, channel, frame }: Anchor): number | null {
    const list = this.pieces.get(`${source}/${channel}`) ?? [];
    // Back through pieces that begin before it, for as long as any of them reaches so far.
    for (
      let i = firstIndex(list.length, (at) => list[at].piece.from > frame) - 1;
      i >= 0 && list[i].end > frame;
      i--
    ) {
      const { piece, at } = list[i];
      if (frame < piece.from + piece.length) return at + frame - piece.from;
    }
    return null;
  }
}

/**
 * The longest stretch of one recording inside range [from, to) of a table, in frames of its source; null
 * where there is none.
 */
export function sourceStretch(
  table: PieceTable,
  from: number,
  to: number,
): { source: string; channel: number; start: number; end: number } | null {
  let best: { source: string; channel: number; start: number; end: number } | null = null;
  for (let index = table.indexAt(from); index < table.pieces.length && table.startOf(index) < to; index++) {
    const piece = table.pieces[index];
    if (piece.kind !== 'audio') continue;
    const first = Math.max(from, table.startOf(index)) - table.startOf(index);
    const last = Math.min(to, table.startOf(index + 1)) - table.startOf(index);
    if (best && last - first <= best.end - best.start) continue;
    const { source, channel } = piece;
    best = { source, channel, start: piece.from + first, end: piece.from + last };
  }
  return best;
}
