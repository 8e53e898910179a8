import { firstIndex } from '@/core/base/search';
import type { Cue } from '@/core/timeline/cues';
import type { Timeline } from '@/core/timeline/timeline';
import type { MarksPicture } from './drawMarks';
import { labelFont, line } from './pen';
import { margins, rowBox, rowOfFrame, rowStretches, xOfFrame } from './sheetGeometry';

interface CuesPicture extends MarksPicture {
  timeline: Timeline;
  /** The cue that is chosen: its passage is shaded, its edges are heavy. */
  cue: string | null;
}

const tick = 5;

/** Where cues begin and end: a bracket around each with its number. */
export function drawCues(context: CanvasRenderingContext2D, picture: CuesPicture): void {
  const { geometry, firstRow, lastRow, timeline, cue: chosen } = picture;
  const cues = timeline.cueSheet?.cues ?? [];
  const end = (lastRow + 1) * geometry.framesPerRow;
  const last = firstIndex(cues.length, (i) => cues[i].from >= end);
  for (let i = 0; i < last; i++)
    if (cues[i].to >= firstRow * geometry.framesPerRow)
      drawCue(context, picture, cues[i], cues[i].id === chosen);
}

function drawCue(
  context: CanvasRenderingContext2D,
  { geometry, page, firstRow, lastRow }: CuesPicture,
  cue: Cue,
  chosen: boolean,
) {
  context.strokeStyle = page.ink;
  context.fillStyle = page.ink;
  context.lineWidth = chosen ? 2 : 1;
  if (chosen) {
    context.globalAlpha = 0.06;
    for (const { row, from, to } of rowStretches(geometry, cue, firstRow, lastRow)) {
      const { top, bottom } = rowBox(geometry, row);
      const x = xOfFrame(geometry, from, row);
      context.fillRect(x, top, xOfFrame(geometry, to, row) - x, bottom - top);
    }
    context.globalAlpha = 1;
  }
  const edge = (frame: number, row: number, inward: number) => {
    if (row < firstRow || row > lastRow) return;
    const { top, bottom } = rowBox(geometry, row);
    const x = Math.round(xOfFrame(geometry, frame, row)) + 0.5;
    line(context, x, top, x, bottom);
    line(context, x, top, x + inward, top);
    line(context, x, bottom, x + inward, bottom);
  };
  const row = rowOfFrame(geometry, cue.from);
  edge(cue.from, row, tick);
  edge(cue.to, rowOfFrame(geometry, Math.max(cue.from, cue.to - 1)), -tick);
  if (row < firstRow || row > lastRow) return;
  context.font = labelFont;
  context.textAlign = 'left';
  context.textBaseline = 'middle';
  const x = Math.max(margins.left, xOfFrame(geometry, cue.from, row));
  context.fillText(cue.number.slice(0, 8), x + 1, rowBox(geometry, row).top - 7);
}
