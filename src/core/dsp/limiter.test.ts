import { seededRandom } from '../base/random';
import { amplitudeToDb, dbToAmplitude } from '../base/units';
import { TruePeakMeter } from '../loudness/truePeak';
import { add, concat, noise, sine } from '../testing/signals';
import { Limiter, type Ceiling } from './limiter';

const rateHz = 48_000;

/** Limits a whole signal, with silence before and after, in chunks. */
function limited(audio: Float32Array, ceiling: Ceiling, chunkFrames = audio.length) {
  const limiter = new Limiter(rateHz, ceiling);
  const { reach } = limiter;
  const padded = concat(new Float32Array(reach), audio, new Float32Array(reach));
  const pieces: Float32Array[] = [];
  let reductionDb = 0;
  for (let from = 0; from < audio.length; from += chunkFrames) {
    const frames = Math.min(chunkFrames, audio.length - from);
    const result = limiter.process([padded.subarray(from, from + frames + 2 * reach)]);
    pieces.push(result.audio[0]);
    reductionDb = Math.max(reductionDb, result.reductionDb);
  }
  return { audio: concat(...pieces), reductionDb };
}

const truePeak = (audio: Float32Array) => {
  const meter = new TruePeakMeter(rateHz);
  meter.process(audio);
  meter.finish();
  return amplitudeToDb(meter.peak);
};
const samplePeak = (audio: Float32Array) =>
  amplitudeToDb(audio.reduce((peak, sample) => Math.max(peak, Math.abs(sample)), 0));

const square = (hertz: number) =>
  Float32Array.from({ length: rateHz }, (_, i) => (Math.floor((2 * hertz * i) / rateHz) % 2 ? -1 : 1));
const impulses = () => {
  const random = seededRandom(5);
  return Float32Array.from({ length: rateHz }, () => (random() < 0.002 ? (random() < 0.5 ? -4 : 4) : 0));
};
/** Full-scale samples of random sign: the largest values between samples that there can be come up in it. */
const signs = () => {
  const random = seededRandom(9);
  return Float32Array.from({ length: rateHz }, () => (random() < 0.5 ? -1 : 1));
};
/** The worst there is for a 32-tap interpolator: every tap's sign matched, in bursts. */
const matched = () => {
  const audio = new Float32Array(rateHz);
  for (let at = 100; at + 64 < audio.length; at += 700)
    for (let k = -16; k < 16; k++) audio[at + k + 16] = (k % 2 === 0) === k > 0 ? 1 : -1;
  return audio;
};

const adversaries: [string, Float32Array][] = [
  ['inter-sample peaks: a sine at a quarter of the rate, 45° off', sine(rateHz, 1, rateHz / 4, 3, 45)],
  ['a sine at a sixth of the rate', sine(rateHz, 1, rateHz / 6, 6, 60)],
  ['impulses 12 dB over full scale', impulses()],
  ['a full-scale square of 100 Hz', square(100)],
  ['a full-scale square of 7 kHz', square(7000)],
  ['samples of random sign', signs()],
  ['bursts that match the interpolator', matched()],
  ['noise that clips', noise(rateHz, -3, 4)],
  [
    'a burst at the very start and end',
    concat(sine(rateHz, 0.01, 3000, 6), new Float32Array(5000), sine(rateHz, 0.01, 5000, 6)),
  ],
];

describe.each(adversaries)('%s', (_, audio) => {
  test('never passes a sample ceiling', () => {
    expect(samplePeak(limited(audio, { dbfs: -3, kind: 'sample' }).audio)).toBeLessThanOrEqual(-3);
  });

  test('passes a true-peak ceiling by less than 0.01 dB', () => {
    expect(truePeak(limited(audio, { dbfs: -1, kind: 'true' }).audio)).toBeLessThanOrEqual(-0.99);
  });

  test('is the same in chunks of any size', () => {
    const whole = limited(audio, { dbfs: -3, kind: 'true' }).audio;
    for (const size of [4096, 10_007])
      expect(limited(audio, { dbfs: -3, kind: 'true' }, size).audio).toEqual(whole);
  });
});

test('what is under the ceiling is not changed at all', () => {
  const audio = noise(rateHz, -20, 3);
  expect(limited(audio, { dbfs: -1, kind: 'true' })).toEqual({ audio, reductionDb: 0 });
});

test('a steady tone over the ceiling is turned down by exactly its excess, without distortion', () => {
  const { audio, reductionDb } = limited(sine(rateHz, 2, 997, -1), { dbfs: -4, kind: 'sample' });
  expect(reductionDb).toBeCloseTo(3, 3);
  const gain = dbToAmplitude(-3);
  const clean = sine(rateHz, 2, 997, -1).map((sample) => sample * gain);
  const middle = (samples: Float32Array) => samples.subarray(rateHz / 2, rateHz);
  const error = middle(
    add(
      audio,
      clean.map((sample) => -sample),
    ),
  );
  expect(samplePeak(error)).toBeLessThan(-80);
});

test('one peak in a steady voice is turned down and nothing 45 ms away from it is', () => {
  const voice = sine(rateHz, 1, 220, -12);
  const audio = voice.slice();
  audio[24_000] = 1;
  const result = limited(audio, { dbfs: -6, kind: 'sample' });
  expect(result.reductionDb).toBeCloseTo(6, 2);
  const away = Math.round(0.045 * rateHz);
  expect(result.audio.subarray(0, 24_000 - away)).toEqual(voice.subarray(0, 24_000 - away));
  expect(result.audio.subarray(24_000 + away)).toEqual(voice.subarray(24_000 + away));
});

test('channels are turned down together', () => {
  const limiter = new Limiter(rateHz, { dbfs: -6, kind: 'sample' });
  const [left, right] = [sine(rateHz, 0.5, 300, 0), sine(rateHz, 0.5, 300, -20)];
  const { audio } = limiter.process([left, right]);
  audio[0].forEach((sample, i) => expect(audio[1][i]).toBeCloseTo(sample / 10, 6));
});
