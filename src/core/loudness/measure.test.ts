import { spawnSync } from 'node:child_process';
import {
  add,
  chunksOf,
  concat,
  decodeWithFfmpeg,
  noise,
  scratchFolder,
  sine,
  writeWav,
} from '../testing/signals';
import { kWeighting } from './kWeighting';
import { Meter } from './measure';

const rateHz = 48_000;

function measure(audio: Float32Array, rate = rateHz) {
  const meter = new Meter(rate, 1);
  meter.process([audio]);
  return meter.finish();
}

test('K-weighting at 48 kHz has the coefficients ITU-R BS.1770-5 prints', () => {
  const { shelf, highPass } = kWeighting(48_000);
  expect(shelf.b0).toBeCloseTo(1.53512485958697, 10);
  expect(shelf.b1).toBeCloseTo(-2.69169618940638, 10);
  expect(shelf.b2).toBeCloseTo(1.19839281085285, 10);
  expect(shelf.a1).toBeCloseTo(-1.69065929318241, 10);
  expect(shelf.a2).toBeCloseTo(0.73248077421585, 10);
  expect(highPass.a1).toBeCloseTo(-1.99004745483398, 10);
  expect(highPass.a2).toBeCloseTo(0.99007225036621, 10);
});

test('chunks of any size give the identical result', () => {
  const audio = add(noise(rateHz * 8, -30, 3), sine(rateHz, 8, 441, -9));
  const whole = measure(audio);
  for (const seed of [1, 2, 3]) {
    const meter = new Meter(rateHz, 1);
    for (const chunk of chunksOf(audio, 5000, seed)) meter.process([chunk]);
    const chunked = meter.finish();
    // Sums are cut at different places, so the last bits may differ.
    expect(chunked.integratedLufs).toBeCloseTo(whole.integratedLufs, 9);
    expect(chunked.rmsDbfs).toBeCloseTo(whole.rmsDbfs, 9);
    expect({ ...chunked, integratedLufs: 0, rmsDbfs: 0, shortTerm: 0 }).toMatchObject({
      frames: whole.frames,
      truePeakDbtp: whole.truePeakDbtp,
      samplePeakDbfs: whole.samplePeakDbfs,
      headSeconds: whole.headSeconds,
    });
  }
});

describe('silence and nothing', () => {
  test('digital silence is −∞, never NaN', () => {
    const result = measure(new Float32Array(rateHz * 5));
    expect(result).toMatchObject({
      integratedLufs: -Infinity,
      truePeakDbtp: -Infinity,
      samplePeakDbfs: -Infinity,
      rmsDbfs: -Infinity,
      noiseFloorDbfs: -Infinity,
      loudnessRangeLu: 0,
      digitalSilenceSeconds: 5,
    });
  });

  test('audio shorter than any window is measured as far as it goes', () => {
    const result = measure(sine(rateHz, 0.005, 1000, -6));
    expect(result.samplePeakDbfs).toBeCloseTo(-6, 1);
    expect(result.rmsDbfs).toBeCloseTo(-9, 1);
    expect(result.integratedLufs).toBe(-Infinity);
    expect(measure(new Float32Array(0))).toMatchObject({ frames: 0, rmsDbfs: -Infinity });
  });
});

test('a full-scale sine is −3.01 dBFS RMS (common practice, scale of 1.0)', () => {
  expect(measure(sine(rateHz, 2, 1000, 0)).rmsDbfs).toBeCloseTo(-3.0103, 3);
});

test('every sample at 16-bit full scale counts as clipped', () => {
  const audio = sine(rateHz, 1, 100, -6);
  audio.fill(32767 / 32768, 1000, 1010);
  audio.fill(-1, 2000, 2005);
  expect(measure(audio).clippedSamples).toBe(15);
});

