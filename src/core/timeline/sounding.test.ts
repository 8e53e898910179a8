import { dbToAmplitude } from '../base/units';
import { Limiter } from '../dsp/limiter';
import { audioPiece } from '../testing/naiveTimeline';
import { firstDifference, noise } from '../testing/signals';
import { heardTable, heardTracks } from './heard';
import { Mixer } from './mixer';
import type { Output } from './output';
import { PartRenderer } from './partRenderer';
import { PieceTable, silence, type Piece } from './pieces';
import {
  framesOfSounding,
  sameSounding,
  soundingOf,
  soundingOfTracks,
  tracksOf,
  type Sounding,
} from './sounding';
import type { SourceReader } from './sourceReader';
import { clockOf, emptyStaves, emptyTimeline, type Side, type Timeline } from './timeline';

const rateHz = 48_000;
const settings = { joins: { joinFrames: 100, toneJoinFrames: 400 }, rateHz };
const length = 12_000;
const audio = { a: noise(length, -12, 1), b: noise(length, -18, 2) };
const sources: SourceReader = {
  lengthOf: () => length,
  read: (source, _channel, from, frames, output, offset) => {
    output.set(audio[source as 'a' | 'b'].subarray(from, from + frames), offset);
    return Promise.resolve();
  },
};
const tableOf = (source: string) => PieceTable.of([audioPiece(source, 0, length)]);
const tracks = (a?: Side, b?: Side) => [
  { table: tableOf('a'), ...(a && { side: a }) },
  { table: tableOf('b'), ...(b && { side: b }) },
];
const output: Output = { gainDb: 6, dcOffsets: [0.01, -0.02], ceiling: null };

describe('two soundings are the same', () => {
  const sounding = soundingOfTracks(tracks('left', 'right'), settings, output);
  const withPiece = (piece: Piece): Sounding => ({
    ...sounding,
    tracks: [{ ...sounding.tracks[0], pieces: [piece] }, sounding.tracks[1]],
  });

  test('when all that is heard is, whoever made them', () => {
    const again = JSON.parse(JSON.stringify(sounding)) as Sounding;
    expect(sameSounding(sounding, sounding)).toBe(true);
    expect(sameSounding(sounding, again)).toBe(true);
    // No output is one that does nothing.
    const plain = soundingOfTracks(tracks(), settings);
    expect(sameSounding(plain, { ...plain, output: { gainDb: 0, dcOffsets: [0, 0], ceiling: null } })).toBe(
      true,
    );
  });

  test.each<[string, Sounding]>([
    ['another rate', { ...sounding, rateHz: 44_100 }],
    ['joins of another length', { ...sounding, joins: { ...settings.joins, joinFrames: 101 } }],
    ['joins of tone of another length', { ...sounding, joins: { ...settings.joins, toneJoinFrames: 401 } }],
    ['another gain of the whole', { ...sounding, output: { ...output, gainDb: 5 } }],
    ['no gain of the whole', soundingOfTracks(tracks('left', 'right'), settings)],
    ['one track less', { ...sounding, tracks: sounding.tracks.slice(1) }],
    ['sides changed over', soundingOfTracks(tracks('right', 'left'), settings, output)],
    ['a side less', soundingOfTracks(tracks('left'), settings, output)],
    ['another source', withPiece(audioPiece('b', 0, length))],
    ['a piece more', { ...sounding, tracks: [{ ...sounding.tracks[0], pieces: [] }, sounding.tracks[1]] }],
    ['a joint', withPiece({ ...audioPiece('a', 0, length), joint: { frames: 9, shape: 'power' } } as Piece)],
  ])('and not with %s', (_name, other) => {
    expect(sameSounding(sounding, other)).toBe(false);
    expect(sameSounding(other, sounding)).toBe(false);
  });
});

test('a sounding is what is heard of a part: without what is struck, with sides and output', () => {
  const staves = emptyStaves([
    { id: 'l', name: 'L', side: 'left' },
    { id: 'm', name: 'M' },
  ]);
  const timeline: Timeline = {
    ...staves,
    tracks: staves.tracks.map((track, index) => ({ ...track, table: tableOf(index === 0 ? 'a' : 'b') })),
    struck: [{ from: 100, to: 300 }],
    output,
  };
  const sounding = soundingOf(timeline, settings);
  expect(sounding.tracks.map(({ side }) => side)).toEqual(['left', undefined]);
  expect(sounding.tracks[0].pieces).toEqual([audioPiece('a', 0, 100), audioPiece('a', 300, length - 300)]);
  expect(sounding.output).toBe(output);
  expect(framesOfSounding(sounding)).toBe(length - 200);
  expect(framesOfSounding({ ...sounding, tracks: [] })).toBe(0);
  expect(tracksOf(sounding)).toEqual(heardTracks(timeline));
  expect(soundingOf(emptyTimeline(['V']), settings)).toEqual({ ...settings, tracks: [{ pieces: [] }] });
  // The same table for the same clock: what is drawn and played sixty times a second is not made anew.
  const [{ table }] = timeline.tracks;
  expect(heardTable(table, clockOf(timeline))).toBe(heardTable(table, clockOf(timeline)));
  expect(heardTable(table, clockOf({ ...timeline, struck: [] }))).toBe(table);
});

