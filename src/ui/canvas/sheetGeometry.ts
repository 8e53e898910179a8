/**
 * Where things stand on the sheet, in CSS pixels; y counts from the top of the whole sheet, not of the
 * window.
 */
export interface SheetGeometry {
  width: number;
  framesPerRow: number;
  staves: number;
  /** Height of a stave over the usual one. */
  staveScale: number;
  /** Sheet frames drawn so far, the running take included. */
  frames: number;
}

export const margins = { left: 78, right: 26, top: 14 };
const usualStaveHeight = 72;
const rowGap = 30;
export const labelHeight = 18;

type Heights = Pick<SheetGeometry, 'staves' | 'staveScale'>;
const staveHeightOf = ({ staveScale }: Heights) => usualStaveHeight * staveScale;

export const rowHeight = (geometry: Heights) => geometry.staves * staveHeightOf(geometry) + rowGap;
export const contentWidth = ({ width }: Pick<SheetGeometry, 'width'>) =>
  Math.max(1, width - margins.left - margins.right);

/** Rows with audio, and one more to go on writing in. */
export const rowCount = ({ frames, framesPerRow }: SheetGeometry) => Math.floor(frames / framesPerRow) + 1;

export const sheetHeight = (geometry: SheetGeometry) =>
  margins.top * 2 + rowCount(geometry) * rowHeight(geometry);

/** Centre line and half height of a stave of a row. */
export function staveBox(geometry: Heights, row: number, stave: number) {
  const staveHeight = staveHeightOf(geometry);
  const top = margins.top + row * rowHeight(geometry) + labelHeight + stave * staveHeight;
  return { centre: top + staveHeight / 2, half: staveHeight / 2 - 4 };
}

/** Top and bottom of a row's staves, without its label. */
export function rowBox(geometry: Heights, row: number) {
  const top = margins.top + row * rowHeight(geometry) + labelHeight;
  return { top, bottom: top + geometry.staves * staveHeightOf(geometry) };
}

export const rowOfFrame = ({ framesPerRow }: Pick<SheetGeometry, 'framesPerRow'>, frame: number) =>
  Math.floor(frame / framesPerRow);

export const xOfFrame = (geometry: SheetGeometry, frame: number, row = rowOfFrame(geometry, frame)) =>
  margins.left + ((frame - row * geometry.framesPerRow) / geometry.framesPerRow) * contentWidth(geometry);

/** The frame under a point; beyond the ends of a row its first or last frame. */
export function frameAt(geometry: SheetGeometry, x: number, y: number): number {
  const row = Math.max(0, Math.floor((y - margins.top) / rowHeight(geometry)));
  const fraction = Math.min(1, Math.max(0, (x - margins.left) / contentWidth(geometry)));
  const frame = Math.round((row + fraction) * geometry.framesPerRow);
  return Math.min(frame, geometry.frames);
}

/** A range cut into its stretches on each row between `firstRow` and `lastRow`. */
export function rowStretches(
  geometry: SheetGeometry,
  range: { from: number; to: number },
  firstRow: number,
  lastRow: number,
): { row: number; from: number; to: number }[] {
  const { framesPerRow } = geometry;
  const stretches = [];
  const first = Math.max(firstRow, Math.floor(range.from / framesPerRow));
  const last = Math.min(lastRow, Math.floor(Math.max(range.from, range.to - 1) / framesPerRow));
  for (let row = first; row <= last; row++) {
    stretches.push({
      row,
      from: Math.max(range.from, row * framesPerRow),
      to: Math.min(range.to, (row + 1) * framesPerRow),
    });
  }
  return stretches;
}
