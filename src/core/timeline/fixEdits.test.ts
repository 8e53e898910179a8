import { audioPiece, modelOf } from '../testing/naiveTimeline';
import { applySoundFix, withOutput } from './fixEdits';
import { heardTracks } from './heard';
import { PieceTable, silence, type Piece, type ToneRegion } from './pieces';
import { clockOf, emptyTimeline, heardFramesOf, sheetFramesOf, type Timeline } from './timeline';

const region: ToneRegion = { source: 'room', channel: 0, start: 0, end: 5000 };
const part = (...tracks: Piece[][]): Timeline => {
  const empty = emptyTimeline(tracks.map((_, index) => `T${index + 1}`));
  return {
    ...empty,
    tracks: empty.tracks.map((track, index) => ({ ...track, table: PieceTable.of(tracks[index]) })),
  };
};
const none = { head: 0, tail: 0, holes: [] };
const everywhere = () => region;
const nowhere = () => null;
const kinds = (timeline: Timeline, track = 0) =>
  heardTracks(timeline)[track].table.pieces.map(({ kind, length }) => `${kind} ${length}`);
/** Struck at both ends and in the middle: 900 of 1,000 frames are heard. */
const struckPart = (): Timeline => ({
  ...part([audioPiece('a', 0, 1000)]),
  struck: [
    { from: 0, to: 50 },
    { from: 500, to: 520 },
    { from: 970, to: 1000 },
  ],
});

test('nothing to fix changes nothing that is heard', () => {
  expect(modelOf(applySoundFix(struckPart(), none, nowhere))).toEqual(modelOf(struckPart()));
});

test('head and tail get longer by room tone beside what is heard, inside what is struck', () => {
  const fixed = applySoundFix(struckPart(), { ...none, head: 30, tail: 40 }, everywhere);
  expect(kinds(fixed)).toEqual(['tone 30', 'audio 450', 'audio 450', 'tone 40']);
  expect(clockOf(fixed).struck).toEqual([
    { from: 0, to: 50 },
    { from: 530, to: 550 },
    { from: 1040, to: 1070 },
  ]);
  // Without a tone what is opened is silence.
  const silent = applySoundFix(struckPart(), { ...none, head: 30, tail: 40 }, nowhere);
  expect(kinds(silent)).toEqual(['silence 30', 'audio 450', 'audio 450', 'silence 40']);
});

test('head and tail get shorter by striking: the sheet keeps its length, across what is struck already', () => {
  const fixed = applySoundFix(struckPart(), { ...none, head: -460, tail: -20 }, nowhere);
  expect(sheetFramesOf(fixed)).toBe(1000);
  expect(heardFramesOf(fixed)).toBe(900 - 480);
  expect(clockOf(fixed).struck).toEqual([
    { from: 0, to: 530 },
    { from: 950, to: 1000 },
  ]);
});

test('holes are filled where they are heard, on the first track that has a tone; other silence as well as gaps', () => {
  const timeline = part(
    [audioPiece('a', 0, 400), { ...silence(100), meant: true }, audioPiece('a', 500, 500)],
    [audioPiece('b', 0, 1000)],
  );
  const holes = [{ from: 400, to: 450 }];
  const fixed = applySoundFix(timeline, { ...none, holes }, everywhere);
  expect(kinds(fixed)).toEqual(['audio 400', 'tone 50', 'silence 50', 'audio 500']);
  expect(kinds(fixed, 1)).toEqual(['audio 1000']);
  const second = applySoundFix(timeline, { ...none, holes }, (id) => (id === 'track-2' ? region : null));
  expect(kinds(second)).toEqual(['audio 400', 'silence 100', 'audio 500']);
  expect(kinds(second, 1)).toEqual(['audio 400', 'tone 50', 'audio 550']);
  expect(modelOf(applySoundFix(timeline, { ...none, holes }, nowhere))).toEqual(modelOf(timeline));
});

test('all at once: each hole stays where it is heard, whatever is added before it', () => {
  const timeline = part([audioPiece('a', 0, 1000)]);
  const holes = [
    { from: 100, to: 110 },
    { from: 600, to: 630 },
  ];
  const fixed = applySoundFix(timeline, { head: 25, tail: -50, holes }, everywhere);
  expect(kinds(fixed)).toEqual(['tone 25', 'audio 100', 'tone 10', 'audio 490', 'tone 30', 'audio 320']);
});

test('an output is put on and taken off, and nothing else is another', () => {
  const timeline = part([audioPiece('a', 0, 10)]);
  const output = { gainDb: 2, dcOffsets: [0], ceiling: null };
  const louder = withOutput(timeline, output);
  expect(louder).toEqual({ ...timeline, output });
  expect(withOutput(louder, undefined)).toEqual(timeline);
  expect('output' in withOutput(louder, undefined)).toBe(false);
});
