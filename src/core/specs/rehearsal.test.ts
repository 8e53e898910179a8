import { measurementWith } from '../testing/measurements';
import type { Output } from '../timeline/output';
import { findSpec } from './builtIn';
import { rehearseLevels } from './rehearsal';
import { noLimits, type Spec } from './spec';

const base = findSpec('Dry voice');
if (!base) throw new Error('no spec');
const spec: Spec = {
  ...base,
  unprocessed: false,
  limits: { ...noLimits, rmsDbfs: { min: -23, max: -18 }, samplePeakDbfs: { min: null, max: -3 } },
};

/** A voice at −30 dBFS RMS whose peaks a limiter takes `lost` dB of level with, `reduces` dB at most. */
function voice({ rms = -30, peak = -8, offset = 0, lost = 0, reduces = 3 }) {
  const tried: (Output | undefined)[] = [];
  const measure = (output: Output | undefined) => {
    tried.push(output);
    const gain = output?.gainDb ?? 0;
    const dc = offset - (output?.dcOffsets[0] ?? 0);
    const limited = output?.ceiling ? lost : 0;
    return Promise.resolve({
      measurement: measurementWith({
        rmsDbfs: rms + gain - limited,
        samplePeakDbfs: output?.ceiling ? output.ceiling.dbfs : peak + gain,
        truePeakDbtp: peak + gain,
        dcOffsets: [dc],
        dcOffsetDbfs: dc === 0 ? -Infinity : 20 * Math.log10(Math.abs(dc)),
      }),
      reductionDb: output?.ceiling ? reduces : 0,
    });
  };
  return { measure, tried };
}

test('gain alone is tried once, and promised as it was measured', async () => {
  const { measure, tried } = voice({ peak: -20 });
  const { plan, predicted, reductionDb } = await rehearseLevels(spec, { mostReductionDb: 6 }, measure);
  expect(plan).toMatchObject({ possible: true, output: { gainDb: 9.5, ceiling: null } });
  expect(predicted?.rmsDbfs).toBeCloseTo(-20.5, 9);
  expect(reductionDb).toBe(0);
  expect(tried).toHaveLength(2);
});

test('what a limiter takes off the level is put back, until it is near enough or three turns are over', async () => {
  const { measure, tried } = voice({ lost: 0.5 });
  const { plan, predicted, reductionDb } = await rehearseLevels(spec, { mostReductionDb: 6 }, measure);
  expect(tried).toHaveLength(4);
  expect(reductionDb).toBe(3);
  // Each turn puts half a dB back, and the limiter of this voice takes it every time.
  expect(plan.possible && plan.output.gainDb).toBeCloseTo(10.5, 9);
  expect(predicted?.rmsDbfs).toBeCloseTo(-20, 9);
  const near = voice({ lost: 0.02 });
  await rehearseLevels(spec, { mostReductionDb: 6 }, near.measure);
  expect(near.tried).toHaveLength(2);
});

test('no more is put back than the limiter may take', async () => {
  const { measure } = voice({ lost: 0.5, reduces: 6.5 });
  const { plan } = await rehearseLevels(spec, { mostReductionDb: 6 }, measure);
  expect(plan.possible && plan.output.gainDb).toBeCloseTo(9.5, 9);
});

test('an offset is taken out before anything is planned', async () => {
  const { measure, tried } = voice({ offset: 0.02, peak: -20 });
  const { plan } = await rehearseLevels(spec, { mostReductionDb: 6 }, measure);
  expect(tried[1]).toEqual({ gainDb: 0, dcOffsets: [0.02], ceiling: null });
  expect(plan.possible && plan.output.dcOffsets).toEqual([0.02]);
});

test('what no gain can do is not tried', async () => {
  const { measure, tried } = voice({ peak: 10 });
  const { plan, predicted } = await rehearseLevels(spec, { mostReductionDb: 6 }, measure);
  expect(plan.possible).toBe(false);
  expect(predicted).toBeNull();
  expect(tried).toEqual([undefined]);
});

test('a level that is allowed and stays so under the limiter is left where it is', async () => {
  const { measure, tried } = voice({ rms: -20, peak: -2, lost: 0.5 });
  const { plan } = await rehearseLevels(spec, { mostReductionDb: 6 }, measure);
  expect(plan.possible && plan.output).toMatchObject({ gainDb: 0, ceiling: { kind: 'sample' } });
  expect(tried).toHaveLength(2);
});
