import type { AudioPiece, PieceTable } from './pieces';

/** A moment of a recording, wherever it stands on the sheet now. */
export interface Anchor {
  readonly source: string;
  readonly channel: number;
  readonly frame: number;
}

/** The moment of a recording at a sheet frame; null where none sounds there. */
export function anchorAt(table: PieceTable, at: number): Anchor | null {
  const index = table.indexAtSheet(at);
  const piece = table.pieces[index];
  if (piece?.kind !== 'audio') return null;
  const { source, channel, from } = piece;
  return { source, channel, frame: from + at - table.sheetStartOf(index) };
}

/** Finds anchors on a table: by source, then by time. Built once for a table, O(pieces). */
export class AnchorIndex {
  private readonly pieces = new Map<string, { piece: AudioPiece; at: number }[]>();

  constructor(table: PieceTable) {
    table.pieces.forEach((piece, index) => {
      if (piece.kind !== 'audio') return;
      const key = `${piece.source}/${piece.channel}`;
      const list = this.pieces.get(key);
      const entry = { piece, at: table.sheetStartOf(index) };
      if (list) list.push(entry);
      else this.pieces.set(key, [entry]);
    });
    for (const list of this.pieces.values()) list.sort((a, b) => a.piece.from - b.piece.from);
  }

  /** The sheet frame of an anchor; null when that moment is not on the sheet any more. Where it stands twice, one of the two. */
  sheetOf({ source, channel, frame }: Anchor): number | null {
    const list = this.pieces.get(`${source}/${channel}`) ?? [];
    let low = 0;
    let high = list.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (list[middle].piece.from <= frame) low = middle + 1;
      else high = middle;
    }
    for (let i = low - 1; i >= 0 && i >= low - 3; i--) {
      const { piece, at } = list[i];
      if (frame < piece.from + piece.length) return at + frame - piece.from;
    }
    return null;
  }
}

/** The longest stretch of one recording inside heard range [from, to), in frames of its source; null where none sounds. */
export function sourceStretch(
  table: PieceTable,
  from: number,
  to: number,
): { source: string; channel: number; start: number; end: number } | null {
  let best: { source: string; channel: number; start: number; end: number } | null = null;
  for (
    let index = table.indexAtHeard(from);
    index < table.pieces.length && table.heardStartOf(index) < to;
    index++
  ) {
    const piece = table.pieces[index];
    if (piece.kind !== 'audio' || piece.struck) continue;
    const first = Math.max(from, table.heardStartOf(index)) - table.heardStartOf(index);
    const last = Math.min(to, table.heardStartOf(index + 1)) - table.heardStartOf(index);
    if (best && last - first <= best.end - best.start) continue;
    const { source, channel } = piece;
    best = { source, channel, start: piece.from + first, end: piece.from + last };
  }
  return best;
}
