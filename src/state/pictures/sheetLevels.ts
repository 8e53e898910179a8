import { powerToDb } from '@/core/base/units';
import { peakFrames } from '@/core/timeline/peaks';
import type { PieceTable } from '@/core/timeline/pieces';
import { peakCache } from './peaks';

/**
 * Mean squares of sheet range [from, to) in steps of `peakFrames`, with the gain of each piece; struck
 * passages count as they sound, tone and silence as nothing.
 */
export async function meanSquares(table: PieceTable, from: number, to: number): Promise<Float32Array> {
  const levels = new Float32Array(Math.floor((to - from) / peakFrames));
  let at = from;
  for (const piece of table.slice(from, to)) {
    if (piece.kind === 'audio') {
      await peakCache.ready(piece.source, piece.channel, piece.from, piece.from + piece.length);
      const gain = 10 ** (piece.gainDb / 10);
      const last = Math.min(levels.length, Math.ceil((at + piece.length - from) / peakFrames));
      for (let i = Math.ceil((at - from) / peakFrames); i < last; i++) {
        const frame = piece.from + from + i * peakFrames - at;
        const span = peakCache.span(piece.source, piece.channel, frame, frame + peakFrames);
        levels[i] = (span?.meanSquare ?? 0) * gain;
      }
    }
    at += piece.length;
  }
  return levels;
}

const sounding = (levels: Float32Array) => levels.filter((level) => level > 1e-12).sort();
const mean = (levels: Float32Array) =>
  levels.reduce((sum, level) => sum + level, 0) / Math.max(1, levels.length);

/** The level of the speech in a stretch, dBFS RMS of its loudest third; −∞ where nothing sounds. */
export function speechLevel(levels: Float32Array): number {
  const sorted = sounding(levels);
  return sorted.length === 0 ? -Infinity : powerToDb(mean(sorted.subarray(Math.floor(sorted.length * 0.67))));
}

/** The level of its pauses, dBFS RMS of its quietest fifth; −∞ where nothing sounds. */
export function pauseLevel(levels: Float32Array): number {
  const sorted = sounding(levels);
  return sorted.length === 0
    ? -Infinity
    : powerToDb(mean(sorted.subarray(0, Math.max(1, Math.floor(sorted.length * 0.2)))));
}

/** Levels around a range, without the range itself: what lies `seconds` before and after it. */
export async function levelsAround(
  table: PieceTable,
  { from, to }: { from: number; to: number },
  frames: number,
): Promise<Float32Array> {
  const before = await meanSquares(table, Math.max(0, from - frames), from);
  const after = await meanSquares(table, to, Math.min(table.frames, to + frames));
  const all = new Float32Array(before.length + after.length);
  all.set(before);
  all.set(after, before.length);
  return all;
}
