import { seededRandom } from '../base/random';
import { noise, sine } from '../testing/signals';
import { fallingGain, heardPieces, joinAt, risingGain, type Ramp } from './joins';
import { fadeShapes, isAdjacent, PieceTable, type FadeShape, type Piece } from './pieces';
import { render } from './render';
import type { SourceReader } from './sourceReader';
import { seeds } from '../testing/seeds';

const rateHz = 48_000;
const joins = { joinFrames: 480, toneJoinFrames: 1920 };
const lengths = () => 200_000;

const memory = (sources: Record<string, Float32Array>): SourceReader => ({
  lengthOf: (id) => sources[id].length,
  async read(id, _channel, from, frames, output, offset) {
    output.set(sources[id].subarray(from, from + frames), offset);
  },
});
const piece = (source: string, from: number, length: number, more: Partial<Piece> = {}): Piece =>
  ({ kind: 'audio', source, channel: 0, from, length, gainDb: 0, ...more }) as Piece;
const tone = (length: number): Piece => ({
  kind: 'tone',
  source: 'a',
  channel: 0,
  start: 0,
  end: 48_000,
  seed: 1,
  from: 0,
  length,
  gainDb: 0,
});

describe('ramps', () => {
  const ramp = (shape: FadeShape): Ramp => ({ from: 1000, to: 1400, shape });

  test.each(fadeShapes)('%s: from nothing to all, never back; falling is rising turned round', (shape) => {
    let before = -1;
    for (let frame = 990; frame < 1410; frame++) {
      const gain = risingGain(ramp(shape), frame);
      expect(gain).toBeGreaterThanOrEqual(before);
      expect(fallingGain(ramp(shape), 2399 - frame)).toBeCloseTo(gain, 12);
      before = gain;
    }
    expect(risingGain(ramp(shape), 999)).toBe(0);
    expect(risingGain(ramp(shape), 1400)).toBe(1);
  });

  test('even power keeps the power of unrelated sounds, the others the sum of the same sound', () => {
    for (let frame = 1000; frame < 1400; frame++) {
      const sums = fadeShapes.map((shape) => [
        risingGain(ramp(shape), frame) ** 2 + fallingGain(ramp(shape), frame) ** 2,
        risingGain(ramp(shape), frame) + fallingGain(ramp(shape), frame),
      ]);
      expect(sums[fadeShapes.indexOf('power')][0]).toBeCloseTo(1, 12);
      expect(sums[fadeShapes.indexOf('straight')][1]).toBeCloseTo(1, 12);
      expect(sums[fadeShapes.indexOf('smooth')][1]).toBeCloseTo(1, 12);
    }
  });
});

describe('the length of a join', () => {
  const between = (left: Piece, right: Piece) => joinAt(left, right, 10_000, joins, lengths);
  const frames = (join: ReturnType<typeof between>) => join && join.rising.to - join.rising.from;

  test('is the usual one, longer beside room tone, or as it was set', () => {
    expect(frames(between(piece('a', 1000, 9000), piece('b', 5000, 9000)))).toBe(480);
    expect(frames(between(piece('a', 1000, 9000), tone(9000)))).toBe(1920);
    expect(frames(between(tone(9000), piece('b', 5000, 9000)))).toBe(1920);
    const set = piece('b', 5000, 9000, { joint: { frames: 96, shape: 'straight' } });
    expect(between(piece('a', 1000, 9000), set)?.rising).toMatchObject({
      from: 9952,
      to: 10_048,
      shape: 'straight',
    });
    const usual = piece('b', 5000, 9000, { joint: { frames: null, shape: 'smooth' } });
    expect(frames(between(piece('a', 1000, 9000), usual))).toBe(480);
  });

  test('is nothing where the sound goes on, were it split or not', () => {
    expect(between(piece('a', 0, 500), piece('a', 500, 500))).toBeNull();
    expect(
      between(piece('a', 0, 500), piece('a', 500, 500, { joint: { frames: null, shape: 'power' } })),
    ).toBeNull();
    expect(isAdjacent(piece('a', 0, 500), piece('a', 500, 500, { gainDb: 3 } as Partial<Piece>))).toBe(true);
    expect(
      between(piece('a', 0, 500), piece('a', 500, 500, { gainDb: 3 } as Partial<Piece>))?.rising.shape,
    ).toBe('smooth');
  });

  test('a long join set by hand is found from wherever the heard range begins', () => {
    const table = PieceTable.of([
      piece('a', 1000, 60_000),
      piece('b', 70_000, 60_000, { joint: { frames: 48_000, shape: 'power' } }),
    ]);
    // Half a second before the cut the second piece sounds already.
    const sounding = heardPieces(table, 40_000, 40_001, joins, lengths);
    expect(sounding.map(({ piece: one }) => one.kind === 'audio' && one.source)).toEqual(['a', 'b']);
  });
});

describe('no step is heard at a join', () => {
  /** The steepest step between neighbouring samples. */
  const steepest = (samples: Float32Array) => {
    let most = 0;
    for (let i = 1; i < samples.length; i++) most = Math.max(most, Math.abs(samples[i] - samples[i - 1]));
    return most;
  };
  const loudest = (samples: Float32Array) =>
    samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
  const sources = {
    low: sine(rateHz, 4, 97, -6),
    high: sine(rateHz, 4, 1003, -12, 40),
    room: noise(4 * rateHz, -60, 3),
    quiet: noise(4 * rateHz, -66, 4),
  };
  const names = Object.keys(sources) as (keyof typeof sources)[];

  test.each(seeds(24))('between tones and noise, cut anywhere, seed %d', async (seed) => {
    const random = seededRandom(seed);
    const pick = () => names[Math.floor(random() * names.length)];
    const [left, right] = [pick(), pick()];
    const shape = fadeShapes[Math.floor(random() * fadeShapes.length)];
    const frames = 96 + Math.floor(random() * 4800);
    const from = () => 10_000 + Math.floor(random() * 80_000);
    const table = PieceTable.of([
      piece(left, from(), 20_000),
      piece(right, from(), 20_000, { joint: { frames, shape } }),
    ]);
    const heard = await render(table, 0, 40_000, memory(sources), joins);
    // What the two signals and the ramp itself can do, and −80 dBFS more.
    const slopes = steepest(sources[left]) + steepest(sources[right]);
    const ramp = (loudest(sources[left]) + loudest(sources[right])) * (Math.PI / 2 / frames);
    expect(steepest(heard)).toBeLessThan(slopes + ramp + 1e-4);
  });
});
