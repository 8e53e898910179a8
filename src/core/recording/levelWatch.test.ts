import { add, chunksOf, concat, noise } from '../testing/signals';
import { prompts, promptRateHz as rateHz } from '../testing/prompts';
import { LevelWatch, type Finding } from './levelWatch';

const room = (seconds: number, seed = 1) => noise(Math.round(seconds * rateHz), -65, seed);
/** Speech at −20 dBFS RMS in a room, `gainDb` louder. */
const [reading] = prompts('en', 1, 4);
const spoken = (gainDb: number) => {
  const loud = reading.map((value) => Math.max(-1, Math.min(1, value * 10 ** (gainDb / 20))));
  return add(loud, room(loud.length / rateHz, 2));
};

function watch(audio: Float32Array, longest = 5000): Finding[] {
  const level = new LevelWatch(rateHz);
  const found = [...chunksOf(audio, longest, 7)].flatMap((chunk) => level.process(chunk));
  return [...found, ...level.finish()];
}

test('a passage that clips is one finding, from its first to its last clipped sample', () => {
  const lead = room(2);
  const found = watch(concat(lead, spoken(16), room(2, 3)));
  const clipped = found.filter(({ kind }) => kind === 'clipped');
  expect(clipped.length).toBeGreaterThan(0);
  for (const { at, length } of clipped) {
    expect(at).toBeGreaterThanOrEqual(lead.length);
    expect(at + length).toBeLessThanOrEqual(lead.length + reading.length);
  }
  // Less than one finding for each half second: not one for each peak.
  expect(clipped.length).toBeLessThan(reading.length / rateHz / 0.6);
  expect(watch(concat(lead, spoken(0), room(2, 3))).filter(({ kind }) => kind === 'clipped')).toEqual([]);
});

/** Every wanted sound over −24 dBFS: common practice. */
test('speech whose peaks all stay under −24 dBFS is faint; usual speech and an empty room are not', () => {
  const faint = watch(concat(room(2), spoken(-24), room(2, 3)));
  expect(faint.map(({ kind }) => kind)).toContain('faint');
  const [{ at, length }] = faint;
  expect(at).toBeGreaterThan(1.8 * rateHz);
  expect(length).toBeGreaterThan(1.5 * rateHz);
  expect(watch(concat(room(2), spoken(0), room(2, 3)))).toEqual([]);
  expect(watch(room(40))).toEqual([]);
});

test('any chunking gives the same findings', () => {
  const audio = concat(room(1), spoken(16), room(1, 3), spoken(-24), room(1, 4));
  const whole = watch(audio, audio.length);
  expect(whole.length).toBeGreaterThan(1);
  for (const longest of [128, 1000, 9999]) expect(watch(audio, longest)).toEqual(whole);
});

test('a muted microphone is told after 3 s, an absent voice after 20 s, and both are taken back', () => {
  const level = new LevelWatch(rateHz);
  const signalAfter = (audio: Float32Array) => {
    level.process(audio);
    return level.signal;
  };
  expect(signalAfter(spoken(0))).toBe('sound');
  expect(signalAfter(new Float32Array(2.9 * rateHz))).toBe('sound');
  expect(signalAfter(new Float32Array(0.2 * rateHz))).toBe('none');
  expect(signalAfter(room(10))).toBe('sound');
  expect(signalAfter(room(11, 5))).toBe('quiet');
  expect(signalAfter(spoken(0))).toBe('sound');
});
