import { seededRandom } from '../base/random';
import { firstDifference, noise, sine } from '../testing/signals';
import { PieceTable, type Piece } from './pieces';
import { heardTable } from './heard';
import { SheetClock } from './clock';
import { Mixer } from './mixer';
import { render } from './render';
import type { SourceReader } from './sourceReader';
import { seeds } from '../testing/seeds';

const rateHz = 48_000;
const joinFrames = 480;

/** Sources in memory, checking that nothing outside them is asked for. */
function memory(sources: Record<string, Float32Array>): SourceReader {
  return {
    lengthOf: (id) => sources[id].length,
    async read(id, _channel, from, frames, output, offset) {
      if (from < 0 || from + frames > sources[id].length) throw new RangeError(`${id}: ${from}+${frames}`);
      output.set(sources[id].subarray(from, from + frames), offset);
    },
  };
}

const piece = (source: string, from: number, length: number, more: Partial<Piece> = {}): Piece =>
  ({ kind: 'audio', source, channel: 0, from, length, gainDb: 0, ...more }) as Piece;

const a = noise(20_000, -20, 1);
const b = noise(20_000, -20, 2);
const sources = memory({ a, b, tone: sine(rateHz, 1, 200, -6), short: noise(100, -20, 3) });

test('a piece alone is its source, bit for bit', async () => {
  const table = PieceTable.of([piece('a', 100, 5000)]);
  expect(await render(table, 0, 5000, sources, { joinFrames })).toEqual(a.slice(100, 5100));
  expect(await render(table, 1234, 100, sources, { joinFrames })).toEqual(a.slice(1334, 1434));
});

test('a split without a gap has no join: the audio goes on bit for bit', async () => {
  const table = heardTable(
    PieceTable.of([piece('a', 0, 3000), piece('b', 0, 10), piece('a', 3000, 3000)]),
    SheetClock.of([{ from: 3000, to: 3010 }], 6010),
  );
  expect(await render(table, 0, 6000, sources, { joinFrames })).toEqual(a.slice(0, 6000));
});

test('gain is in decibels', async () => {
  const table = PieceTable.of([piece('a', 0, 100, { gainDb: -6 } as Partial<Piece>)]);
  const [first] = await render(table, 0, 1, sources, { joinFrames });
  expect(first).toBeCloseTo(a[0] * 10 ** (-6 / 20), 7);
});

test('a join is centred on the cut, keeps the length, and uses audio beyond the cut on both sides', async () => {
  const table = PieceTable.of([piece('a', 1000, 4000), piece('b', 2000, 4000)]);
  const heard = await render(table, 0, 8000, sources, { joinFrames });
  expect(heard).toHaveLength(8000);
  expect(heard.slice(0, 4000 - 240)).toEqual(a.slice(1000, 5000 - 240));
  expect(heard.slice(4000 + 240)).toEqual(b.slice(2000 + 240, 6000));
  for (let i = -240; i < 240; i++) {
    const place = ((i + 240 + 0.5) / 480) * (Math.PI / 2);
    const expected = a[5000 + i] * Math.cos(place) + b[2000 + i] * Math.sin(place);
    expect(heard[4000 + i]).toBeCloseTo(expected, 6);
  }
});

test.each([
  ['nothing beyond either cut', piece('a', 0, 20_000), piece('b', 0, 20_000)],
  ['nothing after the left cut', piece('a', 10_000, 10_000), piece('b', 5000, 5000)],
  ['nothing before the right cut', piece('a', 0, 5000), piece('b', 0, 5000)],
  ['a little of each', piece('a', 0, 19_950), piece('b', 30, 5000)],
])('with %s the fades reach zero where their audio ends: no click', async (_name, left, right) => {
  const loud = memory({ a: new Float32Array(20_000).fill(0.5), b: new Float32Array(20_000).fill(-0.5) });
  const table = PieceTable.of([left, right]);
  const heard = await render(table, left.length - 600, 1200, loud, { joinFrames });
  // Full steps from 0.5 to −0.5 are 1; the steepest fade of 240 frames moves 0.5 · π/2 / 240 · 2 a frame.
  for (let i = 1; i < heard.length; i++) expect(Math.abs(heard[i] - heard[i - 1])).toBeLessThan(0.0075);
  expect(heard[0]).toBeCloseTo(0.5, 6);
  expect(heard[1199]).toBeCloseTo(-0.5, 6);
});

