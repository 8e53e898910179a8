import { formatTime } from '@/core/base/units';
import { peakFields, peakFrames } from '@/core/timeline/peaks';
import type { PieceTable } from '@/core/timeline/pieces';
import type { Mark, Timeline } from '@/core/timeline/timeline';
import type { InkPalette } from '../theme/palette';
import {
  contentWidth,
  margins,
  rowBox,
  rowOfFrame,
  rowStretches,
  staveBox,
  xOfFrame,
  type SheetGeometry,
} from './sheetGeometry';

/** Lowest and highest value over a stretch of a source, or null while it is being read. */
export type LookUpPeaks = (
  source: string,
  channel: number,
  from: number,
  to: number,
) => { low: number; high: number } | null;

export interface LivePeaks {
  startFrame: number;
  frames: number;
  /** Peaks by stave; a stave that is not recorded has none. */
  staves: ReadonlyMap<number, Float32Array>;
  /** What the recorder has found in it so far. */
  marks: readonly Mark[];
}

export interface SheetPicture {
  geometry: SheetGeometry;
  rateHz: number;
  page: InkPalette;
  timeline: Timeline;
  live: LivePeaks | null;
  peaks: LookUpPeaks;
  /** Rows that can be seen. */
  firstRow: number;
  lastRow: number;
}

const labelFont = "12px 'Atkinson Hyperlegible Next Variable', sans-serif";
const noteFont = "italic 13px 'Literata Variable', serif";
const signFont = "600 16px 'Literata Variable', serif";

/** Quiet sound stays visible: height follows amplitude to the power 0.6. Reaches ±1 at full scale. */
export const drawnHeight = (amplitude: number) => Math.sign(amplitude) * Math.abs(amplitude) ** 0.6;

/** Everything that changes only with edits, scrolling and the running take. The context's origin is the top of the sheet. */
export function drawSheet(context: CanvasRenderingContext2D, picture: SheetPicture): void {
  for (let row = picture.firstRow; row <= picture.lastRow; row++) drawRuling(context, picture, row);
  picture.timeline.tracks.forEach((track, stave) => drawTrack(context, picture, track.table, stave));
  if (picture.live) drawLive(context, picture, picture.live);
  drawStrikes(context, picture);
  for (const mark of picture.timeline.marks) drawMark(context, picture, mark);
  for (const mark of picture.live?.marks ?? []) drawMark(context, picture, mark);
}

function drawRuling(
  context: CanvasRenderingContext2D,
  { geometry, rateHz, page, timeline }: SheetPicture,
  row: number,
) {
  const right = margins.left + contentWidth(geometry);
  const { bottom } = rowBox(geometry, row);
  context.strokeStyle = page.rule;
  context.lineWidth = 1;
  for (let stave = 0; stave < geometry.staves; stave++) {
    const y = Math.round(staveBox(geometry, row, stave).centre) + 0.5;
    line(context, margins.left, y, right, y);
  }
  for (let tick = 0; tick <= 12; tick++) {
    const x = Math.round(margins.left + (tick / 12) * contentWidth(geometry)) + 0.5;
    line(context, x, bottom + 2, x, bottom + 6);
  }
  context.fillStyle = page.faintInk;
  context.font = labelFont;
  context.textAlign = 'right';
  context.textBaseline = 'middle';
  const time = formatTime((row * geometry.framesPerRow) / rateHz, geometry.framesPerRow % rateHz !== 0);
  const { tracks } = timeline;
  if (tracks.length < 2) {
    context.fillText(time, margins.left - 14, staveBox(geometry, row, 0).centre);
    return;
  }
  // Several staves: the time stands above them, the names beside them.
  context.fillText(time, margins.left - 14, rowBox(geometry, row).top - 2);
  context.font = noteFont;
  tracks.forEach(({ name }, stave) => {
    context.fillText(name, margins.left - 10, staveBox(geometry, row, stave).centre, margins.left - 14);
  });
}

function line(context: CanvasRenderingContext2D, x1: number, y1: number, x2: number, y2: number) {
  context.beginPath();
  context.moveTo(x1, y1);
  context.lineTo(x2, y2);
  context.stroke();
}

function drawTrack(
  context: CanvasRenderingContext2D,
  picture: SheetPicture,
  table: PieceTable,
  stave: number,
) {
  const { geometry, firstRow, lastRow, page } = picture;
  const from = firstRow * geometry.framesPerRow;
  const to = (lastRow + 1) * geometry.framesPerRow;
  for (let i = table.indexAtSheet(from); i < table.pieces.length && table.sheetStartOf(i) < to; i++) {
    const piece = table.pieces[i];
    if (piece.kind !== 'audio') continue;
    const start = table.sheetStartOf(i);
    const range = { from: start, to: start + piece.length };
    const gain = 10 ** (piece.gainDb / 20);
    context.fillStyle = piece.struck ? page.struckInk : page.ink;
    for (const stretch of rowStretches(geometry, range, firstRow, lastRow)) {
      drawWave(context, geometry, stretch, stave, (first, last) => {
        const offset = piece.from - start;
        const span = picture.peaks(piece.source, piece.channel, first + offset, last + offset);
        return span && { low: span.low * gain, high: span.high * gain };
      });
    }
  }
}