describe('a mixer', () => {
  const short = { table: PieceTable.of([audioPiece('b', 0, 500), silence(length - 500)]) };
  const expected = (weigh: (a: number, b: number) => number) =>
    audio.a.map((sample, i) => weigh(sample, audio.b[i]));

  test('sums what is in the middle, and puts sides where they belong', async () => {
    const middle = new Mixer(tracks(), sources, settings.joins);
    expect(middle.frames).toBe(length);
    expect(new Mixer([], sources, settings.joins).frames).toBe(0);
    const [sum] = await middle.sides(0, length);
    expect(
      firstDifference(
        sum,
        expected((a, b) => a + b),
      ),
    ).toBe(-1);
    expect(firstDifference(await middle.mono(0, length), sum)).toBe(-1);
    const stereo = await new Mixer(tracks('left', 'right'), sources, settings.joins).sides(0, length);
    expect(stereo.map((side, index) => firstDifference(side, index === 0 ? audio.a : audio.b))).toEqual([
      -1, -1,
    ]);
    // One in the middle is on both sides, as loud as it was.
    const one = await new Mixer(tracks('left'), sources, settings.joins).sides(0, length);
    expect(
      firstDifference(
        one[0],
        expected((a, b) => a + b),
      ),
    ).toBe(-1);
    expect(firstDifference(one[1], audio.b)).toBe(-1);
  });

  test('in mono is the mean of its sides', async () => {
    const mixer = new Mixer(tracks('left', 'right'), sources, settings.joins);
    const half = expected((a, b) => Math.fround(0.5 * a) + 0.5 * b);
    expect(firstDifference(await mixer.mono(0, length), half)).toBe(-1);
    const alone = await new Mixer([{ ...tracks()[0], side: 'left' }], sources, settings.joins).mono(0, 100);
    expect(
      firstDifference(
        alone,
        audio.a.slice(0, 100).map((sample) => sample / 2),
      ),
    ).toBe(-1);
    const last = await new Mixer([tracks()[0], short], sources, settings.joins).mono(length - 10, 10);
    expect(firstDifference(last, audio.a.slice(-10))).toBe(-1);
  });
});

describe('a part as it is heard', () => {
  const part = (given: Output | undefined, ...sides: Side[]) =>
    new PartRenderer(soundingOfTracks(tracks(...sides), settings, given), sources);

  test('without an output is the mix, in the channels that are wanted', async () => {
    const mono = part(undefined);
    const [sum] = await mono.mix('playing', 0, length);
    expect(mono.heardFrames).toBe(length);
    expect(await mono.mix('cueing', 0, length)).toEqual([sum]);
    expect(await mono.mix({ delivering: 1 }, 0, length)).toEqual([sum]);
    expect(await mono.mix({ delivering: 2 }, 0, length)).toEqual([sum, sum]);
    const stereo = part(undefined, 'left', 'right');
    expect(await stereo.mix({ delivering: 2 }, 0, length)).toEqual(await stereo.mix('playing', 0, length));
    const [mean] = await stereo.mix({ delivering: 1 }, 0, length);
    expect(mean[7]).toBeCloseTo((audio.a[7] + audio.b[7]) / 2, 7);
  });

  test('with one: offset out of each side, then gain; mono is the mean of what is heard', async () => {
    const gain = dbToAmplitude(6);
    const stereo = part(output, 'left', 'right');
    const sides = await stereo.mix('playing', 0, length);
    const wanted = [audio.a.map((x) => (x - 0.01) * gain), audio.b.map((x) => (x + 0.02) * gain)];
    sides.forEach((samples, side) => {
      for (let i = 0; i < length; i += 97) expect(samples[i]).toBeCloseTo(wanted[side][i], 6);
    });
    const [mean] = await stereo.mix({ delivering: 1 }, 0, length);
    expect(mean[99]).toBeCloseTo((wanted[0][99] + wanted[1][99]) / 2, 6);
    // One offset is for both sides; none is none.
    const [, right] = await part({ ...output, dcOffsets: [0.01] }, 'left', 'right').mix('playing', 0, 10);
    expect(right[3]).toBeCloseTo((audio.b[3] - 0.01) * gain, 6);
    const [bare] = await part({ ...output, dcOffsets: [] }).mix('playing', 0, 10);
    expect(bare[3]).toBeCloseTo((audio.a[3] + audio.b[3]) * gain, 6);
  });

  test('limited: never over the ceiling, the same in any chunks, silence beyond both ends; says how much', async () => {
    const ceiling = { dbfs: -12, kind: 'sample' } as const;
    const limited = part({ gainDb: 0, dcOffsets: [0, 0], ceiling });
    const [whole] = await limited.mix('playing', 0, length);
    expect(Math.max(...whole.map(Math.abs))).toBeLessThanOrEqual(dbToAmplitude(-12));
    expect(limited.reductionDb).toBeGreaterThan(6);
    const most = limited.reductionDb;
    const [sum] = await part(undefined).mix('playing', 0, length);
    const limiter = new Limiter(rateHz, ceiling);
    const padded = new Float32Array(length + 2 * limiter.reach);
    padded.set(sum, limiter.reach);
    expect(firstDifference(limiter.process([padded]).audio[0], whole)).toBe(-1);
    for (const chunk of [length, 5000, 777]) {
      let at = 40;
      for await (const [samples] of limited.stream('playing', { from: 40, to: length - 9 }, chunk)) {
        expect(firstDifference(samples, whole.slice(at, at + samples.length))).toBe(-1);
        at += samples.length;
      }
      expect(at).toBe(length - 9);
    }
    // A quieter stretch does not take back what the loudest one needed.
    await limited.mix('playing', length, 10);
    expect(limited.reductionDb).toBe(most);
  });
});
