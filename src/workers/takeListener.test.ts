import { add, noise } from '@/core/testing/signals';
import { prompts, promptRateHz as rateHz } from '@/core/testing/prompts';
import { clap } from '@/core/testing/sounds';
import { TakeListener } from './takeListener';

const [reading] = prompts('en', 1, 5);
const room = (seed: number) => noise(reading.length, -65, seed);
const at = (gainDb: number, seed: number) =>
  add(
    reading.map((value) => value * 10 ** (gainDb / 20)),
    room(seed),
  );

const listen = (channels: Float32Array[]) => {
  const listener = new TakeListener(rateHz, channels.length);
  const found = listener.process(channels);
  const { findings, summary } = listener.finish();
  return { kinds: [...found, ...findings].map(({ kind }) => kind), summary };
};

test('a voice that is faint on the neighbour’s microphone is not faint; one that is faint on both is', () => {
  expect(listen([at(0, 1), at(-26, 2)]).kinds).not.toContain('faint');
  expect(listen([at(-24, 1), at(-30, 2)]).kinds).toContain('faint');
  expect(listen([at(-24, 1)]).kinds).toContain('faint');
});

test('the summary is that of the whole take; silence has no levels', () => {
  const { summary } = listen([at(0, 1)]);
  expect(summary.peakDbfs).toBeGreaterThan(-15);
  expect(summary.loudnessLufs).toBeGreaterThan(-30);
  expect(summary.clippedSamples).toBe(0);
  expect(listen([new Float32Array(rateHz)]).summary).toEqual({
    peakDbfs: null,
    loudnessLufs: null,
    clippedSamples: 0,
  });
});

test('a clap is heard while it is recorded, a channel that falls silent is told once', () => {
  const listener = new TakeListener(rateHz, 1);
  const sound = clap(rateHz, 3);
  const audio = noise(2 * rateHz, -60, 4);
  sound.forEach((value, i) => (audio[rateHz + i] += value));
  const found = listener.process([audio]);
  expect(found.map(({ kind }) => kind)).toEqual(['clap']);
  expect(Math.abs(found[0].at - rateHz)).toBeLessThan(0.02 * rateHz);
  expect(listener.changedSignals()).toEqual([]);
  listener.process([new Float32Array(4 * rateHz)]);
  expect(listener.changedSignals()).toEqual([{ channel: 0, signal: 'none' }]);
  expect(listener.changedSignals()).toEqual([]);
});
