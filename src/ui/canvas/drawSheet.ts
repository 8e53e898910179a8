import { decimal } from '@/texts/say';
import { marksIn } from '@/core/timeline/markIndex';
import { formatTime } from '@/core/base/units';
import { peakFields, peakFrames } from '@/core/timeline/peaks';
import type { AudioPiece, PieceTable } from '@/core/timeline/pieces';
import { guidesOf } from '@/core/timeline/guides';
import type { Lag } from '@/core/speech/lag';
import { clockOf, type Mark, type Timeline } from '@/core/timeline/timeline';
import type { InkPalette } from '../theme/palette';
import { drawCues } from './drawCues';
import { drawFinished, recordedShade, type FinishedInk } from './drawFinished';
import { drawLineTags, drawMark, drawProposal, type DrawnProposal, type LineTag } from './drawMarks';
import { drawBedNames, drawBeds } from './drawMix';
import { labelFont, line, noteFont } from './pen';
import { RowColumns, spansOf } from './rowColumns';
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

/**
 * Draws source frames [from, to) into a box, in columns of about `framesPerPixel`; what is not there yet
 * stays empty.
 */
export type DrawSpectrum = (
  context: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D,
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

/** A 2D context on the screen or on a bitmap. */
type Ink = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

/** What a row by itself is made of. */
export interface RowInk {
  geometry: SheetGeometry;
  rateHz: number;
  page: InkPalette;
  timeline: Timeline;
  peaks: LookUpPeaks;
  /** Draws a stretch of a source as a spectrum in place of a wave; null while waves are shown. */
  spectrum: DrawSpectrum | null;
  /** The stave edits are for, of several; null for all. */
  focus: string | null;
  /** Voices drawn as they come out of their chain; none when missing. */
  finished?: FinishedInk | null;
  /** Is told where something of a row is not there yet. */
  missing?: () => void;
}

export interface SheetPicture extends RowInk {
  live: LivePeaks | null;
  proposals: readonly DrawnProposal[];
  lineTags: readonly LineTag[];
  /** The cue that is chosen; its passage is shaded. */
  cue: string | null;
  /** How far the voice is behind the guide, along the sheet. */
  lags: readonly Lag[];
  /** Rows that can be seen. */
  firstRow: number;
  lastRow: number;
}

/** A row's ruling, waves and strikes: nothing that reaches into other rows. */
export function drawRowInk(context: Ink, ink: RowInk, row: number): void {
  drawRuling(context, ink, row);
  ink.timeline.tracks.forEach(({ id, table }, stave) => {
    const over = !ink.spectrum && ink.finished?.channels.has(id);
    if (over) context.globalAlpha = recordedShade;
    drawTrack(context, ink, table, stave, row);
    context.globalAlpha = 1;
    if (over && !drawFinished(context, ink, id, stave, row)) ink.missing?.();
    drawEdges(context, ink, table, stave, row);
  });
  drawGuides(context, ink, row);
  drawBeds(context, ink, row);
  drawStrikes(context, ink, row);
}

/**
 * What is drawn over the rows whenever they are: the running take, marks, proposals and the numbers of lines.
 */
export function drawOverRows(context: CanvasRenderingContext2D, picture: SheetPicture): void {
  drawCues(context, picture);
  if (picture.live) drawLive(context, picture, picture.live);
  const { firstRow, lastRow, geometry } = picture;
  const seen = { from: firstRow * geometry.framesPerRow, to: (lastRow + 1) * geometry.framesPerRow };
  for (const mark of marksIn(picture.timeline.marks, seen)) drawMark(context, picture, mark);
  for (const mark of picture.live?.marks ?? []) drawMark(context, picture, mark);
  for (const proposal of picture.proposals) drawProposal(context, picture, proposal);
  drawLineTags(context, picture, picture.lineTags);
  drawLags(context, picture);
}

/** Two of them stand no nearer than this. */
const lagPixels = 72;

/** The lag of the voice, over the stave of the guide it is behind. */
function drawLags(context: CanvasRenderingContext2D, picture: SheetPicture) {
  const { geometry, page, lags, rateHz, firstRow, lastRow, timeline } = picture;
  context.font = noteFont;
  context.textAlign = 'center';
  context.textBaseline = 'bottom';
  context.fillStyle = page.faintInk;
  let last = { row: -1, x: 0 };
  for (const { at, seconds } of lags) {
    const frame = Math.round(at * rateHz);
    const row = Math.floor(frame / geometry.framesPerRow);
    const x = xOfFrame(geometry, frame, row);
    if (row < firstRow || row > lastRow || (row === last.row && x - last.x < lagPixels)) continue;
    const { centre, half } = staveBox(geometry, row, timeline.tracks.length);
    context.fillText(`${decimal(seconds, 1)} s behind`, x, centre - half - 2);
    last = { row, x };
  }
}

function drawRuling(context: Ink, ink: RowInk, row: number) {
  const { geometry, rateHz, page, timeline, focus } = ink;
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
  if (geometry.staves < 2) {
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
  context.fillStyle = page.faintInk;
  guidesOf(timeline).forEach(({ name }, index) => {
    const { centre } = staveBox(geometry, row, tracks.length + index);
    context.fillText(name, margins.left - 10, centre, margins.left - 14);
  });
  drawBedNames(context, ink, row);
}

/** How much of the ink a guide has. */
const guideShade = 0.42;

/** Guides are heard, not written: their waves are paler than those of the voices. */
function drawGuides(context: Ink, ink: RowInk, row: number) {
  const guides = guidesOf(ink.timeline);
  if (guides.length === 0) return;
  context.globalAlpha = guideShade;
  guides.forEach(({ table }, index) => {
    if (table.frames > row * ink.geometry.framesPerRow)
      drawTrack(context, { ...ink, spectrum: null }, table, ink.timeline.tracks.length + index, row);
  });
  context.globalAlpha = 1;
}

/**
 * One stave of a row: however many pieces it has, its ink is a column for each pixel, of what is heard and of
 * what is struck.
 */
function drawTrack(context: Ink, ink: RowInk, table: PieceTable, stave: number, row: number) {
  const { geometry, page } = ink;
  const { centre, half } = staveBox(geometry, row, stave);
  const from = row * geometry.framesPerRow;
  const to = from + geometry.framesPerRow;
  const width = Math.ceil(geometry.width);
  const columns = { heard: new RowColumns(width), struck: new RowColumns(width) };
  const clock = clockOf(ink.timeline);
  for (let i = table.indexAt(from); i < table.pieces.length && table.startOf(i) < to; i++) {
    const piece = table.pieces[i];
    const start = table.startOf(i);
    const range = { from: Math.max(from, start), to: Math.min(to, start + piece.length) };
    for (const [ranges, struck] of [
      [clock.heardIn(range), false] as const,
      [clock.struckIn(range), true] as const,
    ])
      for (const part of ranges) {
        if (piece.kind === 'tone') drawTone(context, ink, part, { row, stave }, struck);
        if (piece.kind !== 'audio') continue;
        if (ink.spectrum)
          drawPieceSpectrum(context, ink, ink.spectrum, piece, start, part, { row, stave, struck });
        else addPiece(struck ? columns.struck : columns.heard, ink, piece, start, part, row);
      }
  }
  context.fillStyle = page.struckInk;
  columns.struck.fill(context, centre, half);
  context.fillStyle = page.ink;
  columns.heard.fill(context, centre, half);
}

/** Adds the part of a piece that stands in a row to the row's columns. */
function addPiece(
  columns: RowColumns,
  { geometry, peaks }: RowInk,
  piece: AudioPiece,
  start: number,
  { from, to }: { from: number; to: number },
  row: number,
) {
  const gain = piece.gainDb === 0 ? 1 : 10 ** (piece.gainDb / 20);
  const offset = piece.from - start;
  spansOf(geometry, { row, from, to }, (x, first, last) => {
    const span = peaks(piece.source, piece.channel, first + offset, last + offset);
    if (span) columns.add(x, span.low * gain, span.high * gain);
  });
}

function drawPieceSpectrum(
  context: Ink,
  { geometry }: RowInk,
  draw: DrawSpectrum,
  piece: AudioPiece,
  start: number,
  { from, to }: { from: number; to: number },
  { row, stave, struck }: { row: number; stave: number; struck: boolean },
) {
  const offset = piece.from - start;
  const { centre, half } = staveBox(geometry, row, stave);
  const x = xOfFrame(geometry, from, row);
  const box = { x, width: xOfFrame(geometry, to, row) - x, top: centre - half, height: 2 * half };
  context.globalAlpha = struck ? 0.35 : 1;
  draw(context, piece.source, piece.channel, from + offset, to + offset, box);
  context.globalAlpha = 1;
}

/** Room tone: two fine dotted lines, as a typesetter rules a blank. */
function drawTone(
  context: Ink,
  { geometry, page }: RowInk,
  { from, to }: { from: number; to: number },
  { row, stave }: { row: number; stave: number },
  struck: boolean,
) {
  const x1 = xOfFrame(geometry, from, row);
  const x2 = xOfFrame(geometry, to, row);
  if (x2 - x1 < 1) return;
  const { centre } = staveBox(geometry, row, stave);
  context.strokeStyle = struck ? page.struckInk : page.sage;
  context.lineWidth = 1.5;
  context.setLineDash([1.5, 3]);
  for (const y of [centre - 3, centre + 3]) line(context, x1, y, x2, y);
  context.setLineDash([]);
}

/** Where pieces are narrower than this their edges would be all there is to see. */
const leastEdgeGap = 5;

/** Where two pieces meet: a hairline; fades as the slope of their gain; a gain of the piece's own in dB. */
function drawEdges(context: Ink, ink: RowInk, table: PieceTable, stave: number, row: number) {
  const { geometry, page } = ink;
  const from = row * geometry.framesPerRow;
  const to = from + geometry.framesPerRow;
  const { centre, half } = staveBox(geometry, row, stave);
  const clock = clockOf(ink.timeline);
  context.lineWidth = 1;
  let lastLabel = -Infinity;
  let lastEdge = -Infinity;
  for (let i = table.indexAt(from); i < table.pieces.length && table.startOf(i) < to; i++) {
    const piece = table.pieces[i];
    const start = table.startOf(i);
    const before = table.pieces[i - 1];
    if (start >= from) {
      const x = xOfFrame(geometry, start, row);
      if (before && !clock.isStruck(start) && !clock.isStruck(start - 1) && x - lastEdge > leastEdgeGap) {
        lastEdge = x;
        context.strokeStyle = page.faintInk;
        context.globalAlpha = piece.joint ? 0.9 : 0.45;
        line(context, x + 0.5, centre - half, x + 0.5, centre + half);
        context.globalAlpha = 1;
      }
      if (piece.kind !== 'silence' && piece.gainDb !== 0 && x - lastLabel > 50) {
        lastLabel = x;
        drawGain(context, page, piece.gainDb, x + 4, centre - half + 4);
      }
    }
    const end = start + piece.length;
    const { fadeIn, fadeOut } = piece;
    if (fadeIn)
      drawSlope(context, ink, { from: start, to: start + Math.min(fadeIn.frames, piece.length) }, true, {
        row,
        stave,
      });
    if (fadeOut)
      drawSlope(context, ink, { from: end - Math.min(fadeOut.frames, piece.length), to: end }, false, {
        row,
        stave,
      });
  }
}

function drawGain(context: Ink, page: InkPalette, gainDb: number, x: number, y: number) {
  context.fillStyle = page.faintInk;
  context.font = labelFont;
  context.textAlign = 'left';
  context.textBaseline = 'middle';
  context.fillText(`${gainDb > 0 ? '+' : '−'}${decimal(Math.abs(gainDb), 1)} dB`, x, y);
}

/** The part of a fade that stands in a row. */
function drawSlope(
  context: Ink,
  { geometry, page }: RowInk,
  range: { from: number; to: number },
  rising: boolean,
  { row, stave }: { row: number; stave: number },
) {
  const { centre, half } = staveBox(geometry, row, stave);
  const height = (frame: number) => {
    const share = (frame - range.from) / Math.max(1, range.to - range.from);
    return centre - half * (rising ? share : 1 - share);
  };
  context.strokeStyle = page.blue;
  for (const { from, to } of rowStretches(geometry, range, row, row))
    line(context, xOfFrame(geometry, from, row), height(from), xOfFrame(geometry, to, row), height(to));
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
    const columns = new RowColumns(Math.ceil(geometry.width));
    spansOf(geometry, stretch, (column, first, last) => {
      const begin = Math.floor((first - startFrame) / peakFrames);
      const end = Math.min(count, Math.max(begin + 1, Math.ceil((last - startFrame) / peakFrames)));
      for (let i = begin; i < end; i++) columns.add(column, peaks[i * peakFields], peaks[i * peakFields + 1]);
    });
    columns.fill(context, centre, half);
  }
}

/** A pen stroke through each struck passage, rising a little, as a hand would draw it. */
function drawStrikes(context: Ink, { geometry, timeline, page }: RowInk, row: number) {
  const from = row * geometry.framesPerRow;
  context.strokeStyle = page.vermilion;
  context.lineWidth = 2;
  const ranges = clockOf(timeline).struckIn({ from, to: from + geometry.framesPerRow });
  timeline.tracks.forEach((_, stave) => {
    const { centre } = staveBox(geometry, row, stave);
    for (const range of ranges)
      line(
        context,
        xOfFrame(geometry, range.from, row),
        centre + 2,
        xOfFrame(geometry, range.to, row),
        centre - 2,
      );
  });
}
