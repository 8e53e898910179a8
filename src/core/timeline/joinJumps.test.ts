import { audioPiece } from '../testing/naiveTimeline';
import { sine } from '../testing/signals';
import { joinJumps } from './joinJumps';
import { PartRenderer } from './partRenderer';
import { PieceTable, silence, type Piece } from './pieces';
import { soundingOfTracks } from './sounding';
import type { Side } from './timeline';

const rateHz = 48_000;
const length = 9600;
/** A low tone, whose neighbouring samples are close; held values; and a step in the recording itself. */
const audio: Record<string, Float32Array> = {
  tone: sine(rateHz, 0.2, 50, -20),
  high: new Float32Array(length).fill(0.2),
  low: new Float32Array(length).fill(0.1),
  near: new Float32Array(length).fill(0.104),
  noise: sine(rateHz, 0.2, 12_000, -6),
};
const sources = {
  lengthOf: () => length,
  read: (source: string, _channel: number, from: number, frames: number, out: Float32Array, at: number) => {
    out.set(audio[source].subarray(from, from + frames), at);
    return Promise.resolve();
  },
};
const joint = (frames: number | null) => ({ joint: { frames, shape: 'power' as const } });
const cut = (left: string, right: string, more: Partial<Piece> = {}): Piece[] => [
  audioPiece(left, 0, 4800),
  { ...audioPiece(right, 4800, 4800), ...more } as Piece,
];

function jumps(tracks: { pieces: Piece[]; side?: Side }[], joinFrames = 0) {
  const sounding = soundingOfTracks(
    tracks.map(({ pieces, side }) => ({ table: PieceTable.of(pieces), ...(side && { side }) })),
    { joins: { joinFrames, toneJoinFrames: joinFrames }, rateHz },
  );
  return joinJumps(sounding, new PartRenderer(sounding, sources), sources.lengthOf);
}
const at = (frame: number) => [{ from: frame, to: frame }];

test('a cut between two levels jumps, once, where the cut is', async () => {
  expect(await jumps([{ pieces: cut('high', 'low') }])).toEqual(at(4800));
});

test('a crossfade of two milliseconds and more does not, a shorter one may', async () => {
  expect(await jumps([{ pieces: cut('high', 'low') }], 96)).toEqual([]);
  expect(await jumps([{ pieces: cut('high', 'low', joint(96)) }])).toEqual([]);
  expect(await jumps([{ pieces: cut('high', 'low', joint(1)) }])).toEqual(at(4800));
});

test('a joint inside audio that goes on does not jump, nor does a step under −46 dBFS', async () => {
  expect(await jumps([{ pieces: cut('tone', 'tone', joint(0)) }])).toEqual([]);
  expect(await jumps([{ pieces: cut('low', 'near') }])).toEqual([]);
});

test('nor one that is no more than what the sound does anyway', async () => {
  expect(await jumps([{ pieces: cut('noise', 'high') }])).toEqual([]);
});

test('on either side of a stereo pair, and on one of two voices', async () => {
  const still = [audioPiece('low', 0, 9600)];
  const wanted = at(4800);
  expect(
    await jumps([
      { pieces: still, side: 'left' },
      { pieces: cut('high', 'low'), side: 'right' },
    ]),
  ).toEqual(wanted);
  expect(
    await jumps([
      { pieces: cut('high', 'low'), side: 'left' },
      { pieces: still, side: 'right' },
    ]),
  ).toEqual(wanted);
  expect(await jumps([{ pieces: still }, { pieces: cut('high', 'low') }])).toEqual(wanted);
});

test('every cut in order of time, also from and to silence; ends of the part are no cuts', async () => {
  const pieces = [audioPiece('high', 0, 2000), silence(2000), audioPiece('low', 4000, 3000)];
  expect(await jumps([{ pieces }])).toEqual([...at(2000), ...at(4000)]);
  // Too near the end to tell what is usual there: nothing is said.
  expect(await jumps([{ pieces: [audioPiece('high', 0, 100), audioPiece('low', 100, 100)] }])).toEqual([]);
  const late = [audioPiece('high', 0, 470), audioPiece('low', 470, 480)];
  expect(await jumps([{ pieces: late }])).toEqual(at(470));
});
