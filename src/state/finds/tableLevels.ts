import { peakFrames } from '@/core/timeline/peaks';
import type { PieceTable } from '@/core/timeline/pieces';
import { meanSquares } from '../pictures/sheetLevels';
import { rateOfProject } from '../project/openProject';

/** Levels are read from the peaks in stretches, so that no picture waits for them. */
const stretchSeconds = 60;
const breathe = () => new Promise((resolve) => setTimeout(resolve));

/** Mean squares of the first `frames` of a track in steps of `peakFrames`; nothing behind its end. */
export async function levelsOf(table: PieceTable, frames: number): Promise<Float32Array<ArrayBuffer>> {
  const stretch = Math.round((stretchSeconds * rateOfProject()) / peakFrames) * peakFrames;
  const levels = new Float32Array(Math.floor(frames / peakFrames));
  for (let from = 0; from < Math.min(frames, table.frames); from += stretch) {
    const part = await meanSquares(table, from, Math.min(frames, table.frames, from + stretch));
    levels.set(part.subarray(0, levels.length - from / peakFrames), from / peakFrames);
    await breathe();
  }
  return levels;
}
