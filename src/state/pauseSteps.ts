import { findPauses } from '@/core/speech/pauses';
import { peakFrames } from '@/core/timeline/peaks';
import type { PieceTable } from '@/core/timeline/pieces';
import { setCaret, usePart } from './part';
import { peakCache } from './peaks';
import { rateOfProject } from './session';

const lookSeconds = 60;
const shortestPauseSeconds = 0.15;
/** The caret stands this long before the word that follows, or in the middle of a shorter pause. */
const beforeWordSeconds = 0.1;

/** Moves the caret to the previous or next pause, looking a minute far; to that distance when there is none. */
export async function stepToPause(direction: -1 | 1): Promise<void> {
  const { timeline, caret } = usePart.getState();
  const rate = rateOfProject();
  const { table } = timeline.tracks[0];
  const reach = lookSeconds * rate;
  const from = Math.max(0, direction < 0 ? caret - reach : caret);
  const to = Math.min(table.sheetFrames, direction < 0 ? caret : caret + reach);
  const levels = await meanSquares(table, from, to);
  const places = findPauses(levels, (shortestPauseSeconds * rate) / peakFrames).map((pause) => {
    const end = from + pause.to * peakFrames;
    const length = (pause.to - pause.from) * peakFrames;
    return Math.round(end - Math.min(beforeWordSeconds * rate, length / 2));
  });
  const tolerance = 0.02 * rate;
  const found =
    direction < 0
      ? places.filter((place) => place < caret - tolerance).pop()
      : places.find((place) => place > caret + tolerance);
  if (usePart.getState().timeline === timeline) setCaret(found ?? (direction < 0 ? from : to));
}

/** Mean squares of sheet range [from, to) in steps of `peakFrames`; struck passages count as they sound. */
async function meanSquares(table: PieceTable, from: number, to: number): Promise<Float32Array> {
  const levels = new Float32Array(Math.floor((to - from) / peakFrames));
  let at = from;
  for (const piece of table.slice(from, to)) {
    if (piece.kind === 'audio') {
      await peakCache.ready(piece.source, piece.channel, piece.from, piece.from + piece.length);
      const last = Math.min(levels.length, Math.ceil((at + piece.length - from) / peakFrames));
      for (let i = Math.ceil((at - from) / peakFrames); i < last; i++) {
        const frame = piece.from + from + i * peakFrames - at;
        levels[i] = peakCache.span(piece.source, piece.channel, frame, frame + peakFrames)?.meanSquare ?? 0;
      }
    }
    at += piece.length;
  }
  return levels;
}
