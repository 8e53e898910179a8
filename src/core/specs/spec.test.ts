import { Meter } from '../loudness/measure';
import { concat, noise } from '../testing/signals';
import { builtInSpecs, findSpec } from './builtIn';
import { describeSpec } from './describe';
import { specSchema, type Spec } from './spec';
import { judge, passes } from './verdicts';

describe('specifications', () => {
  test('the built-in ones are valid, found by any spelling of their names, and described', async () => {
    for (const spec of builtInSpecs)
      await expect(specSchema.validate(spec, { strict: true })).resolves.toEqual(spec);
    expect(findSpec('audiobook-RETAIL')?.name).toBe('Audiobook retail');
    expect(findSpec('none such')).toBeUndefined();
    expect(describeSpec(builtInSpecs[3])).toBe(
      'Loudness −23.5 to −22.5 LUFS; True peak at most −1.0 dBTP; Broadcast WAV · 24-bit · 48 kHz · mono.',
    );
  });

  const changed = (change: (spec: Spec) => void) => {
    const spec = structuredClone(builtInSpecs[0]);
    change(spec);
    return specSchema.validate(spec);
  };

  test('a lowest above the highest is refused with what to do', async () => {
    await expect(changed((spec) => (spec.limits.rmsDbfs = { min: -10, max: -20 }))).rejects.toThrow(
      'RMS: the lowest allowed is above the highest. Swap them or clear one.',
    );
    await expect(changed((spec) => (spec.aimPeakDbfs = { min: -6, max: -18 }))).rejects.toThrow(
      'Aim: the lower edge is above the upper edge',
    );
    await expect(changed((spec) => (spec.file.rateHz = 96_000))).rejects.toThrow('MP3 ends at 48 kHz');
    await expect(changed((spec) => (spec.limits.headSeconds = { min: -1, max: null }))).rejects.toThrow(
      'Head: nothing under 0 s',
    );
    await expect(changed((spec) => (spec.name = '  '))).rejects.toThrow('Give the spec a name.');
  });

  const measured = (rmsDb: number) => {
    const meter = new Meter(48_000, 1);
    meter.process([concat(noise(33_600, -65, 1), noise(480_000, rmsDb, 2), noise(96_000, -65, 3))]);
    return meter.finish();
  };

  test('a verdict says value, limit and distance', () => {
    const verdicts = judge(builtInSpecs[0], measured(-24));
    const rms = verdicts.find(({ measure }) => measure === 'rmsDbfs');
    expect(rms?.passes).toBe(false);
    expect(rms?.distance).toBeCloseTo(2.04, 1);
    expect(rms?.message).toMatch(
      /^RMS −25\.\d dBFS is 2\.\d dB under the lowest allowed \(−23\.0 to −18\.0 dBFS\)$/,
    );
    expect(passes(verdicts)).toBe(false);
    expect(passes(judge(builtInSpecs[0], measured(-20)))).toBe(true);
  });

  test('silence is outside a lower limit by an infinite distance, and its pauses are told to be digital silence', () => {
    const meter = new Meter(48_000, 1);
    meter.process([new Float32Array(48_000)]);
    const verdicts = judge(builtInSpecs[0], meter.finish());
    expect(verdicts.find(({ measure }) => measure === 'rmsDbfs')).toMatchObject({
      passes: false,
      distance: Infinity,
      value: -Infinity,
    });
    expect(verdicts.find(({ measure }) => measure === 'noiseFloorDbfs')?.message).toContain(
      'digital silence',
    );
  });
});
