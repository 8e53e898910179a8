import { spectra, spectrogramRows, tileColumns, type SpectrumTile } from '@/state/pictures/spectra';
import type { InkPalette } from '../theme/palette';
import type { DrawSpectrum } from './drawSheet';

const inked = new WeakMap<SpectrumTile, { page: InkPalette; canvas: OffscreenCanvas }>();

const channelsOf = (hex: string) => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16));

/** A tile in the ink of the page: the louder, the darker; the highest frequency on top. */
function inkOf(tile: SpectrumTile, page: InkPalette): OffscreenCanvas {
  const known = inked.get(tile);
  if (known?.page === page) return known.canvas;
  const canvas = new OffscreenCanvas(tileColumns, spectrogramRows);
  const context = canvas.getContext('2d');
  const image = new ImageData(tileColumns, spectrogramRows);
  const [red, green, blue] = channelsOf(page.ink);
  for (let column = 0; column < tileColumns; column++) {
    for (let row = 0; row < spectrogramRows; row++) {
      const level = tile.picture[column * spectrogramRows + row] / 255;
      const at = ((spectrogramRows - 1 - row) * tileColumns + column) * 4;
      image.data[at] = red;
      image.data[at + 1] = green;
      image.data[at + 2] = blue;
      image.data[at + 3] = 255 * level ** 1.6;
    }
  }
  context?.putImageData(image, 0, 0);
  inked.set(tile, { page, canvas });
  return canvas;
}

/**
 * Columns stand for a power of two of frames, at most what a pixel stands for: a tile serves every zoom near
 * it.
 */
const columnFrames = (framesPerPixel: number) =>
  2 ** Math.max(4, Math.min(16, Math.floor(Math.log2(Math.max(1, framesPerPixel)))));

/**
 * Draws spectra at a zoom; tiles that are not there yet are asked for, and the sheet is drawn again when they
 * come.
 */
export function spectrumPen(page: InkPalette, framesPerPixel: number): DrawSpectrum {
  const perColumn = columnFrames(framesPerPixel);
  const perTile = perColumn * tileColumns;
  return (context, source, channel, from, to, { x, width, top, height }) => {
    const perFrame = width / Math.max(1, to - from);
    for (let number = Math.floor(from / perTile); number * perTile < to; number++) {
      const tile = spectra.tile(source, channel, number, perColumn);
      if (!tile) continue;
      const first = Math.max(from, number * perTile);
      const last = Math.min(to, (number + 1) * perTile);
      context.drawImage(
        inkOf(tile, page),
        (first - number * perTile) / perColumn,
        0,
        Math.max(0.01, (last - first) / perColumn),
        spectrogramRows,
        x + (first - from) * perFrame,
        top,
        (last - first) * perFrame,
        height,
      );
    }
  };
}