type Span = { low: number; high: number } | null;

/** One column of ink for each pixel of a stretch of a row. */
function drawWave(
  context: CanvasRenderingContext2D,
  geometry: SheetGeometry,
  { row, from, to }: { row: number; from: number; to: number },
  stave: number,
  spanOf: (first: number, last: number) => Span,
) {
  const { centre, half } = staveBox(geometry, row, stave);
  const perPixel = geometry.framesPerRow / contentWidth(geometry);
  const x0 = xOfFrame(geometry, from, row);
  const x1 = xOfFrame(geometry, to, row);
  context.beginPath();
  for (let x = Math.floor(x0); x < x1; x++) {
    const first = Math.max(from, Math.floor(from + (x - x0) * perPixel));
    const last = Math.min(to, Math.ceil(from + (x + 1 - x0) * perPixel));
    const span = last > first ? spanOf(first, last) : null;
    if (!span) continue;
    const top = centre - drawnHeight(Math.min(1, span.high)) * half;
    const bottom = centre - drawnHeight(Math.max(-1, span.low)) * half;
    context.rect(x, top, 1, Math.max(1, bottom - top));
  }
  context.fill();
}

function drawLive(
  context: CanvasRenderingContext2D,
  picture: SheetPicture,
  { startFrame, frames, staves }: LivePeaks,
) {
  const range = { from: startFrame, to: startFrame + frames };
  for (const [stave, peaks] of staves) drawLiveStave(context, picture, range, stave, peaks);
}

/** The new reading covers what it will stand over. */
function drawLiveStave(
  context: CanvasRenderingContext2D,
  { geometry, page, firstRow, lastRow }: SheetPicture,
  range: { from: number; to: number },
  stave: number,
  peaks: Float32Array,
) {
  const startFrame = range.from;
  const count = peaks.length / peakFields;
  for (const stretch of rowStretches(geometry, range, firstRow, lastRow)) {
    const { centre, half } = staveBox(geometry, stretch.row, stave);
    const x = xOfFrame(geometry, stretch.from, stretch.row);
    context.fillStyle = page.sheet;
    context.fillRect(x, centre - half, xOfFrame(geometry, stretch.to, stretch.row) - x, 2 * half);
    context.fillStyle = page.ink;
    drawWave(context, geometry, stretch, stave, (first, last) => {
      let low = Infinity;
      let high = -Infinity;
      const end = Math.min(
        count,
        Math.max(
          Math.floor((first - startFrame) / peakFrames) + 1,
          Math.ceil((last - startFrame) / peakFrames),
        ),
      );
      for (let i = Math.floor((first - startFrame) / peakFrames); i < end; i++) {
        low = Math.min(low, peaks[i * peakFields]);
        high = Math.max(high, peaks[i * peakFields + 1]);
      }
      return low > high ? null : { low, high };
    });
  }
}

/** A pen stroke through each struck passage, rising a little, as a hand would draw it. */
function drawStrikes(
  context: CanvasRenderingContext2D,
  { geometry, timeline, page, firstRow, lastRow }: SheetPicture,
) {
  const from = firstRow * geometry.framesPerRow;
  const to = (lastRow + 1) * geometry.framesPerRow;
  context.strokeStyle = page.vermilion;
  context.lineWidth = 2;
  timeline.tracks.forEach(({ table }, stave) => {
    for (const range of table.struckRanges(from, to)) {
      for (const { row, from: first, to: last } of rowStretches(geometry, range, firstRow, lastRow)) {
        const { centre } = staveBox(geometry, row, stave);
        line(context, xOfFrame(geometry, first, row), centre + 2, xOfFrame(geometry, last, row), centre - 2);
      }
    }
  });
}

/** Proofreader's signs: a wave under a flub, a dagger at a note, a pilcrow where a part begins; each again in the margin. */
const signs = { flub: '∿', note: '†', part: '¶', clipped: 'clip', faint: 'faint' } as const;

