import 'fake-indexeddb/auto';
import type { FarRecording } from '@/core/far/messages';
import { seededRandom } from '@/core/base/random';
import { Resampler } from '@/core/dsp/resampler';
import { readWhole, sourceOf } from '@/core/testing/soundFiles';
import { BlockReader } from '@/storage/blockReader';
import { BlockWriter } from '@/storage/blocks';
import { newId } from '@/storage/projects';
import { layFar } from './layFar';

const rateHz = 48_000;
const speech = readWhole(sourceOf('public/demo/practice-reader.mp3')).then(({ audio }) => audio[0]);
const context = { signal: new AbortController().signal, progress: () => undefined };
const life = newId();

async function stored(...channels: Float32Array[]): Promise<string> {
  const id = newId();
  const writer = new BlockWriter(id, channels.length);
  await writer.write(channels);
  await writer.close();
  return id;
}

async function read(id: string, channel: number, frames: number): Promise<Float32Array> {
  const samples = new Float32Array(frames);
  await new BlockReader([{ id, frames }]).read(id, channel, 0, frames, samples, 0);
  return samples;
}

/** What a line makes of a voice: later, duller, with noise and a hole. */
function overLine(voice: Float32Array, lateFrames: number): Float32Array {
  const random = seededRandom(5);
  return voice.map((_, i) => {
    const at = i - lateFrames;
    const isHole = i > 100_000 && i < 104_000;
    const sample = at < 2 ? 0 : (voice[at] + voice[at - 1] + voice[at - 2]) / 3;
    return (isHole ? 0 : 0.5 * sample) + 0.0005 * (random() * 2 - 1);
  });
}

interface Session {
  seconds: number;
  farHz?: number;
  ppm?: number;
  /** Seconds of the take at which the talent's recording begins and ends. */
  from?: number;
  to?: number;
  /** How much later the sound was than was expected, in seconds. */
  off?: number;
  noClock?: boolean;
}

/**
 * A take over a line, which begins at second 50 of the studio's clock with a handle of 1 s; the talent's
 * clock is 600 s ahead and goes `ppm` faster.
 */
async function session({
  seconds,
  farHz = rateHz,
  ppm = 0,
  from = -1.5,
  to = seconds + 1,
  off = 0,
  noClock = false,
}: Session) {
  const whole = await speech;
  const begin = 4 * rateHz;
  const delaySeconds = 0.2;
  const handleFrames = rateHz;
  const frames = Math.round((seconds + 1.5) * rateHz);
  const sound = whole.subarray(begin, begin + frames);
  const take = { id: '', frames, handleFrames, channels: 2, rateHz };
  // Frame 0 of the take was said a way of the line before it was captured.
  const heard = overLine(sound, Math.round(off * rateHz));
  const other = sound.slice().reverse();
  take.id = await stored(heard, other);
  const startsAt = 50;
  const truth = (studio: number) => 600 + studio * (1 + ppm / 1e6);
  const said = (second: number) => startsAt - delaySeconds + second;
  const first = begin + Math.round((1 + from) * rateHz);
  const piece = whole.subarray(first, begin + Math.round((1 + to) * rateHz));
  const clocks = Math.round(1e6 * (1 + ppm / 1e6));
  const resampler =
    ppm === 0 && farHz === rateHz ? null : new Resampler(rateHz * 1e6, Math.round(farHz * clocks));
  const own = resampler ? Float32Array.from([...resampler.process(piece), ...resampler.flush()]) : piece;
  const recording: FarRecording = {
    id: newId(),
    take: newId(),
    rateHz: farHz,
    channels: 1,
    frames: own.length,
    closed: true,
    startsAt: truth(said(from)),
    life: newId(),
    clock: noClock
      ? null
      : { own: truth(40), other: 40, ppm: (1 / (1 + ppm / 1e6) - 1) * 1e6, errorSeconds: 0.01 },
    studioLife: noClock ? null : life,
  };
  const arrived = [{ id: await stored(own), recording }];
  const input = { take, channel: 0, line: { startsAt, delaySeconds }, life, arrived, sourceId: newId() };
  const laid = await layFar(input, context);
  return {
    laid,
    take,
    sound,
    heard,
    other,
    made: await read(input.sourceId, 0, frames),
    second: await read(input.sourceId, 1, frames),
    own,
  };
}

