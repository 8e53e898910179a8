import { amplitudeToDb, powerToDb } from '../base/units';
import { through, trackOf, voiceThrough } from '../testing/chains';
import { voiceAt48 } from '../testing/prompts';
import { add, concat, noise } from '../testing/signals';
import { gridOf } from './cells';
import type { PausesStep } from './chain';
import { speechBands } from './pauses';
import { usualStep } from './settings';

const rateHz = 48_000;
const ticksPerSecond = 3000;
const step = (changes: Partial<PausesStep> = {}): PausesStep => ({ ...usualStep('pauses', 'a'), ...changes });

async function gainsOf(audio: Float32Array, one: PausesStep): Promise<Float32Array> {
  const [{ gainsDb }] = voiceThrough([audio], [one], rateHz).stages;
  const [gains] = (await gainsDb?.read(0, Math.floor(audio.length / 16))) ?? [];
  return gains;
}

const meanSquare = (audio: Float32Array, from: number, to: number) => {
  let sum = 0;
  for (let i = from; i < to; i++) sum += audio[i] ** 2;
  return sum / (to - from);
};

/** What the bands of speech measure of a room. */
async function roomOf(room: Float32Array): Promise<number[]> {
  const bands = speechBands(trackOf(room), gridOf(rateHz));
  const heard = await Promise.all(bands.map((band) => band.read(0, room.length)));
  return heard.map(([band]) => powerToDb(meanSquare(band, 4800, room.length)));
}

test('the range is never exceeded, and never silence, at any depth of pause', async () => {
  const audio = concat(
    noise(rateHz, -20, 1),
    new Float32Array(2 * rateHz),
    noise(2 * rateHz, -70, 2),
    noise(rateHz, -50, 3),
  );
  for (const rangeDb of [6, 10, 30]) {
    const gains = await gainsOf(audio, step({ rangeDb, ratio: 10 }));
    expect(Math.min(...gains)).toBeCloseTo(-rangeDb, 3);
    expect(Math.max(...gains)).toBe(0);
  }
});

test('a steady pause goes down by ratio − 1 dB for each dB it is under the threshold', async () => {
  const audio = concat(noise(rateHz, -20, 1), noise(3 * rateHz, -56, 2));
  const gains = await gainsOf(audio, step({ thresholdDb: -50, ratio: 2, rangeDb: 20 }));
  const end = gains.subarray(3.5 * ticksPerSecond);
  // Levels of 10 ms of noise move by a decibel, and the gain keeps to the highest of them.
  expect(end.reduce((sum, gain) => sum + gain, 0) / end.length).toBeGreaterThan(-6.5);
  expect(end.reduce((sum, gain) => sum + gain, 0) / end.length).toBeLessThan(-4.5);
});

test('a slow fade closes it once, without chatter', async () => {
  const seconds = 20;
  const fade = noise(seconds * rateHz, 0, 9).map(
    (sample, i) => sample * 10 ** (-(30 + (40 * i) / (seconds * rateHz)) / 20),
  );
  const gains = await gainsOf(fade, step({ thresholdDb: -50, ratio: 10, rangeDb: 10 }));
  expect(turnsOf(gains)).toBe(1);
  // And back up the same way.
  expect(
    turnsOf(await gainsOf(fade.slice().reverse(), step({ thresholdDb: -50, ratio: 10, rangeDb: 10 }))),
  ).toBe(1);
});

/** How often it goes from open to closed and back. */
function turnsOf(gains: Float32Array): number {
  let turns = 0;
  let wasOpen = gains[3000] > -5;
  for (const gain of gains.subarray(3000)) {
    const isOpen = wasOpen ? gain > -8 : gain > -2;
    if (isOpen !== wasOpen) turns++;
    wasOpen = isOpen;
  }
  return turns;
}

test('it waits, then closes in the time that is set, and is open before what opens it', async () => {
  const audio = concat(noise(rateHz, -20, 1), new Float32Array(rateHz), noise(rateHz, -20, 2));
  const one = step({ rangeDb: 20, ratio: 10, holdMs: 200, closeMs: 300, aheadMs: 30 });
  const gains = await gainsOf(audio, one);
  const first = (from: number, is: (gain: number) => boolean) => {
    for (let i = from; i < gains.length; i++) if (is(gains[i])) return i / ticksPerSecond;
    return Infinity;
  };
  // The level is a mean of 10 ms, which the end of the noise leaves 5 ms late.
  expect(first(ticksPerSecond / 2, (gain) => gain < 0)).toBeCloseTo(1.205, 2);
  expect(first(ticksPerSecond / 2, (gain) => gain <= -19.99)).toBeCloseTo(1.505, 2);
  expect(first(1.7 * ticksPerSecond, (gain) => gain === 0)).toBeLessThanOrEqual(2 - 0.03);
  expect(first(1.7 * ticksPerSecond, (gain) => gain > -20)).toBeGreaterThan(2 - 0.06);
});

describe.each(['en', 'it'] as const)('recorded prompts (%s) in a room of −60 dBFS', (name) => {
  const { audio: clean, placed } = voiceAt48(name, 6, 2);
  const room = noise(clean.length, -60, 4);
  const voice = add(clean, room);

  test.each([
    ['by level', async () => step({ thresholdDb: -52, rangeDb: 12, ratio: 3 })],
    [
      'by speech',
      async () => step({ by: 'speech', roomDb: await roomOf(room.subarray(0, rateHz)), rangeDb: 12 }),
    ],
  ] as const)('%s: onsets lose under 0.5 dB in their first 30 ms, pauses go down', async (_, make) => {
    const made = await through(voice, [await make()], rateHz);
    for (const { from } of placed) {
      const to = from + 0.03 * rateHz;
      const lost = powerToDb(meanSquare(voice, from, to) / meanSquare(made, from, to));
      expect(lost).toBeLessThan(0.5);
    }
    for (const { to } of placed) {
      const [first, last] = [to + 0.5 * rateHz, to + 0.9 * rateHz];
      expect(powerToDb(meanSquare(voice, first, last) / meanSquare(made, first, last))).toBeGreaterThan(9);
    }
  });
});

test('by speech it opens for a faint “s” that the level alone would cut off', async () => {
  const room = noise(4 * rateHz, -50, 11);
  const low = room.map((sample, i) => sample + 0.004 * Math.sin((2 * Math.PI * 60 * i) / rateHz));
  const hiss = new Float32Array(low.length);
  // A hiss of a high band alone, softer than the room as a whole.
  const burst = noise(0.2 * rateHz, -32, 12);
  for (let i = 1; i < burst.length; i++) hiss[2 * rateHz + i] = (burst[i] - burst[i - 1]) / 2;
  const audio = add(low, hiss);
  const at = Math.round(2.1 * ticksPerSecond);
  const bySpeech = await gainsOf(
    audio,
    step({ by: 'speech', roomDb: await roomOf(low.subarray(0, rateHz)), rangeDb: 10 }),
  );
  expect(bySpeech[at]).toBe(0);
  expect(bySpeech[Math.round(1.5 * ticksPerSecond)]).toBeCloseTo(-10, 1);
  const byLevel = await gainsOf(audio, step({ thresholdDb: -30, rangeDb: 10, ratio: 10 }));
  expect(byLevel[at]).toBeLessThan(-3);
  expect(amplitudeToDb(1)).toBe(0);
});