function drawMark(
  context: CanvasRenderingContext2D,
  { geometry, page, firstRow, lastRow }: SheetPicture,
  mark: Mark,
) {
  const row = rowOfFrame(geometry, mark.at);
  const lastMarkRow = rowOfFrame(geometry, mark.at + Math.max(0, mark.length - 1));
  if (lastMarkRow < firstRow || row > lastRow) return;
  const colour = mark.kind === 'note' || mark.kind === 'part' ? page.blue : page.ochre;
  const x = xOfFrame(geometry, mark.at, row);
  const { top, bottom } = rowBox(geometry, row);
  context.fillStyle = colour;
  context.strokeStyle = colour;
  context.textBaseline = 'middle';
  context.textAlign = 'center';
  const level = mark.kind === 'clipped' || mark.kind === 'faint';
  context.font = level ? noteFont : signFont;
  const margin = { flub: bottom - 14, note: top + 8, part: top + 8, clipped: top + 8, faint: bottom - 14 };
  context.fillText(signs[mark.kind], margins.left - 40, margin[mark.kind]);
  if (level) return drawLevelMark(context, geometry, mark, firstRow, lastRow);
  if (mark.kind === 'flub') {
    const shortest = geometry.framesPerRow * (26 / contentWidth(geometry));
    const range = { from: mark.at, to: mark.at + Math.max(mark.length, shortest) };
    for (const { row: at, from, to } of rowStretches(geometry, range, firstRow, lastRow)) {
      drawWavy(
        context,
        xOfFrame(geometry, from, at),
        xOfFrame(geometry, to, at),
        rowBox(geometry, at).bottom - 1,
      );
    }
    return;
  }
  context.lineWidth = 1;
  line(context, x + 0.5, top, x + 0.5, bottom);
  context.textAlign = 'left';
  context.fillText(signs[mark.kind], x + 3, top - 8);
  context.font = noteFont;
  context.fillText(mark.name, x + 16, top - 8);
}

/** A flat line on top of what was clipped, a dotted one under what was too faint. */
function drawLevelMark(
  context: CanvasRenderingContext2D,
  geometry: SheetGeometry,
  { kind, at, length }: Mark,
  firstRow: number,
  lastRow: number,
) {
  const shortest = geometry.framesPerRow * (14 / contentWidth(geometry));
  context.lineWidth = 3;
  context.setLineDash(kind === 'faint' ? [2, 4] : []);
  const range = { from: at, to: at + Math.max(length, shortest) };
  for (const { row, from, to } of rowStretches(geometry, range, firstRow, lastRow)) {
    const { top, bottom } = rowBox(geometry, row);
    const y = kind === 'clipped' ? top + 1 : bottom - 1;
    line(context, xOfFrame(geometry, from, row), y, xOfFrame(geometry, to, row), y);
  }
  context.setLineDash([]);
}

function drawWavy(context: CanvasRenderingContext2D, from: number, to: number, y: number) {
  context.lineWidth = 2;
  context.beginPath();
  context.moveTo(from, y);
  for (let x = from; x < to; x += 2) context.lineTo(x, y + Math.sin(((x - from) / 9) * 2 * Math.PI) * 2.6);
  context.stroke();
}

export interface SheetOverlay {
  geometry: SheetGeometry;
  page: InkPalette;
  caret: number;
  selection: { from: number; to: number } | null;
  /** The frame heard or recorded now. */
  head: number | null;
  /** What is being recorded: “take ③”, or “2 tracks · take ③”. */
  recording: string | null;
  /** Before a punch: where it is, the seconds left, of how many, and whether to show them large. */
  rolling: { at: number; left: number; seconds: number; large: boolean } | null;
  firstRow: number;
  lastRow: number;
}

/** Caret, selection and head: drawn over the sheet, as often as the head moves. */
export function drawOverlay(context: CanvasRenderingContext2D, overlay: SheetOverlay): void {
  const { geometry, page, caret, selection, head, recording, rolling, firstRow, lastRow } = overlay;
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
  if (recording === null) drawCaret(context, overlay, caret);
  if (rolling) drawRolling(context, overlay, rolling);
  if (head === null) return;
  drawEdge(context, overlay, head, recording === null ? page.blue : page.vermilion, 2);
  if (recording !== null) drawRecordingHead(context, overlay, head, recording);
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
  const text = large ? String(Math.ceil(left)) : `recording in ${left.toFixed(1)} s`;
  context.fillText(text, centre.x + (right ? radius + 8 : -radius - 8), centre.y);
}

function drawEdge(
  context: CanvasRenderingContext2D,
  { geometry, firstRow, lastRow }: SheetOverlay,
  frame: number,
  colour: string,
  width = 1.5,
) {
  const row = rowOfFrame(geometry, frame);
  if (row < firstRow || row > lastRow) return;
  const { top, bottom } = rowBox(geometry, row);
  const x = xOfFrame(geometry, frame, row);
  context.strokeStyle = colour;
  context.lineWidth = width;
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

function drawRecordingHead(
  context: CanvasRenderingContext2D,
  { geometry, page }: SheetOverlay,
  head: number,
  what: string,
) {
  const row = rowOfFrame(geometry, head);
  const x = xOfFrame(geometry, head, row);
  const { top } = rowBox(geometry, row);
  context.fillStyle = page.vermilion;
  context.beginPath();
  context.arc(x, top, 4, 0, 2 * Math.PI);
  context.fill();
  context.font = `600 ${labelFont}`;
  context.textBaseline = 'middle';
  const text = `recording ${what}`;
  const right =
    x + 10 + context.measureText(text).width < margins.left + contentWidth(geometry) + margins.right;
  context.textAlign = right ? 'left' : 'right';
  context.fillText(text, right ? x + 10 : x - 10, top + 1);
}
