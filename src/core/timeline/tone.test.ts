import { PowerSpectrum } from '../dsp/spectrum';
import { firstDifference, noise, sine } from '../testing/signals';
import { room as roomNoise } from '../testing/sounds';
import { PieceTable, type Piece, type TonePiece } from './pieces';
import { render } from './render';
import type { SourceReader } from './sourceReader';

const rateHz = 48_000;
const joins = { joinFrames: 480, toneJoinFrames: 1920 };

const memory = (sources: Record<string, Float32Array>): SourceReader => ({
  lengthOf: (id) => sources[id].length,
  async read(id, _channel, from, frames, output, offset) {
    if (from < 0 || from + frames > sources[id].length) throw new RangeError(`${id}: ${from}+${frames}`);
    output.set(sources[id].subarray(from, from + frames), offset);
  },
});

const recording = roomNoise(40 * rateHz, rateHz, 5, -62);
const sources = memory({ recording, white: noise(4 * rateHz, -60, 8) });
const tone = (start: number, end: number, length: number, seed = 3): TonePiece => ({
  kind: 'tone',
  source: 'recording',
  channel: 0,
  start,
  end,
  seed,
  from: 0,
  length,
  gainDb: 0,
});
const audio = (from: number, length: number): Piece => ({
  kind: 'audio',
  source: 'recording',
  channel: 0,
  from,
  length,
  gainDb: 0,
});

/** Levels in dB in octave bands 125 Hz to 8 kHz. */
function octaves(samples: Float32Array): number[] {
  const spectrum = new PowerSpectrum(4096);
  const sum = new Float64Array(2049);
  let count = 0;
  for (let at = 0; at + 4096 <= samples.length; at += 2048, count++) {
    const powers = spectrum.of(samples, at);
    for (let bin = 0; bin < sum.length; bin++) sum[bin] += powers[bin];
  }
  return [125, 250, 500, 1000, 2000, 4000, 8000].map((centre) => {
    let power = 0;
    const first = Math.ceil((centre / Math.SQRT2 / rateHz) * 4096);
    const last = Math.floor(((centre * Math.SQRT2) / rateHz) * 4096);
    for (let bin = first; bin <= last; bin++) power += sum[bin] / count;
    return 10 * Math.log10(power);
  });
}

test.each([1, 3, 10])(
  'a patch from %d s of room differs from what is around it by less than 1 dB in each octave',
  async (seconds) => {
    const table = PieceTable.of([
      audio(0, 8 * rateHz),
      tone(20 * rateHz, (20 + seconds) * rateHz, 8 * rateHz),
      audio(10 * rateHz, 8 * rateHz),
    ]);
    const heard = await render(table, 0, table.frames, sources, joins);
    const around = octaves(heard.slice(0, 7.9 * rateHz));
    octaves(heard.slice(8 * rateHz, 16 * rateHz)).forEach((level, band) =>
      expect(Math.abs(level - around[band])).toBeLessThan(1),
    );
    // At its seams too: any 250 ms across a join is as loud as the room, within what noise itself varies by.
    const level = (from: number) => {
      let sum = 0;
      for (let i = from; i < from + rateHz / 4; i++) sum += heard[i] ** 2;
      return 10 * Math.log10(sum / (rateHz / 4));
    };
    for (const seam of [8, 16]) expect(Math.abs(level((seam - 0.125) * rateHz) + 62)).toBeLessThan(1);
  },
);

test('it has no period: a minute of tone is like itself at no distance', async () => {
  const table = PieceTable.of([tone(0, 2 * rateHz, 60 * rateHz)]);
  const heard = await render(table, 0, 60 * rateHz, sources, joins);
  // Envelope of 20 ms levels; a loop would show as a correlation near 1 at its length.
  const step = rateHz / 50;
  const levels = Array.from({ length: 3000 }, (_, i) => {
    let sum = 0;
    for (let k = i * step; k < (i + 1) * step; k++) sum += heard[k] ** 2;
    return Math.log(sum);
  });
  const mean = levels.reduce((a, b) => a + b) / levels.length;
  const centred = levels.map((value) => value - mean);
  const energy = centred.reduce((sum, value) => sum + value * value, 0);
  for (let lag = 20; lag < 1500; lag++) {
    let product = 0;
    for (let i = 0; i + lag < centred.length; i++) product += centred[i] * centred[i + lag];
    expect(product / energy).toBeLessThan(0.5);
  }
});

