import {
  contentWidth,
  frameAt,
  margins,
  rowCount,
  rowHeight,
  rowStretches,
  xOfFrame,
  type SheetGeometry,
} from './sheetGeometry';

const geometry: SheetGeometry = {
  width: 842,
  framesPerRow: 576_000,
  staves: 1,
  staveScale: 1,
  frames: 1_500_000,
};

test('a frame and its place on the sheet give each other back', () => {
  for (const frame of [0, 1, 575_999, 576_000, 1_000_000, 1_499_999]) {
    const row = Math.floor(frame / geometry.framesPerRow);
    const y = margins.top + row * rowHeight(geometry) + 40;
    const pixel = geometry.framesPerRow / contentWidth(geometry);
    expect(Math.abs(frameAt(geometry, xOfFrame(geometry, frame), y) - frame)).toBeLessThan(pixel);
  }
});

test('points beyond the ends of a row, and below the last row, are held to what is there', () => {
  expect(frameAt(geometry, -50, margins.top + 10)).toBe(0);
  expect(frameAt(geometry, 5000, margins.top + 10)).toBe(576_000);
  expect(frameAt(geometry, 400, 1e6)).toBe(geometry.frames);
  expect(frameAt(geometry, 400, -1e6)).toBeLessThanOrEqual(576_000);
});

test('a range is cut at the ends of rows and to the rows that are seen', () => {
  expect(rowStretches(geometry, { from: 100, to: 1_200_000 }, 0, 9)).toEqual([
    { row: 0, from: 100, to: 576_000 },
    { row: 1, from: 576_000, to: 1_152_000 },
    { row: 2, from: 1_152_000, to: 1_200_000 },
  ]);
  expect(rowStretches(geometry, { from: 100, to: 1_200_000 }, 1, 1)).toHaveLength(1);
  expect(rowStretches(geometry, { from: 576_000, to: 576_000 }, 0, 9)).toEqual([
    { row: 1, from: 576_000, to: 576_000 },
  ]);
});

test('there is always a row to go on writing in', () => {
  expect(rowCount({ ...geometry, frames: 0 })).toBe(1);
  expect(rowCount({ ...geometry, frames: 576_000 })).toBe(2);
});
