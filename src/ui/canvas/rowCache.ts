import { margins, rowHeight } from './sheetGeometry';
import { drawRowInk, type LookUpPeaks, type RowInk } from './drawSheet';

/** Rows kept; a window shows about seven. */
const keptRows = 40;

interface Row {
  bitmap: OffscreenCanvas;
  /** Everything that it shows was there when it was made, or else when `loads` had arrived. */
  complete: boolean;
  loads: number;
}

/** All of a timeline that rows show: of the levels and chains in it those of beds. */
const shownOf = ({ tracks, struck, guides, mix }: RowInk['timeline']): unknown[] => [
  ...[tracks, struck, guides, mix?.beds],
  ...(mix?.beds ?? []).map(({ id }) => mix?.strips.find((strip) => strip.id === id)),
];

/**
 * What a row looks like by itself, as bitmaps: scrolling then copies rows and draws only those that come into
 * sight. Anything that changes how rows look empties it. Marks, proposals and the running take reach over
 * rows and are drawn on top every time.
 */
export class RowCache {
  private rows = new Map<number, Row>();
  private made: readonly unknown[] = [];
  private finishedVersion: number | undefined;
  private missing = false;

  /** Whether any of the rows drawn last would look different if more had arrived. */
  get waits(): boolean {
    return this.missing;
  }

  /**
   * Draws the visible rows; `loads` counts peaks and spectra that have arrived: rows that lack some are made
   * anew when it has changed. The context's origin is the top of the sheet.
   */
  draw(context: CanvasRenderingContext2D, ink: RowInk, firstRow: number, lastRow: number, loads: number) {
    const ratio = window.devicePixelRatio || 1;
    const { width, framesPerRow, staves, staveScale } = ink.geometry;
    const made = [
      ...[ink.page, ink.rateHz, ink.focus, ink.spectrum !== null, ink.finished?.channels],
      ...[width, framesPerRow, staves, staveScale, ratio],
      ...shownOf(ink.timeline),
    ];
    if (made.length !== this.made.length || made.some((value, index) => value !== this.made[index]))
      this.rows.clear();
    this.made = made;
    // A voice that comes out of its chain otherwise is drawn when it is there; as it was until then.
    if (ink.finished?.version !== this.finishedVersion)
      for (const row of this.rows.values()) row.complete = false;
    this.finishedVersion = ink.finished?.version;
    const height = rowHeight(ink.geometry);
    this.missing = false;
    for (let number = firstRow; number <= lastRow; number++) {
      const known = this.rows.get(number);
      const stands = known && (known.complete || known.loads === loads);
      if (!stands) this.rows.delete(number);
      const row = stands ? known : this.make(ink, number, ratio, loads, known ?? this.oldest());
      this.rows.delete(number);
      this.rows.set(number, row);
      if (!row.complete) this.missing = true;
      context.drawImage(row.bitmap, 0, margins.top + number * height, width, height);
    }
  }

  /** The row that has not been seen for longest, when there are enough: it is no longer kept. */
  private oldest(): Row | undefined {
    if (this.rows.size < keptRows) return undefined;
    const [[number, row]] = this.rows;
    this.rows.delete(number);
    return row;
  }

  /** Draws a row, where it can on the bitmap of one that is not needed any more. */
  private make(ink: RowInk, row: number, ratio: number, loads: number, spent: Row | undefined): Row {
    const height = rowHeight(ink.geometry);
    // A spectrum does not say what it lacks.
    let complete = ink.spectrum === null;
    const peaks: LookUpPeaks = (...place) => {
      const found = ink.peaks(...place);
      if (!found) complete = false;
      return found;
    };
    const size = {
      width: Math.max(1, Math.round(ink.geometry.width * ratio)),
      height: Math.max(1, Math.round(height * ratio)),
    };
    // A new bitmap for each row that comes into sight would be cleared up in the midst of scrolling.
    const bitmap = spent?.bitmap ?? new OffscreenCanvas(size.width, size.height);
    const context = bitmap.getContext('2d');
    if (context) {
      context.resetTransform();
      context.clearRect(0, 0, size.width, size.height);
      context.setTransform(ratio, 0, 0, ratio, 0, -(margins.top + row * height) * ratio);
      drawRowInk(context, { ...ink, peaks, missing: () => (complete = false) }, row);
    }
    return { bitmap, complete, loads };
  }
}