describe('room, head and tail', () => {
  const room = (seconds: number, seed: number) => noise(Math.round(seconds * rateHz), -62, seed);
  const speech = (seconds: number, seed: number) => noise(Math.round(seconds * rateHz), -20, seed);

  test('noise at −62 dBFS between words is the noise floor', () => {
    const audio = concat(
      room(0.8, 1),
      speech(2, 2),
      room(0.6, 3),
      speech(3, 4),
      room(0.4, 5),
      speech(2, 6),
      room(2.5, 7),
    );
    const result = measure(audio);
    expect(Math.abs(result.noiseFloorDbfs + 62)).toBeLessThan(0.2);
    expect(Math.abs(result.headSeconds - 0.8)).toBeLessThanOrEqual(0.01);
    expect(Math.abs(result.tailSeconds - 2.5)).toBeLessThanOrEqual(0.02);
    expect(result.digitalSilenceSeconds).toBe(0);
  });

  test('digital silence is told apart and does not hide the room', () => {
    const audio = concat(
      new Float32Array(rateHz),
      room(0.8, 1),
      speech(2, 2),
      room(1, 3),
      speech(2, 2),
      room(1, 4),
    );
    const result = measure(audio);
    expect(Math.abs(result.noiseFloorDbfs + 62)).toBeLessThan(0.3);
    expect(result.digitalSilenceSeconds).toBeCloseTo(1, 2);
  });

  test('room tone alone is its own floor', () => {
    expect(Math.abs(measure(room(5, 9)).noiseFloorDbfs + 62)).toBeLessThan(0.2);
  });
});

/** Both microphones of the interview together, as the part is heard. */
const interview = writeWav(`${scratchFolder()}/interview.wav`, rateHz, [
  add(decodeWithFfmpeg('public/demo/boat-builder-1.mp3'), decodeWithFfmpeg('public/demo/boat-builder-2.mp3')),
]);
const demo = ['arrival', 'boat-house', 'stair', 'keepers-talk', 'practice-reader', 'bed'].map(
  (name) => `public/demo/${name}.mp3`,
);

/** ffmpeg's ebur128 and astats filters measure the demo audio independently. */
describe.each([...demo, interview])('against ffmpeg on %s', (file) => {
  const audio = decodeWithFfmpeg(file);
  const ours = measure(audio);
  const report = spawnSync(
    'ffmpeg',
    [
      '-hide_banner',
      '-nostats',
      '-i',
      file,
      '-af',
      'ebur128=peak=true:framelog=verbose,astats=measure_perchannel=none',
      '-f',
      'null',
      '-',
    ],
    { encoding: 'utf8' },
  ).stderr;
  const value = (pattern: RegExp) => Number(pattern.exec(report)?.[1]);

  test('integrated loudness within 0.1 LU, range within 0.2 LU', () => {
    expect(Math.abs(ours.integratedLufs - value(/I:\s+(-[\d.]+) LUFS/))).toBeLessThanOrEqual(0.1);
    expect(Math.abs(ours.loudnessRangeLu - value(/LRA:\s+([\d.]+) LU/))).toBeLessThanOrEqual(0.2);
  });

  test('true peak within 0.1 dB (ffmpeg resamples to 192 kHz with its own filter and prints one decimal)', () => {
    expect(Math.abs(ours.truePeakDbtp - value(/Peak:\s+(-?[\d.]+) dBFS/))).toBeLessThanOrEqual(0.1);
  });

  test('RMS and sample peak within 0.01 dB of astats', () => {
    expect(Math.abs(ours.rmsDbfs - value(/RMS level dB: (-[\d.]+)/))).toBeLessThanOrEqual(0.01);
    expect(Math.abs(ours.samplePeakDbfs - value(/Peak level dB: (-?[\d.]+)/))).toBeLessThanOrEqual(0.01);
  });
});

test('sox agrees on RMS', () => {
  const audio = decodeWithFfmpeg('public/demo/arrival.mp3');
  const file = writeWav(`${scratchFolder()}/arrival.wav`, rateHz, [audio]);
  const report = spawnSync('sox', [file, '-n', 'stats'], { encoding: 'utf8' }).stderr;
  expect(Math.abs(measure(audio).rmsDbfs - Number(/RMS lev dB\s+(-[\d.]+)/.exec(report)?.[1]))).toBeLessThan(
    0.02,
  );
});
