import { histogramFloorDb, levelHistogram, loudestPlaces, silentStretches } from './places';

const hop = 0.01;
const hops = (seconds: number, value: number) => Array<number>(Math.round(seconds / hop)).fill(value);

test('the loudest place of each half second, loudest first, those alike in order of time', () => {
  const peaks = [...hops(2, 0.1)];
  peaks[20] = 0.5;
  peaks[30] = 0.4;
  peaks[110] = 1;
  peaks[170] = 0.5;
  expect(loudestPlaces(peaks, hop)).toEqual([
    { at: 1.1, dbfs: 0 },
    { at: 0.2, dbfs: expect.closeTo(-6.02, 2) as number },
    { at: 1.7, dbfs: expect.closeTo(-6.02, 2) as number },
    { at: 0.5, dbfs: expect.closeTo(-20, 6) as number },
  ]);
  // The last stretch may be short, silence is no place, and a hundred are enough.
  expect(loudestPlaces([...hops(0.5, 0), 0.2], hop)).toEqual([
    { at: 0.5, dbfs: expect.closeTo(-13.98, 2) as number },
  ]);
  expect(loudestPlaces(hops(60, 0.1), hop)).toHaveLength(100);
  expect(loudestPlaces([], hop)).toEqual([]);
});

test('digital silence of 50 ms and more is told, shorter gaps and quiet rooms are not', () => {
  const means = Float64Array.from([
    ...hops(0.05, 0),
    ...hops(0.1, 1e-3),
    ...hops(0.04, 0),
    ...hops(0.1, 1.01e-12),
    ...hops(0.06, 1e-12),
  ]);
  expect(silentStretches(means, hop)).toEqual([
    { from: 0, to: 0.05 },
    { from: expect.closeTo(0.29, 9) as number, to: expect.closeTo(0.35, 9) as number },
  ]);
  expect(silentStretches(Float64Array.from(hops(1, 1)), hop)).toEqual([]);
});

test('the histogram has the share of 50 ms windows at each decibel', () => {
  const power = (db: number) => 10 ** (db / 10);
  const means = Float64Array.from([
    ...hops(0.5, power(-20.5)),
    ...hops(0.25, power(-60)),
    ...hops(0.2, power(2)),
    ...hops(0.05, power(-100)),
  ]);
  const bins = levelHistogram(means);
  expect(bins).toHaveLength(90);
  expect(bins[-21 - histogramFloorDb]).toBeCloseTo(0.5);
  expect(bins[-60 - histogramFloorDb] + bins[-61 - histogramFloorDb]).toBeCloseTo(0.25);
  // Over full scale counts as the last, under the floor as none.
  expect(bins[89]).toBeCloseTo(0.2);
  expect(bins.reduce((sum, share) => sum + share, 0)).toBeCloseTo(0.95);
  expect(levelHistogram(new Float64Array(3)).every((share) => share === 0)).toBe(true);
});
