import { audioPiece } from '../testing/naiveTimeline';
import { continues, equalPieces, PieceTable, sameStream, silence, type Piece } from './pieces';

const audio = audioPiece('a', 100, 50);
const tone: Piece = {
  kind: 'tone',
  source: 'a',
  channel: 0,
  start: 0,
  end: 900,
  seed: 1,
  from: 100,
  length: 50,
  gainDb: 0,
};
const quiet = silence(50);
const meant: Piece = { ...quiet, meant: true };
const fade = { frames: 5, shape: 'power' } as const;
const all: Piece[] = [
  audio,
  tone,
  quiet,
  meant,
  { ...audio, source: 'b' } as Piece,
  { ...audio, channel: 1 } as Piece,
  { ...audio, from: 101 } as Piece,
  { ...audio, length: 51 },
  { ...audio, gainDb: 1 } as Piece,
  { ...audio, joint: { frames: null, shape: 'power' } },
  { ...audio, joint: { frames: 5, shape: 'power' } },
  { ...audio, joint: { frames: 5, shape: 'smooth' } },
  { ...audio, fadeIn: fade },
  { ...audio, fadeOut: fade },
  { ...audio, fadeIn: { ...fade, frames: 6 } },
  { ...audio, fadeIn: { ...fade, shape: 'straight' } },
  { ...tone, seed: 2 } as Piece,
  { ...tone, start: 1 } as Piece,
  { ...tone, end: 901 } as Piece,
  { ...tone, from: 101 } as Piece,
  { ...quiet, length: 51 },
];

test('pieces are equal when nothing about them differs', () => {
  for (const [i, one] of all.entries())
    for (const [j, other] of all.entries())
      expect([i, j, equalPieces(one, JSON.parse(JSON.stringify(other)) as Piece)]).toEqual([i, j, i === j]);
});

test('of one stream are pieces of one channel of a recording, of one tone, or silence of one kind', () => {
  const alone = [
    audio,
    tone,
    quiet,
    meant,
    { ...audio, source: 'b' } as Piece,
    { ...tone, seed: 2 } as Piece,
  ];
  for (const [i, one] of alone.entries())
    for (const [j, other] of alone.entries()) expect(sameStream(one, other)).toBe(i === j);
  expect(sameStream(audio, { ...audio, from: 900, gainDb: 3, fadeIn: fade } as Piece)).toBe(true);
  expect(sameStream(audio, { ...audio, channel: 1 } as Piece)).toBe(false);
});

test('a piece goes on in the next where its source does, with the same gain and no fade between', () => {
  const next = audioPiece('a', 150, 20);
  expect(continues(audio, next)).toBe(true);
  expect(continues(quiet, silence(3))).toBe(true);
  for (const [left, right] of [
    [audio, audioPiece('a', 151, 20)],
    [audio, { ...next, gainDb: 1 } as Piece],
    [audio, { ...next, fadeIn: fade }],
    [{ ...audio, fadeOut: fade }, next],
    [quiet, meant],
    [audio, quiet],
  ])
    expect(continues(left, right)).toBe(false);
});

test('a table is canonical: neighbours that are one are one, a joint keeps them apart, nothing is empty', () => {
  const joint = { frames: 30, shape: 'power' } as const;
  const table = PieceTable.of([
    audio,
    audioPiece('a', 150, 0),
    audioPiece('a', 150, 20),
    silence(0),
    silence(4),
  ]);
  expect(table.pieces).toEqual([audioPiece('a', 100, 70), silence(4)]);
  expect(table.frames).toBe(74);
  expect(table.longestJoin).toBe(0);
  const kept = PieceTable.of([
    audio,
    { ...audioPiece('a', 150, 20), joint },
    { ...audioPiece('b', 0, 9), joint: { ...joint, frames: 12 } },
  ]);
  expect(kept.pieces).toHaveLength(3);
  expect(kept.longestJoin).toBe(30);
  expect(PieceTable.of([{ ...audio, fadeOut: fade }, audioPiece('a', 150, 20)]).pieces).toHaveLength(2);
  // The fade at the end of what is taken in is the fade of the whole.
  expect(PieceTable.of([audio, { ...audioPiece('a', 150, 20), fadeOut: fade }]).pieces).toEqual([
    { ...audioPiece('a', 100, 70), fadeOut: fade },
  ]);
});
