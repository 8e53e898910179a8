import { powerToDb } from '../base/units';
import { through, voiceThrough } from '../testing/chains';
import { voiceAt48 } from '../testing/prompts';
import { add, concat, firstDifference, noise, sine } from '../testing/signals';
import type { ChainStep } from './chain';
import { usualStep } from './settings';

const rateHz = 48_000;
const ticksPerSecond = 3000;

async function gainsOf(audio: Float32Array, step: ChainStep): Promise<Float32Array> {
  const [{ gainsDb }] = voiceThrough([audio], [step], rateHz).stages;
  const [gains] = (await gainsDb?.read(0, Math.floor(audio.length / 16))) ?? [];
  return gains;
}

/** Power of a stretch at one frequency. */
function toneDb(audio: Float32Array, hertz: number, from: number, to: number): number {
  let [re, im] = [0, 0];
  for (let i = from; i < to; i++) {
    re += audio[i] * Math.cos((2 * Math.PI * hertz * i) / rateHz);
    im += audio[i] * Math.sin((2 * Math.PI * hertz * i) / rateHz);
  }
  return powerToDb((2 * (re * re + im * im)) / (to - from) ** 2);
}

describe('milder s', () => {
  const step = { ...usualStep('sibilance', 'a'), thresholdDb: -36, mostDb: 8 };
  const vowel = sine(rateHz, 3, 220, -12);
  const hiss = concat(new Float32Array(rateHz), sine(rateHz, 0.2, 8000, -14), new Float32Array(1.8 * rateHz));

  test('takes off as much as it may of an “s”, and nothing of a vowel with the same treble in it', async () => {
    const alone = await gainsOf(concat(noise(rateHz, -70, 1), hiss.subarray(rateHz)), step);
    expect(alone[Math.round(1.1 * ticksPerSecond)]).toBeCloseTo(-8, 2);
    expect(Math.min(...alone)).toBeGreaterThanOrEqual(-8.001);
    // The treble of a loud vowel is no “s”: it is not most of what is heard.
    const bright = await gainsOf(
      add(
        vowel,
        hiss.map((sample) => sample / 8),
      ),
      step,
    );
    expect(Math.min(...bright)).toBe(0);
  });

  test('turns down what is over its frequency and leaves what is under it', async () => {
    const audio = add(concat(sine(rateHz, 3, 500, -40)), hiss);
    const made = await through(audio, [step], rateHz);
    const [from, to] = [1.05 * rateHz, 1.15 * rateHz].map(Math.round);
    expect(toneDb(audio, 8000, from, to) - toneDb(made, 8000, from, to)).toBeGreaterThan(3.5);
    expect(Math.abs(toneDb(audio, 500, from, to) - toneDb(made, 500, from, to))).toBeLessThan(0.3);
    // Where nothing hisses it is the recording to the bit.
    expect(firstDifference(made.slice(0, 0.9 * rateHz), audio.slice(0, 0.9 * rateHz))).toBe(-1);
  });

  test('works on the “s” of recorded prompts: seldom, and only there', async () => {
    const { audio } = voiceAt48('en', 4, 2);
    const gains = await gainsOf(audio, { ...step, hertz: 4000, thresholdDb: -44, mostDb: 6 });
    const share = gains.filter((gain) => gain < -1).length / gains.length;
    expect(share).toBeGreaterThan(0.01);
    expect(share).toBeLessThan(0.25);
  });
});

