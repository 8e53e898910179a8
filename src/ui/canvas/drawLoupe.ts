import type { SheetClock } from '@/core/timeline/clock';
import { heardTable } from '@/core/timeline/heard';
import type { JoinLengths } from '@/core/timeline/joins';
import { heardPieces, risingGain, fallingGain, type Ramp, type SourceLengths } from '@/core/timeline/joins';
import type { PieceTable } from '@/core/timeline/pieces';
import type { InkPalette } from '../theme/palette';
import { line } from './pen';

export interface LoupePicture {
  width: number;
  height: number;
  page: InkPalette;
  /** Sheet frame at the left edge, and frames for a pixel; under 1 a sample has several pixels. */
  from: number;
  framesPerPixel: number;
  table: PieceTable;
  clock: SheetClock;
  /** Sheet audio from `samplesFrom` on, as it sounds with its gain and without joins; struck passages too. */
  samples: Float32Array;
  samplesFrom: number;
  caret: number;
  selection: { from: number; to: number } | null;
  head: number | null;
  joins: JoinLengths;
  lengths: SourceLengths;
  spectrum: ((context: CanvasRenderingContext2D) => void) | null;
}

const edge = 8;

export const loupeX = (
  { from, framesPerPixel }: Pick<LoupePicture, 'from' | 'framesPerPixel'>,
  frame: number,
) => (frame - from) / framesPerPixel;

/** The strip around the caret: the wave down to single samples, with the ramps of the joins in it. */
export function drawLoupe(context: CanvasRenderingContext2D, picture: LoupePicture): void {
  const { width, height, page, caret, selection, head } = picture;
  const middle = height / 2;
  context.strokeStyle = page.rule;
  context.lineWidth = 1;
  line(context, 0, middle + 0.5, width, middle + 0.5);
  if (picture.spectrum) picture.spectrum(context);
  else drawWave(context, picture);
  drawStruck(context, picture);
  drawJoins(context, picture);
  if (selection) {
    const x1 = loupeX(picture, selection.from);
    const x2 = loupeX(picture, selection.to);
    context.fillStyle = page.selection;
    context.fillRect(x1, edge, x2 - x1, height - 2 * edge);
  }
  const at = (frame: number, colour: string, wide: number) => {
    const x = loupeX(picture, frame);
    if (x < 0 || x > width) return;
    context.strokeStyle = colour;
    context.lineWidth = wide;
    line(context, x, 0, x, height);
  };
  at(caret, page.blue, 1.5);
  if (head !== null) at(head, page.blue, 2);
}

function drawWave(context: CanvasRenderingContext2D, picture: LoupePicture) {
  const { width, height, page, from, framesPerPixel, samples, samplesFrom, clock } = picture;
  const middle = height / 2;
  const half = middle - edge;
  const loudest = samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0.02);
  const y = (value: number) => middle - (value / Math.max(loudest, 0.02)) * half;
  const value = (frame: number) => samples[frame - samplesFrom] ?? 0;
  if (framesPerPixel > 1) {
    for (let x = 0; x < width; x++) {
      const first = Math.floor(from + x * framesPerPixel);
      const last = Math.floor(from + (x + 1) * framesPerPixel);
      let low = Infinity;
      let high = -Infinity;
      for (let frame = first; frame <= last; frame++) {
        low = Math.min(low, value(frame));
        high = Math.max(high, value(frame));
      }
      context.fillStyle = clock.isStruck(first) ? page.struckInk : page.ink;
      context.fillRect(x, y(high), 1, Math.max(1, y(low) - y(high)));
    }
    return;
  }
  context.strokeStyle = page.ink;
  context.lineWidth = 1.25;
  context.beginPath();
  const last = Math.ceil(from + width * framesPerPixel);
  for (let frame = Math.floor(from); frame <= last; frame++)
    context.lineTo(loupeX(picture, frame), y(value(frame)));
  context.stroke();
  if (framesPerPixel > 1 / 4) return;
  context.fillStyle = page.ink;
  for (let frame = Math.floor(from); frame <= last; frame++) {
    context.beginPath();
    context.arc(loupeX(picture, frame), y(value(frame)), 2.2, 0, 2 * Math.PI);
    context.fill();
  }
}

function drawStruck(context: CanvasRenderingContext2D, picture: LoupePicture) {
  const { width, height, page, from, framesPerPixel, clock } = picture;
  const first = Math.max(0, Math.floor(from));
  const last = Math.min(clock.sheetFrames, Math.ceil(from + width * framesPerPixel));
  if (last <= first) return;
  context.strokeStyle = page.vermilion;
  context.lineWidth = 2;
  for (const range of clock.struckIn({ from: first, to: last }))
    line(context, loupeX(picture, range.from), height / 2 + 2, loupeX(picture, range.to), height / 2 - 2);
}

/**
 * Falling and rising ramps where pieces meet; the rising one is drawn where its piece begins on the sheet.
 */
function drawJoins(context: CanvasRenderingContext2D, picture: LoupePicture) {
  const { width, height, page, from, framesPerPixel, table, clock, joins, lengths } = picture;
  const first = Math.max(0, Math.floor(from));
  const last = Math.min(clock.sheetFrames, Math.ceil(from + width * framesPerPixel));
  if (last <= first) return;
  const heardFrom = clock.sheetToHeard(first);
  const heardTo = Math.max(heardFrom + 1, clock.sheetToHeard(last));
  context.lineWidth = 1.5;
  context.strokeStyle = page.blue;
  for (const piece of heardPieces(heardTable(table, clock), heardFrom, heardTo, joins, lengths)) {
    const end = clock.heardToSheet(piece.end - 1) + 1;
    const start = clock.heardToSheet(piece.start);
    if (piece.joinOut) ramp(context, picture, piece.joinOut, end - piece.end, fallingGain, height);
    if (piece.joinIn) ramp(context, picture, piece.joinIn, start - piece.start, risingGain, height);
  }
}

function ramp(
  context: CanvasRenderingContext2D,
  picture: LoupePicture,
  shape: Ramp,
  shift: number,
  gain: (shape: Ramp, frame: number) => number,
  height: number,
) {
  const x1 = loupeX(picture, shape.from + shift);
  const x2 = loupeX(picture, shape.to + shift);
  context.fillStyle = picture.page.selection;
  context.fillRect(x1, edge, x2 - x1, height - 2 * edge);
  context.beginPath();
  const steps = 24;
  for (let i = 0; i <= steps; i++) {
    const frame = shape.from + ((shape.to - shape.from) * i) / steps - 0.5;
    context.lineTo(
      loupeX(picture, frame + shift + 0.5),
      height - edge - gain(shape, frame) * (height - 2 * edge),
    );
  }
  context.stroke();
}
