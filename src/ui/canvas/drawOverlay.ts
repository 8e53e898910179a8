import { decimal, say } from '@/texts/say';
import type { InkPalette } from '../theme/palette';
import { labelFont, line } from './pen';
import {
  contentWidth,
  margins,
  rowBox,
  rowOfFrame,
  rowStretches,
  xOfFrame,
  type SheetGeometry,
} from './sheetGeometry';

export interface SheetOverlay {
  geometry: SheetGeometry;
  page: InkPalette;
  caret: number;
  selection: { from: number; to: number } | null;
  recording: boolean;
  /** Before a punch: where it is, the seconds left, of how many, and whether to show them large. */
  rolling: { at: number; left: number; seconds: number; large: boolean } | null;
  firstRow: number;
  lastRow: number;
}

/** Caret, selection and the sweep before a punch: drawn over the sheet. */
export function drawOverlay(context: CanvasRenderingContext2D, overlay: SheetOverlay): void {
  const { geometry, page, caret, selection, recording, rolling, firstRow, lastRow } = overlay;
  if (selection) {
    for (const { row, from, to } of rowStretches(geometry, selection, firstRow, lastRow)) {
      const { top, bottom } = rowBox(geometry, row);
      const x = xOfFrame(geometry, from, row);
      context.fillStyle = page.selection;
      context.fillRect(x, top, xOfFrame(geometry, to, row) - x, bottom - top);
    }
    drawEdge(context, overlay, selection.from, page.blue);
    drawEdge(context, overlay, selection.to, page.blue);
  }
  if (!recording) drawCaret(context, overlay, caret);
  if (rolling) drawRolling(context, overlay, rolling);
}

/** A clock hand that sweeps towards the punch, with the seconds that are left. */
function drawRolling(
  context: CanvasRenderingContext2D,
  { geometry, page, firstRow, lastRow }: SheetOverlay,
  { at, left, seconds, large }: NonNullable<SheetOverlay['rolling']>,
) {
  const row = rowOfFrame(geometry, at);
  if (row < firstRow || row > lastRow) return;
  const { top, bottom } = rowBox(geometry, row);
  const x = xOfFrame(geometry, at, row);
  const radius = large ? 26 : 9;
  const right = x + radius * 2 + 150 < margins.left + contentWidth(geometry) + margins.right;
  const centre = { x: right ? x + radius + 8 : x - radius - 8, y: large ? (top + bottom) / 2 : top + 1 };
  const turn = Math.min(1, Math.max(0, left / seconds)) * 2 * Math.PI;
  context.fillStyle = page.sheet;
  context.beginPath();
  context.arc(centre.x, centre.y, radius + 3, 0, 2 * Math.PI);
  context.fill();
  context.fillStyle = page.vermilion;
  context.beginPath();
  context.moveTo(centre.x, centre.y);
  context.arc(centre.x, centre.y, radius, -Math.PI / 2, -Math.PI / 2 + turn);
  context.closePath();
  context.fill();
  context.strokeStyle = page.vermilion;
  context.lineWidth = 1.5;
  context.beginPath();
  context.arc(centre.x, centre.y, radius, 0, 2 * Math.PI);
  context.stroke();
  context.font = large ? `600 24px 'Atkinson Hyperlegible Next Variable', sans-serif` : `600 ${labelFont}`;
  context.textBaseline = 'middle';
  context.textAlign = right ? 'left' : 'right';
  const text = large ? String(Math.ceil(left)) : say`recording in ${decimal(left, 1)} s`;
  context.fillText(text, centre.x + (right ? radius + 8 : -radius - 8), centre.y);
}

function drawEdge(
  context: CanvasRenderingContext2D,
  { geometry, firstRow, lastRow }: SheetOverlay,
  frame: number,
  colour: string,
) {
  const row = rowOfFrame(geometry, frame);
  if (row < firstRow || row > lastRow) return;
  const { top, bottom } = rowBox(geometry, row);
  const x = xOfFrame(geometry, frame, row);
  context.strokeStyle = colour;
  context.lineWidth = 1.5;
  line(context, x, top, x, bottom);
}

/** An insertion caret as in proofreading: a line with a small roof under it. */
function drawCaret(context: CanvasRenderingContext2D, overlay: SheetOverlay, frame: number) {
  const { geometry, page } = overlay;
  drawEdge(context, overlay, frame, page.blue);
  const row = rowOfFrame(geometry, frame);
  const { bottom } = rowBox(geometry, row);
  const x = xOfFrame(geometry, frame, row);
  context.strokeStyle = page.blue;
  context.lineWidth = 2;
  context.beginPath();
  context.moveTo(x - 6, bottom + 8);
  context.lineTo(x, bottom);
  context.lineTo(x + 6, bottom + 8);
  context.stroke();
}
