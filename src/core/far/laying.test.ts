import { alignNear, type TwoRecordings } from '../dsp/alignment';
import { Resampler } from '../dsp/resampler';
import { seededRandom } from '../base/random';
import { noise } from '../testing/signals';
import { ClockComparison, type ClockLine } from './clock';
import { placeByClocks, planLaying } from './laying';

const rateHz = 8000;
const stepSeconds = 256 / 48_000;

/**
 * A voice as a function of true time, in seconds: noise in syllables and pauses, which can be read between
 * samples.
 */
function voice(seed: number) {
  const white = noise(1 << 18, -6, seed);
  const soft = white.map(
    (_, i) => (white[i] + white[(i + 1) % white.length] + white[(i + 2) % white.length]) / 3,
  );
  const random = seededRandom(seed);
  const beats = Float32Array.from({ length: 4096 }, () => (random() < 0.3 ? 0 : 0.1 + 0.4 * random()));
  return (seconds: number) => {
    const at = seconds * rateHz * 1.3;
    const whole = Math.floor(at);
    const [a, b] = [soft[whole & (soft.length - 1)], soft[(whole + 1) & (soft.length - 1)]];
    const level = Math.floor(seconds / 7) % 3 === 2 ? 0.002 : beats[Math.floor(seconds * 6) & 4095];
    return level * (a + (b - a) * (at - whole));
  };
}

interface Session {
  minutes: number;
  ppm: number;
  offset: number;
  jitterMs: number;
  delayMs: number;
  /** How long the line's sound is on its way at a moment, in seconds. */
  soundDelay: (seconds: number) => number;
  seed: number;
}

/**
 * A take over a line, with known clocks: the recording begins 0.7 s before the take, its sound comes late,
 * softer, with noise and with holes, as over a bad line.
 */
function session({ minutes, ppm, offset, jitterMs, delayMs, soundDelay, seed }: Session) {
  const random = seededRandom(seed);
  const truth = (studio: number) => offset + studio * (1 + ppm / 1e6);
  const studioOf = (talent: number) => (talent - offset) / (1 + ppm / 1e6);
  const comparison = new ClockComparison();
  const [begins, length] = [60, minutes * 60];
  for (let at = 0; at < begins + length + 60; at++) {
    const [there, back] = [0, 0].map(() => (delayMs + jitterMs * random()) / 1000);
    if (random() < 0.1) continue;
    const sent = truth(at);
    comparison.add({ sent, received: at + there, answered: at + there, back: truth(at + there + back) });
  }
  const startsAt = truth(begins - 0.7);
  const sound = voice(seed);
  const holes = noise(4096, -60, seed + 5);
  const line = (t: number) => {
    const isHole = Math.floor((begins + t) * 50) % 37 === 0;
    return isHole ? 0 : 0.4 * sound(begins + t - soundDelay(t)) + holes[Math.floor(t * rateHz) & 4095];
  };
  const far = (t: number) => sound(studioOf(startsAt + t));
  const samples = (of: (t: number) => number, from: number, seconds: number) =>
    new Float32Array(Math.round(seconds * rateHz)).map((_, i) => of(from + i / rateHz));
  const two: TwoRecordings = {
    levels: [new Float32Array(length / stepSeconds), new Float32Array((length + 1) / stepSeconds)],
    stepSeconds,
    rateHz,
    read: async (which, from, seconds) => samples(which === 0 ? line : far, from, seconds),
  };
  const recording: { clock: ClockLine | null; startsAt: number } = { clock: comparison.line(), startsAt };
  /** Where second t of the line's sound is in the recording, in truth. */
  const placeOf = (t: number) => truth(begins + t - soundDelay(0)) - startsAt;
  return { recording, two, begins, length, placeOf };
}

const errorMs = (placed: { offsetSeconds: number; ppm: number } | null, t: number, truth: number) =>
  placed ? 1000 * Math.abs(placed.offsetSeconds + t * (1 + placed.ppm / 1e6) - truth) : Infinity;

