import { guidesOf } from '@/core/timeline/guides';
import type { Timeline } from '@/core/timeline/timeline';
import { PeakCache } from './peakCache';

/** One cache for the page: sources never change, so it outlives projects. */
export const peakCache = new PeakCache();

/**
 * Resolves once peaks of sheet frames [from, to) can be looked up, so that they are there when they are drawn
 * for the first time. Throws what reading them throws.
 */
export async function readPeaksOf(timeline: Timeline, from: number, to: number): Promise<void> {
  const reading: Promise<void>[] = [];
  for (const { table } of [...timeline.tracks, ...guidesOf(timeline)])
    for (
      let i = table.indexAt(Math.min(from, table.frames));
      i < table.pieces.length && table.startOf(i) < to;
      i++
    ) {
      const piece = table.pieces[i];
      if (piece.kind !== 'audio') continue;
      const first = piece.from + Math.max(0, from - table.startOf(i));
      const last = piece.from + Math.min(piece.length, to - table.startOf(i));
      reading.push(peakCache.ready(piece.source, piece.channel, first, last));
    }
  await Promise.all(reading);
}
