import { drawnHeight } from './pen';
import { contentWidth, xOfFrame, type SheetGeometry } from './sheetGeometry';

type Ink = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

/** Lowest and highest value for each pixel of a row; where nothing sounds low is over high. */
export class RowColumns {
  readonly low: Float32Array;
  readonly high: Float32Array;

  constructor(width: number) {
    this.low = new Float32Array(width).fill(Infinity);
    this.high = new Float32Array(width).fill(-Infinity);
  }

  add(x: number, low: number, high: number) {
    if (x < 0 || x >= this.low.length) return;
    if (low < this.low[x]) this.low[x] = low;
    if (high > this.high[x]) this.high[x] = high;
  }

  /** Draws and empties them. */
  fill(context: Ink, centre: number, half: number) {
    for (let x = 0; x < this.low.length; x++) {
      if (this.low[x] > this.high[x]) continue;
      const top = centre - drawnHeight(Math.min(1, this.high[x])) * half;
      const bottom = centre - drawnHeight(Math.max(-1, this.low[x])) * half;
      context.fillRect(x, top, 1, Math.max(1, bottom - top));
    }
    this.low.fill(Infinity);
    this.high.fill(-Infinity);
  }
}

/** Calls `each` for every pixel of a stretch of a row, with the frames it stands for. */
export function spansOf(
  geometry: SheetGeometry,
  { row, from, to }: { row: number; from: number; to: number },
  each: (x: number, first: number, last: number) => void,
) {
  const perPixel = geometry.framesPerRow / contentWidth(geometry);
  const x0 = xOfFrame(geometry, from, row);
  const x1 = xOfFrame(geometry, to, row);
  for (let x = Math.floor(x0); x < x1; x++) {
    const first = Math.max(from, Math.floor(from + (x - x0) * perPixel));
    const last = Math.min(to, Math.ceil(from + (x + 1 - x0) * perPixel));
    if (last > first) each(x, first, last);
  }
}
