import { audioPiece } from '../testing/naiveTimeline';
import { strike } from './edits';
import * as joints from './joints';
import { PieceTable, silence, type Piece } from './pieces';
import { emptyTimeline, type Timeline } from './timeline';

/** Cuts, fades and joints at their edges; what each edit does is in editing.test.ts. */
const part = (...tracks: Piece[][]): Timeline => {
  const empty = emptyTimeline(tracks.map((_, index) => `T${index + 1}`));
  return {
    ...empty,
    tracks: empty.tracks.map((track, index) => ({ ...track, table: PieceTable.of(tracks[index]) })),
  };
};
const pieces = ({ tracks }: Timeline, track = 0) => tracks[track].table.pieces;
const tone: Piece = {
  kind: 'tone',
  source: 'r',
  channel: 0,
  start: 0,
  end: 90,
  seed: 1,
  from: 0,
  length: 50,
  gainDb: 0,
};
const joint = { frames: null, shape: 'power' } as const;

test('cuts are where pieces meet that do not go on, with what is struck between them', () => {
  const timeline = part([
    audioPiece('a', 0, 100),
    { ...audioPiece('a', 100, 50), gainDb: 3 } as Piece,
    audioPiece('b', 0, 50),
    { ...audioPiece('b', 50, 100), joint },
  ]);
  // A change of gain is no cut, a joint is one even where the audio goes on.
  expect(joints.cutsOf(timeline)).toEqual([
    { from: 150, to: 150 },
    { from: 200, to: 200 },
  ]);
  expect(joints.cutsOf(strike(timeline, { from: 40, to: 60 }))[0]).toEqual({ from: 40, to: 60 });
  expect(joints.cutsOf(strike(timeline, { from: 140, to: 160 }))).toEqual([
    { from: 140, to: 160 },
    { from: 200, to: 200 },
  ]);
  // What is struck at an end is beside no cut.
  expect(joints.cutsOf(strike(part([audioPiece('a', 0, 100)]), { from: 0, to: 20 }))).toEqual([]);
  expect(joints.cutsOf(part([]))).toEqual([]);
});

test('the cuts of all tracks, each once, in order', () => {
  const two = part(
    [audioPiece('a', 0, 60), audioPiece('b', 0, 40)],
    [audioPiece('c', 0, 20), audioPiece('d', 0, 40), audioPiece('e', 0, 40)],
  );
  expect(joints.allCuts(two).map(({ from }) => from)).toEqual([20, 60]);
});

test('a fade belongs to the edge it is at, on the tracks that are meant; over nothing there is none', () => {
  const whole = part([audioPiece('a', 0, 100)], [audioPiece('b', 0, 100)]);
  const range = { from: 20, to: 50 };
  const fadedIn = joints.setFade(whole, range, 'fadeIn', 'smooth', new Set(['track-1']));
  expect(
    pieces(fadedIn).map(({ length, fadeIn, fadeOut }) => [length, fadeIn?.frames, fadeOut?.frames]),
  ).toEqual([
    [20, undefined, undefined],
    [80, 30, undefined],
  ]);
  expect(pieces(fadedIn, 1)).toEqual(pieces(whole, 1));
  const fadedOut = joints.setFade(whole, range, 'fadeOut', 'smooth');
  for (const track of [0, 1])
    expect(pieces(fadedOut, track).map(({ length, fadeOut }) => [length, fadeOut?.frames])).toEqual([
      [50, 30],
      [50, undefined],
    ]);
  expect(pieces(joints.setFade(fadedOut, range, 'fadeOut', null))).toEqual(pieces(whole));
  // The other edge's fade stays.
  expect(pieces(joints.setFade(fadedIn, range, 'fadeOut', null))[1].fadeIn?.frames).toBe(30);
  expect(joints.setFade(whole, { from: 20, to: 20 }, 'fadeIn', 'smooth')).toBe(whole);
});

test('a joint moves as far as both recordings have audio; tone and silence have without end', () => {
  const lengths = () => 1000;
  const room = (left: Piece, right: Piece, at = left.length) =>
    joints.jointRoom(PieceTable.of([left, right]), at, lengths);
  expect(room(audioPiece('a', 100, 200), audioPiece('b', 30, 80))).toEqual({ least: -30, most: 79 });
  expect(room(audioPiece('a', 950, 40), audioPiece('b', 300, 80))).toEqual({ least: -39, most: 10 });
  expect(room(tone, audioPiece('b', 300, 80))).toEqual({ least: -49, most: 79 });
  expect(room(audioPiece('a', 950, 40), tone)).toEqual({ least: -39, most: 10 });
  expect(room(silence(40), audioPiece('b', 5, 80))).toEqual({ least: -5, most: 79 });
  // Where there is no cut there is nothing to move.
  expect(room(audioPiece('a', 0, 200), audioPiece('b', 30, 80), 150)).toEqual({ least: 0, most: 0 });
  expect(room(audioPiece('a', 0, 200), audioPiece('b', 30, 80), 0)).toEqual({ least: 0, most: 0 });
});

test('a strike moves with its two ends: it keeps a frame, and stays on the sheet', () => {
  const struck = strike(part([audioPiece('a', 0, 100)]), { from: 40, to: 60 });
  const moved = (byFrom: number, byTo: number) =>
    joints.moveStrike(struck, { from: 40, to: 60 }, byFrom, byTo).struck;
  expect(moved(-5, 7)).toEqual([{ from: 35, to: 67 }]);
  expect(moved(5, -5)).toEqual([{ from: 45, to: 55 }]);
  expect(moved(-90, 90)).toEqual([{ from: 0, to: 100 }]);
  expect(moved(30, 0)).toEqual([{ from: 70, to: 71 }]);
  expect(moved(900, 0)).toEqual([{ from: 99, to: 100 }]);
  expect(joints.moveStrike(struck, { from: 40, to: 60 }, 0, 0)).toBe(struck);
});

test('the piece around a place goes from cut to cut, and is trimmed to the place', () => {
  const timeline = strike(part([audioPiece('a', 0, 60), audioPiece('b', 0, 40)]), { from: 80, to: 90 });
  const around = (at: number) => joints.pieceAround(timeline, at);
  expect(around(-5)).toEqual({ from: 0, to: 60 });
  expect(around(59)).toEqual({ from: 0, to: 60 });
  expect(around(60)).toEqual({ from: 60, to: 80 });
  expect(around(95)).toEqual({ from: 90, to: 100 });
  expect(around(500)).toEqual({ from: 90, to: 100 });
  expect(joints.pieceAround(part([]), 3)).toBeNull();
  expect(joints.trimPiece(timeline, 20, 'start').struck[0]).toEqual({ from: 0, to: 20 });
  expect(joints.trimPiece(timeline, 20, 'end').struck[0]).toEqual({ from: 20, to: 60 });
  expect(joints.trimPiece(timeline, 60, 'start')).toBe(timeline);
  expect(joints.trimPiece(part([]), 0, 'end').struck).toEqual([]);
});
