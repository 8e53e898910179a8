import { say } from '@/texts/say';
import { clamp } from '@/core/base/units';
import { equaliserSections } from '@/core/chain/chained';
import { bandSettings } from '@/core/chain/settings';
import { responseDb, type Band, type BandShape } from '@/core/dsp/cookbook';
import { thirdOctavesHz } from '@/core/dsp/longTermSpectrum';

/** The picture of an equaliser, in units of its view box. */
export const width = 272;
export const height = 150;
export const inner = { left: 2, right: 270, top: 6, bottom: 134 } as const;
export const hertzRange = { from: 30, to: 18_000 } as const;
/** The picture reaches so far up and down; further by typing. */
export const mostDb = 12;
/** Levels of the spectrum behind the curve. */
const spectrumDb = { top: -20, bottom: -100 } as const;
const points = 134;

export const xOf = (hertz: number) =>
  inner.left +
  (Math.log(hertz / hertzRange.from) / Math.log(hertzRange.to / hertzRange.from)) *
    (inner.right - inner.left);
export const hertzOf = (x: number) =>
  hertzRange.from *
  (hertzRange.to / hertzRange.from) ** clamp((x - inner.left) / (inner.right - inner.left), 0, 1);
const middle = (inner.top + inner.bottom) / 2;
export const yOf = (db: number) =>
  middle - (clamp(db, -mostDb, mostDb) / mostDb) * ((inner.bottom - inner.top) / 2);
export const dbOf = (y: number) =>
  clamp(((middle - y) / ((inner.bottom - inner.top) / 2)) * mostDb, -mostDb, mostDb);

/** What shapes are called. */
export const shapeNames: Readonly<Record<BandShape, string>> = {
  bell: say`Bell`,
  lowShelf: say`Low shelf`,
  highShelf: say`High shelf`,
  highPass: say`High-pass`,
  lowPass: say`Low-pass`,
  notch: say`Notch`,
};
/** Whether a shape goes up and down. */
export const hasGain = (shape: BandShape) =>
  shape === 'bell' || shape === 'lowShelf' || shape === 'highShelf';

const rounded = (hertz: number) => Number(hertz.toPrecision(hertz < 1000 ? 2 : 3));
/** A band inside its limits, in steps people use. */
export const bounded = (band: Band): Band => ({
  ...band,
  hertz: clamp(rounded(band.hertz), bandSettings.hertz.from, bandSettings.hertz.to),
  gainDb: hasGain(band.shape)
    ? clamp(Math.round(2 * band.gainDb) / 2, bandSettings.gainDb.from, bandSettings.gainDb.to)
    : 0,
  q: clamp(Math.round(10 * band.q) / 10, bandSettings.q.from, bandSettings.q.to),
});

/** What bands do together, as a path. */
export function curveOf(bands: readonly Band[], rateHz: number): string {
  const sections = equaliserSections({ bands }, rateHz);
  return Array.from({ length: points }, (_, i) => {
    const x = inner.left + (i / (points - 1)) * (inner.right - inner.left);
    return `${i === 0 ? 'M' : 'L'}${x.toFixed(1)} ${yOf(responseDb(sections, hertzOf(x), rateHz)).toFixed(1)}`;
  }).join('');
}

/** A long-term spectrum behind the curve, as a path. */
export function spectrumPath(bands: readonly number[]): string {
  const y = (db: number) => {
    const share = (spectrumDb.top - Math.max(spectrumDb.bottom, db)) / (spectrumDb.top - spectrumDb.bottom);
    return inner.top + clamp(share, 0, 1) * (inner.bottom - inner.top);
  };
  const corners = bands.flatMap((db, band) => {
    const hertz = thirdOctavesHz[band];
    return hertz < hertzRange.from || hertz > hertzRange.to
      ? []
      : [`${xOf(hertz).toFixed(1)} ${y(db).toFixed(1)}`];
  });
  return corners.length === 0
    ? ''
    : `M${corners.join('L')}L${inner.right} ${inner.bottom}L${inner.left} ${inner.bottom}Z`;
}
