import type { Alignment } from '../dsp/alignment';
import { audioPiece } from '../testing/naiveTimeline';
import { layInStep, loneRecording } from './layInStep';
import { PieceTable, silence, type Piece } from './pieces';
import { emptyStaves, sheetFramesOf, type Timeline } from './timeline';

const rateHz = 1000;
const found = (offsetSeconds: number, ppm = 0): Alignment => ({
  offsetSeconds,
  ppm,
  moments: 9,
  spreadMs: 0.1,
  bleedMs: 3,
});

function twoTracks(first: Piece[], second: Piece[]): Timeline {
  const bare = emptyStaves([
    { id: 'a', name: 'Host' },
    { id: 'b', name: 'Guest' },
  ]);
  const pieces = [first, second];
  return { ...bare, tracks: bare.tracks.map((track, i) => ({ ...track, table: PieceTable.of(pieces[i]) })) };
}

test('a recording alone is found with the place of its beginning, cut ones are none', () => {
  expect(loneRecording(PieceTable.of([silence(40), audioPiece('x', 15, 100)]))).toMatchObject({ origin: 25 });
  expect(loneRecording(PieceTable.of([silence(40)]))).toBeNull();
  const cut = [audioPiece('x', 0, 10), silence(5), audioPiece('x', 20, 10)];
  expect(loneRecording(PieceTable.of(cut))).toBeNull();
});

const laid = (offsetSeconds: number, ppm = 0) => {
  const timeline = twoTracks(
    [silence(500), audioPiece('host', 0, 5000)],
    [audioPiece('guest', 0, 5000), silence(500)],
  );
  const first = loneRecording(timeline.tracks[0].table);
  if (!first) throw new Error('no recording');
  const made = { source: 'guest-2', channel: 0, frames: 4990 };
  return layInStep(timeline, first, 'b', made, found(offsetSeconds, ppm), rateHz);
};

test('the second begins where it belongs, all of it', () => {
  // What is at 0 s of the first is at 0.2 s of the second.
  const { tracks } = laid(0.2);
  expect(tracks[0].table.startOf(1)).toBe(500);
  expect(tracks[1].table.pieces).toMatchObject([
    { kind: 'silence', length: 300 },
    { kind: 'audio', source: 'guest-2', from: 0, length: 4990 },
    { kind: 'silence', length: 210 },
  ]);
});

test('where it begins before the sheet, time is opened for both', () => {
  const timeline = laid(1.7);
  expect(timeline.tracks[0].table.startOf(1)).toBe(1700);
  expect(timeline.tracks[1].table.pieces[0]).toMatchObject({ kind: 'audio', from: 0 });
  expect(sheetFramesOf(timeline)).toBe(6700);
});

test('on the clock of the first, the place counts in its seconds', () => {
  const { tracks } = laid(-2, 100_000);
  expect(tracks[1].table.startOf(1)).toBe(500 + Math.round(2000 / 1.1));
});
