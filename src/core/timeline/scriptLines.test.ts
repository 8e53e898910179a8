import { audioPiece } from '../testing/naiveTimeline';
import { addMark, closeUp, insertTime, strike } from './edits';
import { AnchorIndex, anchorAt, sourceStretch } from './anchors';
import { PieceTable } from './pieces';
import { clearLines, lineReadings, lineStates, placeLine } from './scriptLines';
import type { Timeline } from './timeline';

const lines = [{ id: 'one' }, { id: 'two' }, { id: 'three' }];
const start: Timeline = {
  tracks: [{ id: 't', name: 'Voice', table: PieceTable.of([audioPiece('a', 0, 1000)]) }],
  struck: [],
  marks: [],
  places: [],
};
const laid = [
  ['one', 100],
  ['two', 400],
].reduce((timeline, [line, at]) => placeLine(timeline, String(line), Number(at), 0, `m-${line}`), start);
const stateOf = (timeline: Timeline, line: string) => lineStates(timeline, lines).get(line)?.state;

describe('lines of the script on the sheet', () => {
  test('a reading goes from its mark to the next; what has none is not read', () => {
    expect(lineReadings(laid)).toMatchObject([
      { line: 'one', from: 100, to: 400 },
      { line: 'two', from: 400, to: 1000 },
    ]);
    expect(lines.map(({ id }) => stateOf(laid, id))).toEqual(['read', 'read', 'unread']);
  });

  test('read twice, until one reading is struck; marked while a flub in it is heard', () => {
    const twice = placeLine(laid, 'one', 700, 50, 'again');
    expect(stateOf(twice, 'one')).toBe('twice');
    expect(stateOf(strike(twice, { from: 100, to: 400 }), 'one')).toBe('read');
    const flubbed = addMark(laid, { id: 'f', kind: 'flub', at: 450, length: 50, name: 'Flub' });
    expect(stateOf(flubbed, 'two')).toBe('marked');
    expect(stateOf(strike(flubbed, { from: 440, to: 510 }), 'two')).toBe('read');
  });

  test('a mark pressed again nearby moves; marks go with their audio and stay at a joint', () => {
    expect(lineReadings(placeLine(laid, 'one', 120, 50, 'new'))).toHaveLength(2);
    expect(lineReadings(insertTime(laid, 200, 30))[1].from).toBe(430);
    const closed = closeUp(strike(laid, { from: 50, to: 450 }), { from: 0, to: 1000 });
    expect(lineReadings(closed).map(({ line, from }) => [line, from])).toEqual([
      ['one', 50],
      ['two', 50],
    ]);
    expect(clearLines(laid).marks).toEqual([]);
    expect(clearLines(start)).toBe(start);
    expect(lineReadings(clearLines(laid, 'one')).map(({ line }) => line)).toEqual(['two']);
  });

  test('only a mark of the same line is moved, up to as near as is said', () => {
    const noted = addMark(laid, { id: 'n', kind: 'note', at: 110, length: 0, name: 'Noise' });
    const again = placeLine(noted, 'two', 120, 500, 'new');
    expect(again.marks.map(({ id, at }) => [id, at])).toEqual([
      ['m-one', 100],
      ['n', 110],
      ['new', 120],
    ]);
    expect(placeLine(laid, 'one', 150, 50, 'new').marks).toHaveLength(2);
    expect(placeLine(laid, 'one', 151, 50, 'new').marks).toHaveLength(3);
  });

  test('a part mark ends a reading, other marks do not; a line that is nowhere is no reading', () => {
    const ended = addMark(laid, { id: 'p', kind: 'part', at: 250, length: 0, name: 'Two' });
    expect(lineReadings(ended)[0]).toMatchObject({ line: 'one', from: 100, to: 250 });
    expect(lineReadings(ended)[1]).toMatchObject({ line: 'two', from: 400, to: 1000 });
    const noted = addMark(laid, { id: 'n', kind: 'note', at: 250, length: 0, name: 'Noise' });
    expect(lineReadings(noted)[0].to).toBe(400);
    const stray = addMark(laid, { id: 's', kind: 'line', at: 500, length: 0, name: '' });
    expect(lineReadings(stray).map(({ line }) => line)).toEqual(['one', 'two']);
    const atEnd = placeLine(laid, 'three', 1000, 0, 'end');
    expect(stateOf(atEnd, 'three')).toBe('unread');
  });

  test('what is to be looked at counts for the line it touches, a point as well as a range', () => {
    const flagged = (from: number, to: number) =>
      ['one', 'two'].map((line) => lineStates(laid, lines, [{ from, to }]).get(line)?.state);
    expect(flagged(399, 400)).toEqual(['marked', 'read']);
    expect(flagged(400, 401)).toEqual(['read', 'marked']);
    expect(flagged(0, 100)).toEqual(['read', 'read']);
    expect(flagged(50, 900)).toEqual(['marked', 'marked']);
    // A short one after a long one does not hide it.
    expect(
      lineStates(laid, lines, [
        { from: 0, to: 950 },
        { from: 10, to: 20 },
      ]).get('two')?.state,
    ).toBe('marked');
    const point = addMark(laid, { id: 'f', kind: 'flub', at: 450, length: 0, name: 'Flub' });
    expect(stateOf(point, 'two')).toBe('marked');
    // A point is not taken away by striking what is around it: the pickup may still be missing.
    expect(stateOf(strike(point, { from: 440, to: 460 }), 'two')).toBe('marked');
  });

  test('a reading counts while a quarter of it is heard', () => {
    expect(stateOf(strike(laid, { from: 100, to: 325 }), 'one')).toBe('read');
    expect(stateOf(strike(laid, { from: 100, to: 326 }), 'one')).toBe('unread');
  });
});

describe('moments of a recording', () => {
  const table = PieceTable.of([
    audioPiece('a', 500, 100),
    audioPiece('b', 0, 50),
    audioPiece('a', 600, 100),
    audioPiece('a', 100, 40),
  ]);

  test('are found wherever they stand now, and not where they are gone', () => {
    const index = new AnchorIndex(table);
    for (const at of [0, 99, 100, 149, 150, 249, 250, 289]) {
      const anchor = anchorAt(table, at);
      expect(anchor && index.sheetOf(anchor)).toBe(at);
    }
    expect(index.sheetOf({ source: 'a', channel: 0, frame: 700 })).toBeNull();
    expect(index.sheetOf({ source: 'a', channel: 1, frame: 510 })).toBeNull();
    expect(index.sheetOf({ source: 'c', channel: 0, frame: 0 })).toBeNull();
    expect(anchorAt(PieceTable.empty, 0)).toBeNull();
  });

  test('are found however many later pieces of the same recording begin before them', () => {
    const long = audioPiece('a', 0, 1000);
    const short = Array.from({ length: 20 }, (_, i) => audioPiece('a', 100 + 10 * i, 5));
    const index = new AnchorIndex(PieceTable.of([long, ...short]));
    expect(index.sheetOf({ source: 'a', channel: 0, frame: 800 })).toBe(800);
    expect(index.sheetOf({ source: 'a', channel: 0, frame: 108 })).toBe(108);
    expect(index.sheetOf({ source: 'a', channel: 0, frame: 1000 })).toBeNull();
  });

  test('the longest stretch of one recording in a range', () => {
    expect(sourceStretch(table, 60, 120)).toEqual({ source: 'a', channel: 0, start: 560, end: 600 });
    expect(sourceStretch(table, 100, 190)).toEqual({ source: 'b', channel: 0, start: 0, end: 50 });
    expect(sourceStretch(PieceTable.empty, 0, 10)).toBeNull();
  });
});
