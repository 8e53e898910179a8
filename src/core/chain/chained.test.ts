import { seededRandom } from '../base/random';
import { amplitudeToDb } from '../base/units';
import { trackOf, through, voiceThrough } from '../testing/chains';
import { voiceAt48 } from '../testing/prompts';
import { add, concat, firstDifference, noise, sine } from '../testing/signals';
import { gridOf } from './cells';
import { ChainedVoice } from './chained';
import { moveStep, stepsOn, type ChainStep } from './chain';
import { addStep, usualOrder, usualStep } from './settings';
import { learnRoom } from './softerRoom';

const rateHz = 48_000;
const grid = gridOf(rateHz);
const room = noise(40 * rateHz, -52, 7);
const { audio: clean } = voiceAt48('en', 4, 2);
const voice = add(clean, room.subarray(0, clean.length)).subarray(0, 12 * rateHz);
const profile = learnRoom(room.subarray(0, rateHz), grid);

/** Every kind of step, as far as it can go with values that people use. */
const every: ChainStep[] = [
  { ...usualStep('rumble', 'a'), hertz: 20, slopeDb: 48 },
  { ...usualStep('hum', 'b'), harmonics: [1, 2, 3, 4, 5, 6, 7, 8] },
  { ...usualStep('plosives', 'c'), overDb: 4 },
  { ...usualStep('room', 'd'), amountDb: 12, profile },
  usualStep('pauses', 'e'),
  { ...usualStep('pauses', 'f'), by: 'speech', roomDb: [-60, -60, -65], closeMs: 1000 },
  {
    ...usualStep('equaliser', 'g'),
    bands: [
      { shape: 'bell', hertz: 60, gainDb: 6, q: 8 },
      { shape: 'highShelf', hertz: 7000, gainDb: 4, q: 0.7 },
    ],
  },
  { ...usualStep('sibilance', 'h'), thresholdDb: -45, mostDb: 18 },
  { ...usualStep('phrases', 'i'), seconds: 6, mostDb: 12, towardsDb: -14 },
  { ...usualStep('even', 'j'), thresholdDb: -34, ratio: 8, releaseMs: 1000, makeUpDb: 6 },
  { ...usualStep('even', 'k'), thresholdDb: -34, detector: 'peak', releaseMs: 60, attackMs: 1 },
  { ...usualStep('ceiling', 'l'), gainDb: 6, ceilingDb: -6 },
];
const seven: ChainStep[] = [every[0], every[3], every[4], every[6], every[7], every[9], every[11]].map(
  (step, index) => ({ ...step, id: `${index}` }),
);

const named = every.map((step) => ({ name: `${step.kind} (${step.id})`, step }));
const whole = (audio: Float32Array, steps: readonly ChainStep[]) => through(audio, steps, rateHz);
const worstDb = (a: Float32Array, b: Float32Array) =>
  amplitudeToDb(a.reduce((most, x, i) => Math.max(most, Math.abs(x - b[i])), 0));

test('there is a step of every kind to look at', () => {
  expect(new Set(every.map(({ kind }) => kind))).toEqual(new Set(usualOrder));
});

describe.each(named)('$name', ({ step }) => {
  test('does something to a voice, and off it does nothing', async () => {
    expect(firstDifference(await whole(voice, [step]), voice)).toBeGreaterThanOrEqual(0);
    expect(firstDifference(await whole(voice, [{ ...step, on: false }]), voice)).toBe(-1);
  });

  test('any chunks, in any order and from anywhere, are the same to the bit', async () => {
    const all = await whole(voice, [step]);
    const random = seededRandom(step.id.charCodeAt(0));
    const chained = voiceThrough([voice], [step], rateHz);
    for (let turn = 0; turn < 12; turn++) {
      const from = Math.floor(random() * (voice.length - 10));
      const count = 1 + Math.floor(random() * Math.min(60_000, voice.length - from));
      const [part] = await chained.read(from, count);
      expect(firstDifference(part, all.slice(from, from + count))).toBe(-1);
    }
  });

  test('cells join under −120 dB: with the grid elsewhere it sounds the same', async () => {
    // By whole hops of what is looked at, so that nothing but where cells begin is another.
    const moved = 11 * 1024;
    const later = await whole(concat(new Float32Array(moved), voice), [step]);
    const all = await whole(voice, [step]);
    // What stands before the voice is silence either way, but for filters that begin in the middle of it.
    expect(worstDb(later.subarray(moved), all)).toBeLessThan(-120);
  });

  test.each([
    ['silence', new Float32Array(50_000)],
    [
      'a full-scale square',
      Float32Array.from({ length: 50_000 }, (_, i) => (Math.floor(i / 100) % 2 ? 1 : -1)),
    ],
    ['denormals', new Float32Array(50_000).fill(1e-40)],
    ['an offset', new Float32Array(50_000).fill(0.5)],
    ['one sample', new Float32Array(1).fill(1)],
    ['nothing', new Float32Array(0)],
    ['noise over full scale', noise(50_000, 6, 3)],
  ])('%s stays finite and of its length, and silence is silence', async (name, audio) => {
    const made = await whole(audio, [step]);
    expect(made).toHaveLength(audio.length);
    expect(made.findIndex((sample) => !Number.isFinite(sample))).toBe(-1);
    if (name === 'silence') expect(made.findIndex((sample) => sample !== 0)).toBe(-1);
    // No step makes more of a signal than its gains say it may.
    expect(made.findIndex((sample) => Math.abs(sample) > 40)).toBe(-1);
  });

  test('the channels of a pair are turned alike', async () => {
    const quiet = voice.map((sample) => sample / 4);
    const chained = voiceThrough([voice, quiet], [step], rateHz);
    const [left, right] = await chained.read(0, voice.length);
    expect(
      worstDb(
        left.map((sample) => sample / 4),
        right,
      ),
    ).toBeLessThan(-120);
  });
});

