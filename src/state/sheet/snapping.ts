import { marksIn } from '@/core/timeline/markIndex';
import { markTraits } from '@/core/timeline/markTraits';
import { peakFrames } from '@/core/timeline/peaks';
import { allCuts } from '@/core/timeline/joints';
import { usePart } from './part';
import { focusedTable } from './staveFocus';
import { peakCache } from '../pictures/peaks';

/** A place has to be this much quieter than where the pointer is to draw the caret. */
const quieterDb = 9;

/**
 * Where a pointer means to be: on a mark, an end of the selection or a cut within `reach` frames, else in the
 * quietest moment there, if that is a pause beside a word. Looks at peaks only, and never waits.
 */
export function snapped(frame: number, reach: number): number {
  const { timeline, selection } = usePart.getState();
  const near = (place: number) => Math.abs(place - frame) <= reach;
  const marked = [
    ...marksIn(timeline.marks, { from: frame - reach, to: frame + reach })
      .filter(({ kind }) => markTraits[kind].listed)
      .flatMap(({ at, length }) => [at, at + length]),
    ...(selection ? [selection.from, selection.to] : []),
    ...allCuts(timeline).flatMap(({ from, to }) => [from, to]),
  ].filter(near);
  if (marked.length > 0)
    return marked.reduce((best, place) => (Math.abs(place - frame) < Math.abs(best - frame) ? place : best));
  return quietest(frame, reach) ?? frame;
}

function quietest(frame: number, reach: number): number | null {
  const table = focusedTable(usePart.getState().timeline);
  const from = Math.max(0, frame - reach);
  const to = Math.min(table.frames, frame + reach);
  let best: { at: number; level: number } | null = null;
  let here = 0;
  let at = from;
  for (const piece of table.slice(Math.floor(from), Math.floor(to))) {
    if (piece.kind === 'audio') {
      for (let offset = 0; offset < piece.length; offset += peakFrames) {
        const span = peakCache.span(
          piece.source,
          piece.channel,
          piece.from + offset,
          piece.from + offset + peakFrames,
        );
        if (!span) return null;
        const place = at + offset;
        if (Math.abs(place - frame) < peakFrames) here = Math.max(here, span.meanSquare);
        if (!best || span.meanSquare < best.level)
          best = { at: place + peakFrames / 2, level: span.meanSquare };
      }
    }
    at += piece.length;
  }
  if (!best || best.level * 10 ** (quieterDb / 10) > here) return null;
  return Math.round(Math.min(best.at, table.frames));
}

/**
 * The nearest place where the wave crosses zero upwards, within `reach` samples of `at`; `at` itself where
 * there is none.
 */
export function zeroCrossing(samples: Float32Array, at: number, reach: number): number {
  for (let away = 0; away <= reach; away++) {
    for (const place of [at - away, at + away]) {
      if (place < 1 || place >= samples.length) continue;
      if (samples[place - 1] < 0 && samples[place] >= 0) return place;
    }
  }
  return at;
}