describe('plosives', () => {
  const step = { ...usualStep('plosives', 'a'), mostDb: 15 };
  // A voice whose lowest tone stands at 110 Hz throughout, and a puff of air of 60 ms.
  const voice = add(sine(rateHz, 4, 110, -24), sine(rateHz, 4, 900, -18));
  const puff = new Float32Array(4 * rateHz);
  for (let i = 0; i < 0.06 * rateHz; i++)
    puff[2 * rateHz + i] =
      0.5 * Math.sin((Math.PI * i) / (0.06 * rateHz)) * Math.sin((2 * Math.PI * 40 * i) / rateHz);

  test('a puff goes down, the voice around it does not', async () => {
    const audio = add(voice, puff);
    const gains = await gainsOf(audio, step);
    const during = gains.subarray(2.01 * ticksPerSecond, 2.05 * ticksPerSecond);
    expect(Math.min(...during)).toBeLessThan(-6);
    const away = [...gains.subarray(0, 1.9 * ticksPerSecond), ...gains.subarray(2.25 * ticksPerSecond)];
    expect(Math.min(...away)).toBe(0);
    const made = await through(audio, [step], rateHz);
    const peak = (samples: Float32Array) =>
      samples.subarray(2 * rateHz, 2.06 * rateHz).reduce((most, x) => Math.max(most, Math.abs(x)), 0);
    expect(peak(made)).toBeLessThan(0.75 * peak(audio));
  });

  test('a deep voice that goes on is no puff', async () => {
    const deep = concat(new Float32Array(rateHz), sine(rateHz, 3, 90, -14));
    const gains = await gainsOf(deep, step);
    expect(Math.min(...gains.subarray(1.3 * ticksPerSecond))).toBe(0);
  });
});

describe('phrases brought together', () => {
  const step = { ...usualStep('phrases', 'a'), towardsDb: -20, mostDb: 6 };
  const phrase = (level: number, seed: number) => noise(4 * rateHz, level, seed);
  const rms = (audio: Float32Array, from: number, to: number) =>
    powerToDb(
      audio.subarray(from * rateHz, to * rateHz).reduce((sum, x) => sum + x * x, 0) / ((to - from) * rateHz),
    );

  test('a loud one goes down and a faint one up, by no more than it may', async () => {
    const audio = concat(phrase(-17, 1), phrase(-23, 2), phrase(-34, 3));
    const made = await through(audio, [step], rateHz);
    expect(rms(made, 1.5, 2.5)).toBeCloseTo(-20, 1);
    expect(rms(made, 5.5, 6.5)).toBeCloseTo(-20, 1);
    // 14 dB would be needed.
    expect(Math.abs(rms(made, 9.6, 10.4) + 28)).toBeLessThan(0.1);
  });

  test('pauses are not lifted: far from speech the gain is none', async () => {
    const gains = await gainsOf(concat(phrase(-26, 1), noise(8 * rateHz, -62, 2), phrase(-26, 3)), step);
    expect(gains[8 * ticksPerSecond]).toBe(0);
    expect(gains[2 * ticksPerSecond]).toBeCloseTo(6, 1);
  });

  test('the gain moves slowly: under 6 dB a second', async () => {
    const gains = await gainsOf(concat(phrase(-16, 1), phrase(-26, 2)), step);
    let fastest = 0;
    for (let i = 1; i < gains.length; i++) fastest = Math.max(fastest, Math.abs(gains[i] - gains[i - 1]));
    expect(fastest * ticksPerSecond).toBeLessThan(8);
  });
});

test('hum is taken out where it stands, and the voice beside it stays', async () => {
  const hum = [1, 2, 3].map((k) => sine(rateHz, 4, 50 * k, -40)).reduce(add);
  const audio = add(hum, sine(rateHz, 4, 225, -20));
  const made = await through(audio, [{ ...usualStep('hum', 'a'), harmonics: [1, 2, 3] }], rateHz);
  const [from, to] = [2 * rateHz, 3 * rateHz];
  for (const hertz of [50, 100, 150]) expect(toneDb(made, hertz, from, to)).toBeLessThan(-120);
  expect(Math.abs(toneDb(made, 225, from, to) - toneDb(audio, 225, from, to))).toBeLessThan(0.1);
});

test('a ceiling holds after a gain, and says what it took off', async () => {
  const step = { ...usualStep('ceiling', 'a'), gainDb: 10, ceilingDb: -3, peaks: 'sample' as const };
  const audio = concat(noise(rateHz, -40, 3), sine(rateHz, 1, 200, -8), noise(rateHz, -40, 4));
  const made = await through(audio, [step], rateHz);
  expect(made.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeLessThanOrEqual(10 ** (-3 / 20));
  const gains = await gainsOf(audio, step);
  expect(gains[500]).toBe(10);
  expect(Math.min(...gains)).toBeCloseTo(5, 1);
});
