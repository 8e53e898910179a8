import type { LevelReading } from '@/core/loudness/levels';
import type { InkPalette } from '../theme/palette';

export interface LevelPicture {
  width: number;
  height: number;
  page: InkPalette;
  aim: { min: number; max: number };
  reading: LevelReading;
}

const scale = [0, -6, -12, -18, -24, -36, -48, -60];
const font = "11px 'Atkinson Hyperlegible Next Variable', sans-serif";

/** One ink bar from −60 to 0 dBFS, the aim as a bracketed band, the held peak as a line. */
export function drawLevels(
  context: CanvasRenderingContext2D,
  { width, height, page, aim, reading }: LevelPicture,
): void {
  const pad = 8;
  const yOf = (db: number) => pad + (Math.min(0, Math.max(-60, db)) / -60) * (height - 2 * pad);
  const bar = { left: width / 2 - 9, right: width / 2 + 9 };
  const trough = { left: bar.left - 6, width: bar.right - bar.left + 12 };
  context.fillStyle = page.wash;
  context.fillRect(trough.left, yOf(0), trough.width, yOf(-60) - yOf(0));
  drawAim(context, page, {
    top: yOf(aim.max),
    bottom: yOf(aim.min),
    left: trough.left,
    right: trough.left + trough.width,
  });
  drawScale(context, page, trough.left - 10, yOf);
  if (reading.peakDb > -60) {
    context.fillStyle = reading.word === 'Clipped' ? page.vermilion : page.ink;
    context.fillRect(bar.left, yOf(reading.peakDb), bar.right - bar.left, yOf(-60) - yOf(reading.peakDb));
  }
  if (reading.heldDb > -60) {
    context.fillStyle = page.ink;
    context.fillRect(bar.left - 4, yOf(reading.heldDb) - 1, bar.right - bar.left + 8, 2);
  }
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
  context.fillText('aim', box.right + 10, (box.top + box.bottom) / 2);
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