describe('laying a far recording over what the line brought of it', () => {
  const usual = { minutes: 60, offset: 600, ppm: 40, jitterMs: 50, delayMs: 200, soundDelay: () => 0.26 };

  it.each([1, 4])(
    'is right within 5 ms by clocks, within 1 ms by sound, at both ends of an hour (%i)',
    async (seed) => {
      const { recording, two, begins, length, placeOf } = session({ ...usual, seed, ppm: 40 * (seed - 2.5) });
      const byClocks = placeByClocks(recording, { startsAt: begins, delaySeconds: 0.26 });
      for (const t of [0, length]) expect(errorMs(byClocks, t, placeOf(t))).toBeLessThan(5);
      // How long the sound was on its way is known to a tenth of a second only.
      const guessed = placeByClocks(recording, { startsAt: begins, delaySeconds: 0.18 });
      const bySound = guessed && (await alignNear(two, guessed, 0.4));
      for (const t of [0, length]) expect(errorMs(bySound, t, placeOf(t))).toBeLessThan(1);
      expect(bySound?.moments).toBeGreaterThan(40);
    },
  );

  it('keeps to the clocks where the line moves about', async () => {
    // A buffer that grows in the second half, by 60 ms.
    const soundDelay = (t: number) => (t < 400 ? 0.2 : 0.26);
    const { recording, two, begins, placeOf } = session({ ...usual, minutes: 10, seed: 7, soundDelay });
    const guessed = placeByClocks(recording, { startsAt: begins, delaySeconds: 0.25 });
    const found = guessed && (await alignNear(two, guessed, 0.4));
    for (const t of [0, 300]) expect(errorMs(found, t, placeOf(t))).toBeLessThan(5);
  });

  it('lies where the line kept its sound for longest, not where it was on the way there', async () => {
    // A buffer that is too long at first and comes down for more than half of the take.
    const soundDelay = (t: number) => 0.2 + Math.max(0, Math.ceil(10 - t) * 0.006);
    const { recording, two, begins, placeOf } = session({ ...usual, minutes: 16 / 60, seed: 3, soundDelay });
    const guessed = placeByClocks(recording, { startsAt: begins, delaySeconds: 0.25 });
    const found = guessed && (await alignNear(two, guessed, 0.4));
    const kept = placeOf(12) + soundDelay(0) - soundDelay(12);
    expect(errorMs(found, 12, kept)).toBeLessThan(1);
  });

  it.each([2, 4, 12])('places a take of %i seconds', async (seconds) => {
    const { recording, two, begins, placeOf } = session({ ...usual, minutes: seconds / 60, seed: 3 });
    const guessed = placeByClocks(recording, { startsAt: begins, delaySeconds: 0.2 });
    const found = guessed && (await alignNear(two, guessed, 0.4));
    expect(errorMs(found, 0, placeOf(0))).toBeLessThan(1);
  });

  it('says nothing of silence, and nothing without clocks', async () => {
    const { two } = session({ ...usual, minutes: 1, seed: 3 });
    const silent = {
      ...two,
      read: async (_: 0 | 1, __: number, s: number) => new Float32Array(Math.round(s * rateHz)),
    };
    expect(await alignNear(silent, { offsetSeconds: 0, ppm: 0 }, 0.4)).toBeNull();
    expect(placeByClocks({ clock: null, startsAt: 0 }, { startsAt: 0, delaySeconds: 0 })).toBeNull();
  });
});

describe('what is done to a recording', () => {
  it('is nothing where rate and clock are the same: its samples stay as they are', () => {
    expect(planLaying({ offsetSeconds: 1.25, ppm: 3 }, 48_000, 48_000, 30)).toEqual({
      convert: null,
      first: Math.round((1.25 + 45e-6) * 48_000),
    });
  });

  it.each([200, -200])('is nothing in a take of 8 s, %i ppm or not: it lies right within 1 ms', (ppm) => {
    const { convert, first } = planLaying({ offsetSeconds: 0.7, ppm }, 48_000, 48_000, 8);
    expect(convert).toBeNull();
    for (const t of [0, 4, 8]) {
      const off = first / 48_000 - (0.7 + (t * ppm) / 1e6);
      expect(Math.abs(off)).toBeLessThan(0.001);
    }
  });

  it('is a change of rate alone where the clocks agree', () => {
    const { convert, first } = planLaying({ offsetSeconds: -0.5, ppm: 0 }, 44_100, 48_000, 600);
    expect(convert).toEqual({ fromHz: 44_100, toHz: 48_000 });
    expect(first).toBe(-24_000);
  });

  // A click at a known second of the far clock has to come out at its frame, at the beginning and an hour
  // later.
  it.each([
    [44_100, 48_000, 60],
    [48_000, 44_100, -90],
    [48_000, 48_000, 25],
  ])('takes out the drift: %i Hz to %i Hz, %i ppm', (farHz, toHz, ppm) => {
    const offsetSeconds = 0.7;
    const { convert, first } = planLaying({ offsetSeconds, ppm }, farHz, toHz, 3600);
    if (!convert) throw new Error('there is drift');
    for (const t of [0.5, 3599]) {
      const far = (offsetSeconds + t * (1 + ppm / 1e6)) * farHz;
      const frame = (far * convert.toHz) / convert.fromHz - first;
      expect(Math.abs(frame / toHz - t)).toBeLessThan(0.00002);
    }
    expect(() => new Resampler(convert.fromHz, convert.toHz)).not.toThrow();
  });
});
