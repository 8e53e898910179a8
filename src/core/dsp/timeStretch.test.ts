import { PowerSpectrum } from './spectrum';
import { TimeStretch } from './timeStretch';
import { firstDifference, sine } from '../testing/signals';
import { prompts } from '../testing/prompts';

const rateHz = 48_000;
const stretch = (samples: Float32Array, speed: number, rate = rateHz) => {
  const unit = new TimeStretch(rate, 1, speed);
  const [head] = unit.process([samples]);
  const [tail] = unit.flush();
  return Float32Array.from([...head, ...tail]);
};

test.each([0.75, 1.25, 1.5, 2])(
  'at %d× a tone keeps its pitch and level, and takes so much less time',
  (speed) => {
    const output = stretch(sine(rateHz, 3, 440, -12), speed);
    expect(Math.abs(output.length / rateHz - 3 / speed)).toBeLessThan(0.08);
    const powers = new PowerSpectrum(32_768).of(output, 20_000);
    const peak = powers.indexOf(Math.max(...powers));
    expect(Math.abs((peak * rateHz) / 32_768 - 440)).toBeLessThan(1.5);
    const middle = output.slice(24_000, 48_000);
    const rms = Math.sqrt(middle.reduce((sum, value) => sum + value * value, 0) / middle.length);
    expect(Math.abs(20 * Math.log10(rms) + 15.01)).toBeLessThan(0.3);
  },
);

test('at 1× speech comes out as it went in', () => {
  const [speech] = prompts('en', 1, 2);
  const output = stretch(speech, 1, 16_000);
  let worst = 0;
  for (let i = 0; i < speech.length - 1000; i++) worst = Math.max(worst, Math.abs(output[i] - speech[i]));
  expect(worst).toBeLessThan(1e-4);
});

test('any chunking gives the same, and both channels are cut alike', () => {
  const [speech] = prompts('en', 1, 2);
  const whole = new TimeStretch(16_000, 2, 1.5).process([speech, speech])[0];
  const unit = new TimeStretch(16_000, 2, 1.5);
  const parts: number[] = [];
  for (let at = 0; at < speech.length; at += 777) {
    const chunk = speech.slice(at, at + 777);
    const [left, right] = unit.process([chunk, chunk]);
    expect(firstDifference(left, right)).toBe(-1);
    parts.push(...left);
  }
  expect(firstDifference(Float32Array.from(parts), whole)).toBe(-1);
});

test('a speed that makes no sense is refused', () => {
  expect(() => new TimeStretch(48_000, 1, 0)).toThrow(RangeError);
});
