import { highPass, lowPass } from '../dsp/biquad';
import { kernels } from '../dsp/kernels';
import { noise } from '../testing/signals';
import { FilteredBand } from './filteredBand';
import { hopPowers } from './levels';

const row = [highPass(200, 16_000), lowPass(4000, 16_000)];

/** All of it at once. */
function filtered(samples: Float32Array): Float32Array {
  const whole = samples.slice();
  kernels().sections(whole, row, new Float64Array(4));
  return whole;
}

test.each([0, 1, 79, 80, 2080, 2081, 50_000])(
  'of %d samples: powers and samples are to the last bit those of the whole, filtered at once',
  (length) => {
    const samples = noise(length, -20, length);
    const whole = filtered(samples);
    const band = new FilteredBand(samples, row, 80);
    expect(band.powers).toEqual(hopPowers(whole, 80));
    for (const [from, to] of [
      [0, length],
      [0, length + 500],
      [Math.floor(length / 2), length],
      [Math.max(0, length - 10), length + 10],
      [2079, 2081],
      [length + 5, length + 9],
    ]) {
      const expected = new Float32Array(to - from);
      expected.set(whole.subarray(from, Math.max(from, to)));
      expect(band.read(from, to)).toEqual(expected);
    }
  },
);