test('a chain of seven is the same from anywhere, and joins under −110 dB', async () => {
  const all = await whole(voice, seven);
  const chained = voiceThrough([voice], seven, rateHz);
  const from = 7 * rateHz + 123;
  const [part] = await chained.read(from, 100_000);
  expect(firstDifference(part, all.slice(from, from + 100_000))).toBe(-1);
  const moved = 5 * 1024;
  const later = await whole(concat(new Float32Array(moved), voice), seven);
  expect(worstDb(later.subarray(moved), all)).toBeLessThan(-110);
});

test('a chain with nothing on gives the recording back to the bit', async () => {
  const off = every.map((step) => ({ ...step, on: false }));
  expect(stepsOn({ name: '', steps: off })).toEqual([]);
  expect(firstDifference(await whole(voice, off), voice)).toBe(-1);
});

test('the order of steps is heard', async () => {
  const [a, b] = [every[9], every[6]];
  expect(firstDifference(await whole(voice, [a, b]), await whole(voice, [b, a]))).toBeGreaterThanOrEqual(0);
});

describe('another chain on the same voice', () => {
  test('takes over the first steps as far as they are the same, and sounds as if made anew', async () => {
    const first = ChainedVoice.of(trackOf(voice), seven, rateHz);
    await first.read(0, rateHz);
    const changed = seven.map((step) => (step.kind === 'even' ? { ...step, ratio: 2 } : step));
    const next = first.with(changed);
    const taken = next.stages.map((stage, index) => stage === first.stages[index]);
    expect(taken).toEqual([true, true, true, true, true, false, false]);
    const [made] = await next.read(0, voice.length);
    expect(firstDifference(made, await whole(voice, changed))).toBe(-1);
  });

  test('what stands behind a step that was taken out is made anew', () => {
    const first = ChainedVoice.of(trackOf(voice), seven, rateHz);
    const next = first.with(seven.slice(1));
    expect(next.stages.some((stage, index) => stage === first.stages[index])).toBe(false);
  });
});

test('audio that cannot be read fails, and is read again when it is asked for again', async () => {
  let broken = true;
  const track = trackOf(sine(rateHz, 1, 440, -12));
  const chained = ChainedVoice.of(
    {
      channels: 1,
      reach: 0,
      read: (from, count) => (broken ? Promise.reject(new Error('gone')) : track.read(from, count)),
    },
    [every[0]],
    rateHz,
  );
  await expect(chained.read(0, 100)).rejects.toThrow('gone');
  broken = false;
  const [again] = await chained.read(0, rateHz);
  expect(again.some((sample) => sample !== 0)).toBe(true);
});

describe('a chain is put together', () => {
  const chain = { name: '', steps: [usualStep('rumble', '1'), usualStep('even', '2')] };

  test('a new step takes the place its kind usually has', () => {
    const next = addStep(addStep(chain, usualStep('pauses', '3')), usualStep('ceiling', '4'));
    expect(next.steps.map(({ kind }) => kind)).toEqual(['rumble', 'pauses', 'even', 'ceiling']);
  });

  test('a step is moved to a place, and its ends are ends', () => {
    const order = (to: number) => moveStep(chain, '2', to).steps.map(({ id }) => id);
    expect(order(0)).toEqual(['2', '1']);
    expect(order(-3)).toEqual(['2', '1']);
    expect(order(9)).toEqual(['1', '2']);
    expect(moveStep(chain, 'nobody', 0)).toBe(chain);
  });

  test('sixteen steps are the most', () => {
    let full = chain as Parameters<typeof addStep>[0];
    for (let i = 0; i < 30; i++) full = addStep(full, usualStep('equaliser', `more ${i}`));
    expect(full.steps).toHaveLength(16);
  });
});