test('chunks of any size give the identical tone, and a cut through a patch is not heard', async () => {
  const length = 5 * rateHz;
  const whole = await render(PieceTable.of([tone(0, rateHz, length)]), 0, length, sources, joins);
  for (const size of [777, 10_000]) {
    for (let at = 0; at < length; at += size) {
      const frames = Math.min(size, length - at);
      const part = await render(PieceTable.of([tone(0, rateHz, length)]), at, frames, sources, joins);
      expect(firstDifference(part, whole.slice(at, at + frames))).toBe(-1);
    }
  }
  const [left, right] = [
    PieceTable.of([tone(0, rateHz, length)]).slice(0, 70_000),
    PieceTable.of([tone(0, rateHz, length)]).slice(70_000, length),
  ];
  const joined = PieceTable.of([...left, ...right]);
  expect(joined.pieces).toHaveLength(1);
});

test('other seeds sound different', async () => {
  const one = await render(PieceTable.of([tone(0, rateHz, rateHz, 1)]), 0, rateHz, sources, joins);
  const two = await render(PieceTable.of([tone(0, rateHz, rateHz, 2)]), 0, rateHz, sources, joins);
  expect(firstDifference(one, two)).not.toBe(-1);
});

describe('gain and fades', () => {
  const steady = sine(rateHz, 2, 997, -20);
  const tones = memory({ steady });
  const piece = (from: number, length: number, more: Partial<Piece> = {}): Piece =>
    ({
      kind: 'audio',
      source: 'steady',
      channel: 0,
      from,
      length,
      gainDb: 0,
      ...more,
    }) as Piece;

  test('where only the gain changes the level moves from one to the other, without a swell', async () => {
    const table = PieceTable.of([piece(0, 48_000), piece(48_000, 48_000, { gainDb: -6 } as Partial<Piece>)]);
    const heard = await render(table, 0, 96_000, tones, joins);
    for (let i = 47_000; i < 49_000; i++)
      expect(Math.abs(heard[i])).toBeLessThanOrEqual(Math.abs(steady[i]) * 1.0001 + 1e-7);
    expect(heard[49_000]).toBeCloseTo(steady[49_000] * 10 ** (-6 / 20), 6);
  });

  test.each(['power', 'straight', 'smooth'] as const)(
    'a %s fade begins at nothing and ends at all',
    async (shape) => {
      const fade = { frames: 4800, shape };
      const table = PieceTable.of([piece(0, 48_000, { fadeIn: fade, fadeOut: fade })]);
      const heard = await render(table, 0, 48_000, tones, joins);
      const half = { power: Math.SQRT1_2, straight: 0.5, smooth: 0.5 }[shape];
      expect(Math.abs(heard[0])).toBeLessThan(1e-3);
      expect(heard[2400] / steady[2400]).toBeCloseTo(half, 2);
      expect(heard[4800]).toBeCloseTo(steady[4800], 6);
      expect(heard[48_000 - 2400] / steady[48_000 - 2400]).toBeCloseTo(half, 2);
      expect(Math.abs(heard[47_999])).toBeLessThan(1e-3);
    },
  );

  test('a join of a set length reaches as far as it says', async () => {
    const table = PieceTable.of([
      piece(0, 40_000),
      piece(50_000, 40_000, { joint: { frames: 9600, shape: 'smooth' } }),
    ]);
    const heard = await render(table, 0, 80_000, tones, joins);
    expect(heard.slice(0, 35_200)).toEqual(steady.slice(0, 35_200));
    expect(heard[35_300]).not.toBe(steady[35_300]);
    expect(heard.slice(44_800)).toEqual(steady.slice(54_800, 90_000));
  });
});
