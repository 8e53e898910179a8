import { execFileSync } from 'node:child_process';
import { voiceThrough } from '../testing/chains';
import { concat, noise, sine } from '../testing/signals';
import { builtInChains, fitted } from './builtIn';
import { gridOf } from './cells';
import { measureWork } from './chainWork';
import type { ChainStep } from './chain';
import { usualStep } from './settings';
import { learnRoom } from './softerRoom';

const rateHz = 48_000;
const work = (audio: Float32Array, ...steps: ChainStep[]) =>
  measureWork(voiceThrough([audio], steps, rateHz), audio.length);

/** Words of a second with pauses of half a second between them, one of them louder than the rest. */
const words = concat(
  ...Array.from({ length: 10 }, (_, i) => [
    sine(rateHz, 1, 200, i === 6 ? -8 : -20),
    noise(rateHz / 2, -66, i),
  ]).flat(),
);

test('the most, the usual and the place of what a compressor takes off', async () => {
  const step = { ...usualStep('even', 'a'), thresholdDb: -26, ratio: 4, kneeDb: 0, makeUpDb: 3, attackMs: 5 };
  const { steps, recorded, finished, roomLiftedDb } = await work(words, step);
  const [one] = steps;
  // A sine of −20 dBFS peak is −23 dBFS RMS: 3 dB over, three quarters of which go; the loud one 15 dB
  // over.
  expect(one.usualDb).toBeCloseTo(2.25, 0);
  expect(one.mostDb).toBeLessThan(-10.5);
  expect(one.mostDb).toBeGreaterThan(-11.8);
  expect(one.at / rateHz).toBeGreaterThan(9);
  expect(one.at / rateHz).toBeLessThan(10.1);
  expect(one.share).toBeGreaterThan(0.9);
  expect(one.tooHard).toBe(false);
  expect(recorded.roomDbfs).toBeCloseTo(-66, 0);
  expect(finished.roomDbfs).toBeGreaterThan(-66);
  expect(roomLiftedDb).toBeGreaterThan(1);
});

test('a step that takes more than it should off much of the speech works too hard', async () => {
  const hard = { ...usualStep('even', 'a'), thresholdDb: -45, ratio: 8 };
  expect((await work(words, hard)).steps[0].tooHard).toBe(true);
});

test('pauses that go down are no work on speech; a threshold among the words is', async () => {
  const gentle = await work(words, { ...usualStep('pauses', 'a'), thresholdDb: -40 });
  expect(gentle.steps[0].mostDb).toBeCloseTo(-10, 0);
  expect(gentle.steps[0].share).toBeLessThan(0.05);
  expect(gentle.steps[0].tooHard).toBe(false);
  // The ends of words count as room, and they are waited for.
  expect(gentle.roomLiftedDb).toBeLessThan(-7);
  expect(gentle.roomLiftedDb).toBeGreaterThan(-10.1);
  const cutting = await work(words, { ...usualStep('pauses', 'a'), thresholdDb: -20, ratio: 4 });
  expect(cutting.steps[0].tooHard).toBe(true);
});

test('filters have no work to tell, and progress can end it', async () => {
  expect((await work(words, usualStep('rumble', 'a'))).steps).toEqual([]);
  const voice = voiceThrough([words], [usualStep('even', 'a')], rateHz);
  await expect(
    measureWork(voice, words.length, {
      progress: (done) => {
        if (done > 0.3) throw new Error('ended');
      },
    }),
  ).rejects.toThrow('ended');
  expect((await measureWork(voice, 0)).steps[0]).toMatchObject({ mostDb: 0, share: 0, tooHard: false });
});

/** The demo's recordings, decoded by ffmpeg. */
const demo = (name: string) => {
  const bytes = execFileSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-t',
      '25',
      '-i',
      `public/demo/${name}.mp3`,
      '-ac',
      '1',
      '-ar',
      '48000',
      '-f',
      'f32le',
      '-',
    ],
    { maxBuffer: 1 << 28 },
  );
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
};

describe.each(['arrival', 'stair', 'boat-builder-1'])('chains to begin with, on the demo (%s)', (name) => {
  const audio = demo(name);

  test.each(builtInChains.map((chain) => ({ name: chain.name, chain })))(
    '“$name” is within limits',
    async ({ chain }) => {
      const before = await work(audio);
      const { speechDbfs, roomDbfs } = before.recorded;
      // What has to be learned is learned from the room of the same level.
      const profile = learnRoom(noise(rateHz, roomDbfs, 5), gridOf(rateHz));
      const steps = fitted(chain, speechDbfs, roomDbfs).steps.map((step) =>
        step.kind === 'room' ? { ...step, profile } : step,
      );
      const done = await work(audio, ...steps);
      expect(done.steps.filter(({ tooHard }) => tooHard)).toEqual([]);
      for (const { mostDb } of done.steps) expect(Math.abs(mostDb)).toBeLessThan(16);
      expect(done.roomLiftedDb).toBeLessThan(3);
      expect(Math.abs(done.finished.speechDbfs - done.recorded.speechDbfs)).toBeLessThan(4);
      const [finished] = await voiceThrough([audio], steps, rateHz).read(0, audio.length);
      expect(finished.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeLessThanOrEqual(
        10 ** (-3.4 / 20),
      );
    },
  );
});