test('across a join of a tone with itself, no step beyond the slope of the tone', async () => {
  // Cut out whole periods: what follows fits, so any step would be the join's own.
  const table = PieceTable.of([piece('tone', 0, 12_000), piece('tone', 24_000, 12_000)]);
  const heard = await render(table, 0, 24_000, sources, { joinFrames });
  const slope = 10 ** (-6 / 20) * 2 * Math.PI * (200 / rateHz);
  const loudestGain = Math.SQRT2;
  for (let i = 1; i < heard.length; i++) {
    const fadeSlope = (10 ** (-6 / 20) * (Math.PI / 2)) / joinFrames;
    // −80 dBFS beyond the signal's own slope at the gain of the join.
    expect(Math.abs(heard[i] - heard[i - 1])).toBeLessThan(slope * loudestGain + fadeSlope + 1e-4);
  }
});

test('pieces shorter than the join do not let two joins meet', async () => {
  const table = PieceTable.of([
    piece('a', 0, 3000),
    piece('short', 20, 60),
    piece('b', 100, 3000),
    piece('a', 9000, 7),
  ]);
  const heard = await render(table, 0, table.frames, sources, { joinFrames });
  expect(heard).toHaveLength(6067);
  expect(heard.every(Number.isFinite)).toBe(true);
});

function randomTable(random: () => number): PieceTable {
  const pieces: Piece[] = [];
  for (let i = 0; i < 25; i++) {
    const length = 1 + Math.floor(random() ** 2 * 2000);
    if (random() < 0.15) pieces.push({ kind: 'silence', length });
    else pieces.push(piece(random() < 0.5 ? 'a' : 'b', Math.floor(random() * (20_000 - length)), length));
  }
  return PieceTable.of(pieces);
}

test.each(seeds(25))('chunks of any size are identical to one piece, seed %d', async (seed) => {
  const random = seededRandom(seed);
  const tracks = [{ table: randomTable(random) }, { table: randomTable(random) }];
  const frames = Math.min(...tracks.map(({ table }) => table.frames));
  const mixer = new Mixer(tracks, sources, { joinFrames });
  const whole = await mixer.mono(0, frames);
  const size = 1 + Math.floor(random() * 3000);
  for (let at = 0; at < frames; at += size) {
    const chunk = await mixer.mono(at, Math.min(size, frames - at));
    expect(firstDifference(chunk, whole.slice(at, at + chunk.length))).toBe(-1);
  }
  // Any place can be rendered on its own.
  const from = Math.floor(random() * frames);
  expect(await mixer.mono(from, Math.min(777, frames - from))).toEqual(
    whole.slice(from, Math.min(frames, from + 777)),
  );
});

describe('stereo', () => {
  const tone = (level: number) => ({
    lengthOf: () => 1000,
    read: async (
      _s: string,
      channel: number,
      _f: number,
      count: number,
      output: Float32Array,
      offset: number,
    ) => {
      output.fill(level * (channel + 1), offset, offset + count);
    },
  });
  const on = (channel: number, side?: 'left' | 'right') => ({
    side,
    table: PieceTable.of([{ kind: 'audio', source: 's', channel, from: 0, length: 100, gainDb: 0 }]),
  });

  test('left and right go to their sides, the middle to both; the mean of both is the mono mix', async () => {
    const tracks = [on(0), on(1, 'left'), on(3, 'right')];
    const sources = tone(0.125);
    const mixer = new Mixer(tracks, sources, { joinFrames: 0 });
    const [left, right] = await mixer.sides(0, 4);
    expect([...left]).toEqual(Array(4).fill(0.375));
    expect([...right]).toEqual(Array(4).fill(0.625));
    const mono = await mixer.mono(0, 4);
    expect([...mono]).toEqual(Array(4).fill(0.5));
    expect(await new Mixer([on(0)], sources, { joinFrames: 0 }).sides(0, 4)).toHaveLength(1);
  });
});
