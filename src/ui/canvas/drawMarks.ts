import { exhaustive } from '@/core/base/errors';
import type { Mark } from '@/core/timeline/timeline';
import type { InkPalette } from '../theme/palette';
import { markSigns } from './markSigns';
import { labelFont, line, noteFont, signFont, wavyLine } from './pen';
import {
  contentWidth,
  margins,
  rowBox,
  rowOfFrame,
  rowStretches,
  xOfFrame,
  type SheetGeometry,
} from './sheetGeometry';

export interface MarksPicture {
  geometry: SheetGeometry;
  page: InkPalette;
  firstRow: number;
  lastRow: number;
}

export function drawMark(context: CanvasRenderingContext2D, picture: MarksPicture, mark: Mark): void {
  const { geometry, page, firstRow, lastRow } = picture;
  const { sign, colour, margin, drawn } = markSigns[mark.kind];
  if (drawn === 'none') return;
  const row = rowOfFrame(geometry, mark.at);
  const lastMarkRow = rowOfFrame(geometry, mark.at + Math.max(0, mark.length - 1));
  if (lastMarkRow < firstRow || row > lastRow) return;
  const { top, bottom } = rowBox(geometry, row);
  context.fillStyle = page[colour];
  context.strokeStyle = page[colour];
  context.textBaseline = 'middle';
  context.textAlign = 'center';
  context.font = sign.length > 1 ? noteFont : signFont;
  context.fillText(sign, margins.left - 40, margin === 'top' ? top + 8 : bottom - 14);
  switch (drawn) {
    case 'wave':
      return drawPassage(picture, mark, 26, (x1, x2, box) => wavyLine(context, x1, x2, box.bottom - 1));
    case 'lineOver':
    case 'dotsUnder': {
      const over = drawn === 'lineOver';
      context.lineWidth = 3;
      context.setLineDash(over ? [] : [2, 4]);
      drawPassage(picture, mark, 14, (x1, x2, box) => {
        const y = over ? box.top + 1 : box.bottom - 1;
        line(context, x1, y, x2, y);
      });
      return context.setLineDash([]);
    }
    case 'flag': {
      const x = xOfFrame(geometry, mark.at, row);
      context.lineWidth = 1;
      line(context, x + 0.5, top, x + 0.5, bottom);
      context.textAlign = 'left';
      context.fillText(sign, x + 3, top - 8);
      context.font = noteFont;
      context.fillText(mark.name, x + 16, top - 8);
      return;
    }
    default:
      exhaustive(drawn);
  }
}

/** Calls `draw` for each row a mark's passage touches; it is drawn at least so many pixels long. */
function drawPassage(
  { geometry, firstRow, lastRow }: MarksPicture,
  { at, length }: Mark,
  leastPixels: number,
  draw: (x1: number, x2: number, box: { top: number; bottom: number }) => void,
) {
  const shortest = geometry.framesPerRow * (leastPixels / contentWidth(geometry));
  const range = { from: at, to: at + Math.max(length, shortest) };
  for (const { row, from, to } of rowStretches(geometry, range, firstRow, lastRow))
    draw(xOfFrame(geometry, from, row), xOfFrame(geometry, to, row), rowBox(geometry, row));
}

/** The number of a script line over the place where its reading begins. */
export interface LineTag {
  markId: string;
  at: number;
  label: string;
}

export const lineTagBox = (geometry: SheetGeometry, { at, label }: LineTag) => {
  const row = rowOfFrame(geometry, at);
  const { top } = rowBox(geometry, row);
  return { x: xOfFrame(geometry, at, row), y: top - 15, width: 10 + 7 * label.length, height: 14 };
};

export function drawLineTags(
  context: CanvasRenderingContext2D,
  { geometry, page, firstRow, lastRow }: MarksPicture,
  tags: readonly LineTag[],
): void {
  context.font = `600 11px 'Atkinson Hyperlegible Next Variable', sans-serif`;
  context.textBaseline = 'middle';
  context.textAlign = 'left';
  context.lineWidth = 1;
  for (const tag of tags) {
    const row = rowOfFrame(geometry, tag.at);
    if (row < firstRow || row > lastRow) continue;
    const { x, y, height } = lineTagBox(geometry, tag);
    context.strokeStyle = page.faintInk;
    line(context, x + 0.5, y + 2, x + 0.5, y + height + 6);
    context.fillStyle = page.faintInk;
    context.fillText(tag.label, x + 4, y + height / 2);
  }
}

/** A proposal where it stands: a query in the margin, a dashed bracket under what it is about. */
export interface DrawnProposal {
  from: number;
  to: number;
  current: boolean;
  reason: string;
}

export function drawProposal(
  context: CanvasRenderingContext2D,
  { geometry, page, firstRow, lastRow }: MarksPicture,
  { from, to, current, reason }: DrawnProposal,
): void {
  const row = rowOfFrame(geometry, from);
  if (rowOfFrame(geometry, to) < firstRow || row > lastRow) return;
  const shortest = geometry.framesPerRow * (10 / contentWidth(geometry));
  const range = { from, to: Math.max(to, from + shortest) };
  context.strokeStyle = page.blue;
  context.fillStyle = page.blue;
  context.lineWidth = current ? 2 : 1.25;
  const stretches = rowStretches(geometry, range, firstRow, lastRow);
  stretches.forEach(({ row: at, from: first, to: last }) => {
    const { bottom } = rowBox(geometry, at);
    const x1 = xOfFrame(geometry, first, at);
    const x2 = xOfFrame(geometry, last, at);
    const y = bottom + 4;
    context.setLineDash(current ? [] : [3, 3]);
    line(context, x1, y, x2, y);
    context.setLineDash([]);
    if (first === range.from) line(context, x1, y, x1, y - 6);
    if (last === range.to) line(context, x2, y, x2, y - 6);
  });
  if (row < firstRow || row > lastRow) return;
  const { top, bottom } = rowBox(geometry, row);
  context.textBaseline = 'middle';
  context.textAlign = 'center';
  context.font = signFont;
  context.fillText('?', margins.left - 62, (top + bottom) / 2 + 16);
  if (!current) return;
  context.font = noteFont;
  const x = xOfFrame(geometry, from, row);
  const width = context.measureText(reason).width;
  const right = margins.left + contentWidth(geometry) + margins.right - 6;
  context.textAlign = 'left';
  context.fillText(reason, Math.max(margins.left, Math.min(x, right - width)), bottom + 15);
  context.font = labelFont;
}
