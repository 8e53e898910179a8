import { say } from '@/texts/say';
import type { LevelReading } from '@/core/loudness/levels';
import type { InkPalette } from '../theme/palette';

export interface LevelPicture {
  width: number;
  height: number;
  page: InkPalette;
  aim: { min: number; max: number };
}

const scale = [0, -6, -12, -18, -24, -36, -48, -60];
const font = "11px 'Atkinson Hyperlegible Next Variable', sans-serif";

/** With the line of the held peak, which is wider than the bar. */
export const barWidth = 26;
const barHalf = 9;
const pad = 8;

/** Where a level stands, from −60 to 0 dBFS, in CSS pixels from the top. */
const levelY = (db: number, height: number) =>
  pad + (Math.min(0, Math.max(-60, db)) / -60) * (height - 2 * pad);

/** Where the peak and the held peak end, in whole CSS pixels. */
export const shownLevels = ({ peakDb, heldDb }: Pick<LevelReading, 'peakDb' | 'heldDb'>, height: number) =>
  [peakDb, heldDb].map((db) => Math.round(levelY(db, height)));

/** The level as one ink bar, the held peak as a line: all that moves of a column. */
export function drawBar(
  context: CanvasRenderingContext2D,
  height: number,
  page: InkPalette,
  reading: LevelReading,
): void {
  const [peak, held] = shownLevels(reading, height);
  const bottom = levelY(-60, height);
  context.fillStyle = reading.word === 'Clipped' ? page.vermilion : page.ink;
  context.fillRect(barWidth / 2 - barHalf, peak, 2 * barHalf, bottom - peak);
  if (held >= bottom) return;
  context.fillStyle = page.ink;
  context.fillRect(0, held - 1, barWidth, 2);
}

/** What a bar of −60 to 0 dBFS stands on: the aim as a bracketed band, and the scale. */
export function drawLevels(
  context: CanvasRenderingContext2D,
  { width, height, page, aim }: LevelPicture,
): void {
  const yOf = (db: number) => levelY(db, height);
  const trough = { left: width / 2 - barHalf - 6, width: 2 * barHalf + 12 };
  context.fillStyle = page.wash;
  context.fillRect(trough.left, yOf(0), trough.width, yOf(-60) - yOf(0));
  drawAim(context, page, {
    top: yOf(aim.max),
    bottom: yOf(aim.min),
    left: trough.left,
    right: trough.left + trough.width,
  });
  drawScale(context, page, trough.left - 10, yOf);
}

function drawAim(
  context: CanvasRenderingContext2D,
  page: InkPalette,
  box: { top: number; bottom: number; left: number; right: number },
) {
  context.fillStyle = page.aim;
  context.fillRect(box.left, box.top, box.right - box.left, box.bottom - box.top);
  context.strokeStyle = page.sage;
  context.lineWidth = 1.5;
  for (const [edge, inward] of [
    [box.left - 4, 5],
    [box.right + 4, -5],
  ]) {
    context.beginPath();
    context.moveTo(edge + inward, box.top);
    context.lineTo(edge, box.top);
    context.lineTo(edge, box.bottom);
    context.lineTo(edge + inward, box.bottom);
    context.stroke();
  }
  context.fillStyle = page.sage;
  context.font = font;
  context.textAlign = 'left';
  context.textBaseline = 'middle';
  context.fillText(say`aim`, box.right + 10, (box.top + box.bottom) / 2);
}

function drawScale(
  context: CanvasRenderingContext2D,
  page: InkPalette,
  right: number,
  yOf: (db: number) => number,
) {
  context.fillStyle = page.faintInk;
  context.font = font;
  context.textAlign = 'right';
  context.textBaseline = 'middle';
  for (const db of scale) context.fillText(db === 0 ? '0' : `−${-db}`, right, yOf(db));
}
