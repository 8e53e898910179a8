import { margins, rowHeight } from './sheetGeometry';
import { drawRowInk, type RowInk } from './drawSheet';

/** Rows kept; a window shows about seven. */
const keptRows = 40;

/**
 * What a row looks like by itself, as bitmaps: scrolling then copies rows and draws only those that come into
 * sight. Anything that changes how rows look empties it. Marks, proposals and the running take reach over
 * rows and are drawn on top every time.
 */
export class RowCache {
  private rows = new Map<number, OffscreenCanvas>();
  private made: readonly unknown[] = [];

  /**
   * Draws the visible rows; `loads` counts peaks and spectra that have arrived. The context's origin is the
   * top of the sheet.
   */
  draw(context: CanvasRenderingContext2D, ink: RowInk, firstRow: number, lastRow: number, loads: number) {
    const ratio = window.devicePixelRatio || 1;
    const { width, framesPerRow, staves, staveScale } = ink.geometry;
    const made = [
      ...[ink.timeline, ink.page, ink.rateHz, ink.focus, ink.spectrum !== null],
      ...[width, framesPerRow, staves, staveScale, loads, ratio],
    ];
    if (made.some((value, index) => value !== this.made[index])) this.rows.clear();
    this.made = made;
    const height = rowHeight(ink.geometry);
    for (let row = firstRow; row <= lastRow; row++) {
      const bitmap = this.rows.get(row) ?? this.make(ink, row, ratio, height);
      this.rows.delete(row);
      this.rows.set(row, bitmap);
      context.drawImage(bitmap, 0, margins.top + row * height, width, height);
    }
    for (const row of this.rows.keys()) {
      if (this.rows.size <= keptRows) break;
      this.rows.delete(row);
    }
  }

  private make(ink: RowInk, row: number, ratio: number, height: number): OffscreenCanvas {
    const canvas = new OffscreenCanvas(
      Math.max(1, Math.round(ink.geometry.width * ratio)),
      Math.max(1, Math.round(height * ratio)),
    );
    const context = canvas.getContext('2d');
    if (context) {
      context.setTransform(ratio, 0, 0, ratio, 0, -(margins.top + row * height) * ratio);
      drawRowInk(context, ink, row);
    }
    return canvas;
  }
}