const equal = (a: Float32Array, b: Float32Array) =>
  Buffer.from(a.slice().buffer).equals(Buffer.from(b.slice().buffer));

/** How far the one is from the other, against its level, in dB. */
function differenceDb(made: Float32Array, sound: Float32Array, from: number, to: number): number {
  let [difference, power] = [0, 0];
  for (let i = from; i < to; i++) {
    difference += (made[i] - sound[i]) ** 2;
    power += sound[i] ** 2;
  }
  return 10 * Math.log10(difference / power);
}

describe('laying what was recorded far away', () => {
  it.each([0, 0.12, -0.15])(
    'at the same rate and clock it is what was recorded, sample for sample (late by %f s)',
    async (off) => {
      const { laid, sound, made, second, other, take } = await session({ seconds: 8, off });
      expect(laid.frames).toBe(take.frames);
      expect(equal(second, other)).toBe(true);
      // It lies where the line's sound lay, within a thousandth of a second, and not where the clocks put it.
      const late = Math.round(off * rateHz);
      const [place] = laid.places;
      expect(place.moments).toBeGreaterThan(3);
      expect(Math.abs((place.lateSeconds ?? 9) + off)).toBeLessThan(0.001);
      const middle = made.subarray(3 * rateHz, 6 * rateHz);
      const found = Array.from({ length: 97 }, (_, i) => i - 48).find((shift) =>
        equal(middle, sound.subarray(3 * rateHz - late + shift, 6 * rateHz - late + shift)),
      );
      expect(found).toBeDefined();
    },
  );

  it.each([
    [44_100, 0],
    [48_000, 150],
    [96_000, -150],
  ])(
    'at %i Hz, with a clock that is %i ppm off, it lies right from its beginning to its end',
    async (farHz, ppm) => {
      const { sound, made } = await session({ seconds: 16, farHz, ppm });
      // Without the drift taken out it would lie over 2 ms off at its end.
      for (const at of [1.5, 8, 15]) {
        const from = Math.round(at * rateHz);
        const shifts = [-2, -1, 0, 1, 2].map((shift) =>
          differenceDb(made.subarray(shift + 4), sound.subarray(4), from, from + rateHz),
        );
        expect(Math.min(...shifts)).toBeLessThan(-12);
      }
    },
  );

  it('keeps the sound of the line where nothing was recorded, and fades between them', async () => {
    const { laid, heard, made, take } = await session({ seconds: 8, from: 2, to: 5 });
    const at = (second: number) => Math.round((1 + second) * rateHz);
    expect(equal(made.subarray(0, at(1.9)), heard.subarray(0, at(1.9)))).toBe(true);
    expect(equal(made.subarray(at(5.1)), heard.subarray(at(5.1)))).toBe(true);
    expect(laid.covered / rateHz).toBeCloseTo(3, 1);
    let worst = 0;
    for (let i = 1; i < take.frames; i++) worst = Math.max(worst, Math.abs(made[i] - made[i - 1]));
    expect(worst).toBeLessThan(0.5);
  });

  it('places one whose clocks nobody has compared by its sound', async () => {
    const { sound, made, laid } = await session({ seconds: 8, from: -1, noClock: true });
    expect(laid.places[0].moments).toBeGreaterThan(3);
    const shifts = Array.from({ length: 97 }, (_, i) => i - 48);
    const middle = made.subarray(3 * rateHz, 6 * rateHz);
    expect(
      shifts.some((shift) => equal(middle, sound.subarray(3 * rateHz + shift, 6 * rateHz + shift))),
    ).toBe(true);
  });

  it('says how much more was recorded than the take has', async () => {
    const { laid } = await session({ seconds: 6, to: 10 });
    expect(laid.places[0].more / rateHz).toBeCloseTo(3.5, 1);
  });
});
