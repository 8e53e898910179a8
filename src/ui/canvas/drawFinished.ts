import { clockOf } from '@/core/timeline/timeline';
import type { RowInk } from './drawSheet';
import { RowColumns, spansOf } from './rowColumns';
import { staveBox } from './sheetGeometry';

type Ink = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

/** Voices as they come out of their chain. */
export interface FinishedInk {
  /** Another one when the chain is another. */
  readonly version: number;
  /** The channel of each track that has one. */
  readonly channels: ReadonlyMap<string, number>;
  /** Edges of a channel in heard frames, and what is taken off there, dB; null while it is being made. */
  span(
    channel: number,
    from: number,
    to: number,
  ): { low: number; high: number; takenDb: number; old: boolean } | null;
}

/** How much of the ink a recording has where it is drawn behind what was made of it. */
export const recordedShade = 0.3;

/** What is taken off is drawn so far down from the upper edge, pixels for a decibel and at most. */
const pixelsPerDb = 1.6;
const mostPixels = 26;

/**
 * The finished voice over the recorded one, and along the top what was taken off. False while some is
 * missing.
 */
export function drawFinished(context: Ink, ink: RowInk, track: string, stave: number, row: number): boolean {
  const { geometry, page, timeline, finished } = ink;
  const channel = finished?.channels.get(track);
  if (!finished || channel === undefined) return true;
  const { centre, half } = staveBox(geometry, row, stave);
  const from = row * geometry.framesPerRow;
  const clock = clockOf(timeline);
  const columns = new RowColumns(Math.ceil(geometry.width));
  const line: [x: number, y: number][] = [];
  let complete = true;
  for (const range of clock.heardIn({ from, to: Math.min(clock.sheetFrames, from + geometry.framesPerRow) }))
    spansOf(geometry, { row, ...range }, (x, first, last) => {
      const at = clock.sheetToHeard(first);
      const found = finished.span(channel, at, at + last - first);
      if (!found) {
        complete = false;
        return;
      }
      if (found.old) complete = false;
      columns.add(x, found.low, found.high);
      line.push([x, centre - half + Math.min(mostPixels, -found.takenDb * pixelsPerDb)]);
    });
  context.fillStyle = page.ink;
  columns.fill(context, centre, half);
  context.strokeStyle = page.blue;
  context.lineWidth = 1.25;
  context.beginPath();
  line.forEach(([x, y], index) => {
    if (index === 0 || x - line[index - 1][0] > 1) context.moveTo(x + 0.5, y);
    else context.lineTo(x + 0.5, y);
  });
  context.stroke();
  return complete;
}
