import { formatTime } from '@/core/base/units';
import { peakFields, peakFrames } from '@/core/timeline/peaks';
import type { PieceTable } from '@/core/timeline/pieces';
import type { Mark, Timeline } from '@/core/timeline/timeline';
import type { InkPalette } from '../theme/palette';
import { drawLineTags, drawMark, drawProposal, type DrawnProposal, type LineTag } from './drawMarks';
import { drawnHeight, labelFont, line, noteFont } from './pen';
import {
  contentWidth,
  margins,
  rowBox,
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

/** Draws source frames [from, to) into a box, in columns of about `framesPerPixel`; what is not there yet stays empty. */
export type DrawSpectrum = (
  context: CanvasRenderingContext2D,
  source: string,
  channel: number,
  from: number,
  to: number,
  box: { x: number; width: number; top: number; height: number },
) => void;

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
  /** Draws a stretch of a source as a spectrum in place of a wave; null while waves are shown. */
  spectrum: DrawSpectrum | null;
  proposals: readonly DrawnProposal[];
  lineTags: readonly LineTag[];
  /** The stave edits are for, of several; null for all. */
  focus: string | null;
  /** Rows that can be seen. */
  firstRow: number;
  lastRow: number;
}

/** Everything that changes only with edits, scrolling and the running take. The context's origin is the top of the sheet. */
export function drawSheet(context: CanvasRenderingContext2D, picture: SheetPicture): void {
  for (let row = picture.firstRow; row <= picture.lastRow; row++) drawRuling(context, picture, row);
  picture.timeline.tracks.forEach((track, stave) => {
    drawTrack(context, picture, track.table, stave);
    drawEdges(context, picture, track.table, stave);
  });
  if (picture.live) drawLive(context, picture, picture.live);
  drawStrikes(context, picture);
  for (const mark of picture.timeline.marks) drawMark(context, picture, mark);
  for (const mark of picture.live?.marks ?? []) drawMark(context, picture, mark);
  for (const proposal of picture.proposals) drawProposal(context, picture, proposal);
  drawLineTags(context, picture, picture.lineTags);
}

function drawRuling(
  context: CanvasRenderingContext2D,
  { geometry, rateHz, page, timeline, focus }: SheetPicture,
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
  tracks.forEach(({ id, name }, stave) => {
    context.fillStyle = id === focus ? page.blue : page.faintInk;
    context.fillText(name, margins.left - 10, staveBox(geometry, row, stave).centre, margins.left - 14);
  });
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
    const start = table.sheetStartOf(i);
    const range = { from: start, to: start + piece.length };
    if (piece.kind !== 'audio') {
      if (piece.kind === 'tone') drawTone(context, picture, range, stave, piece.struck);
      continue;
    }
    const gain = 10 ** (piece.gainDb / 20);
    context.fillStyle = piece.struck ? page.struckInk : page.ink;
    for (const stretch of rowStretches(geometry, range, firstRow, lastRow)) {
      if (picture.spectrum) {
        context.globalAlpha = piece.struck ? 0.35 : 1;
        const offset = piece.from - start;
        const { centre, half } = staveBox(geometry, stretch.row, stave);
        const x = xOfFrame(geometry, stretch.from, stretch.row);
        picture.spectrum(context, piece.source, piece.channel, stretch.from + offset, stretch.to + offset, {
          x,
          width: xOfFrame(geometry, stretch.to, stretch.row) - x,
          top: centre - half,
          height: 2 * half,
        });
        context.globalAlpha = 1;
        continue;
      }
      drawWave(context, geometry, stretch, stave, (first, last) => {
        const offset = piece.from - start;
        const span = picture.peaks(piece.source, piece.channel, first + offset, last + offset);
        return span && { low: span.low * gain, high: span.high * gain };
      });
    }
  }
}

/** Room tone: two fine dotted lines, as a typesetter rules a blank. */
function drawTone(
  context: CanvasRenderingContext2D,
  { geometry, page, firstRow, lastRow }: SheetPicture,
  range: { from: number; to: number },
  stave: number,
  struck: boolean,
) {
  context.strokeStyle = struck ? page.struckInk : page.sage;
  context.lineWidth = 1.5;
  context.setLineDash([1.5, 3]);
  for (const { row, from, to } of rowStretches(geometry, range, firstRow, lastRow)) {
    const { centre } = staveBox(geometry, row, stave);
    for (const y of [centre - 3, centre + 3])
      line(context, xOfFrame(geometry, from, row), y, xOfFrame(geometry, to, row), y);
  }
  context.setLineDash([]);
}

/** Where two pieces meet: a hairline; fades as the slope of their gain; a gain of the piece's own in dB. */
function drawEdges(
  context: CanvasRenderingContext2D,
  picture: SheetPicture,
  table: PieceTable,
  stave: number,
) {
  const { geometry, page, firstRow, lastRow } = picture;
  const from = firstRow * geometry.framesPerRow;
  const to = (lastRow + 1) * geometry.framesPerRow;
  context.lineWidth = 1;
  let lastLabel = -Infinity;
  for (let i = table.indexAtSheet(from); i < table.pieces.length && table.sheetStartOf(i) < to; i++) {
    const piece = table.pieces[i];
    const start = table.sheetStartOf(i);
    const row = Math.floor(start / geometry.framesPerRow);
    const { centre, half } = staveBox(geometry, row, stave);
    const x = xOfFrame(geometry, start, row);
    const before = table.pieces[i - 1];
    context.strokeStyle = page.faintInk;
    if (before && row >= firstRow && !piece.struck && !before.struck) {
      context.globalAlpha = piece.joint ? 0.9 : 0.45;
      line(context, x + 0.5, centre - half, x + 0.5, centre + half);
      context.globalAlpha = 1;
    }
    if (
      piece.kind !== 'silence' &&
      piece.gainDb !== 0 &&
      row >= firstRow &&
      start - lastLabel > geometry.framesPerRow / 16
    ) {
      lastLabel = start;
      context.fillStyle = page.faintInk;
      context.font = labelFont;
      context.textAlign = 'left';
      context.textBaseline = 'middle';
      const sign = piece.gainDb > 0 ? '+' : '−';
      context.fillText(`${sign}${Math.abs(piece.gainDb).toFixed(1)} dB`, x + 4, centre - half + 4);
    }
    const slope = (range: { from: number; to: number }, rising: boolean) => {
      context.strokeStyle = page.blue;
      const length = range.to - range.from;
      for (const stretch of rowStretches(geometry, range, firstRow, lastRow)) {
        const box = staveBox(geometry, stretch.row, stave);
        const y = (frame: number) => {
          const share = (frame - range.from) / length;
          return box.centre - box.half * (rising ? share : 1 - share);
        };
        line(
          context,
          xOfFrame(geometry, stretch.from, stretch.row),
          y(stretch.from),
          xOfFrame(geometry, stretch.to, stretch.row),
          y(stretch.to),
        );
      }
    };
    if (piece.fadeIn) slope({ from: start, to: start + Math.min(piece.fadeIn.frames, piece.length) }, true);
    const end = start + piece.length;
    if (piece.fadeOut) slope({ from: end - Math.min(piece.fadeOut.frames, piece.length), to: end }, false);
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
