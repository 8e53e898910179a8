import { audioPiece } from '../testing/naiveTimeline';
import { apply, difference, inverse, isEmpty, sourcesOfStep } from './history';
import { PieceTable, silence, type Piece } from './pieces';
import { emptyTimeline, type Mark, type TakePlace, type Timeline } from './timeline';
import { loadTimeline, plainTimeline, storeTimeline } from './stored';

const mark: Mark = { id: 'm', kind: 'note', at: 10, length: 2, name: 'breath' };
const place: TakePlace = { source: 'a', channel: 0, track: 'track-1', at: 0, from: 0, length: 100 };
const tables = [
  PieceTable.of([audioPiece('a', 0, 100)]),
  PieceTable.of([audioPiece('b', 0, 60), silence(40)]),
];
const before: Timeline = {
  tracks: emptyTimeline(['Ada', 'Berthe']).tracks.map((track, index) => ({ ...track, table: tables[index] })),
  struck: [{ from: 20, to: 30 }],
  marks: [mark],
  places: [place],
  output: { gainDb: 1, dcOffsets: [0, 0], ceiling: null },
};
const withTrack = (index: number, changes: object): Timeline => ({
  ...before,
  tracks: before.tracks.map((track, at) => (at === index ? { ...track, ...changes } : track)),
});
const withPiece = (piece: Piece) => withTrack(0, { table: PieceTable.of([piece]) });
const { output: _output, ...plain } = before;

const whole = audioPiece('a', 0, 100);
const tone: Piece = { ...whole, kind: 'tone', start: 0, end: 9, seed: 1 } as Piece;
const joint = { frames: 5, shape: 'power' } as const;
const fade = { frames: 5, shape: 'power' } as const;

/** One difference each, and nothing else. */
const changes: [string, Timeline][] = [
  ['another source', withPiece(audioPiece('c', 0, 100))],
  ['another place in the source', withPiece(audioPiece('a', 1, 100))],
  ['another length', withPiece(audioPiece('a', 0, 99))],
  ['another channel', withPiece({ ...whole, channel: 1 } as Piece)],
  ['another gain', withPiece({ ...whole, gainDb: 1 } as Piece)],
  ['a joint', withPiece({ ...whole, joint } as Piece)],
  ['a joint of another length', withPiece({ ...whole, joint: { ...joint, frames: null } } as Piece)],
  ['a fade in', withPiece({ ...whole, fadeIn: fade } as Piece)],
  ['a fade out', withPiece({ ...whole, fadeOut: fade } as Piece)],
  ['tone', withPiece(tone)],
  ['silence', withPiece(silence(100))],
  ['silence that is meant', withPiece({ ...silence(100), meant: true })],
  ['the other track', withTrack(1, { table: tables[0] })],
  ['what is struck', { ...before, struck: [{ from: 20, to: 31 }] }],
  ['nothing struck', { ...before, struck: [] }],
  ['no mark', { ...before, marks: [] }],
  ...(['id', 'name', 'line'] as const).map((field): [string, Timeline] => [
    `a mark’s ${field}`,
    { ...before, marks: [{ ...mark, [field]: 'other' }] },
  ]),
  ['a mark’s place', { ...before, marks: [{ ...mark, at: 11 }] }],
  ['a mark’s length', { ...before, marks: [{ ...mark, length: 3 }] }],
  ['a mark’s kind', { ...before, marks: [{ ...mark, kind: 'flub' }] }],
  ['no place', { ...before, places: [] }],
  ...(['source', 'track'] as const).map((field): [string, Timeline] => [
    `a place’s ${field}`,
    { ...before, places: [{ ...place, [field]: 'other' }] },
  ]),
  ...(['channel', 'at', 'from', 'length'] as const).map((field): [string, Timeline] => [
    `a place’s ${field}`,
    { ...before, places: [{ ...place, [field]: 7 }] },
  ]),
  ['a track’s name', withTrack(1, { name: 'Carla' })],
  ['a track’s side', withTrack(1, { side: 'left' })],
  ['one track less', { ...before, tracks: before.tracks.slice(0, 1) }],
  ['one track more', { ...before, tracks: [...before.tracks, { id: 't', name: 'T', table: tables[1] }] }],
  ['another output', { ...before, output: { gainDb: 2, dcOffsets: [0, 0], ceiling: null } }],
  ['no output', plain],
];

test.each(changes)('%s: is a difference, done and undone, also after it was stored', (_name, after) => {
  const change = difference(before, after);
  expect(isEmpty(change)).toBe(false);
  const stored = JSON.parse(JSON.stringify(change)) as typeof change;
  expect(storeTimeline(apply(before, stored))).toEqual(storeTimeline(after));
  expect(storeTimeline(apply(after, inverse(stored)))).toEqual(storeTimeline(before));
  // Only what differs is kept.
  const fields = [change.struck, change.marks, change.places, change.staves, change.output, change.tracks[0]];
  expect(fields.filter(Boolean)).toHaveLength(1);
});

test('what is equal is no difference, whoever made it', () => {
  const again = loadTimeline(JSON.parse(JSON.stringify(plainTimeline(before))));
  expect(again).not.toBe(before);
  expect(isEmpty(difference(before, again))).toBe(true);
  expect(
    isEmpty(difference(plain, { ...plain, output: { gainDb: 0, dcOffsets: [0, 0], ceiling: null } })),
  ).toBe(true);
  expect(storeTimeline(apply(before, difference(before, again)))).toEqual(storeTimeline(before));
});

test('a step names the sources it takes away or brings back, also with a whole track; silence has none', () => {
  const source = (after: Timeline) => [
    ...sourcesOfStep({ label: '', difference: difference(before, after) }),
  ];
  expect(source(withPiece(audioPiece('c', 0, 100))).sort()).toEqual(['a', 'c']);
  expect(source({ ...before, tracks: before.tracks.slice(0, 1) })).toEqual(['b']);
  expect(source({ ...before, tracks: [...before.tracks, { id: 't', name: 'T', table: tables[1] }] })).toEqual(
    ['b'],
  );
  expect(source({ ...before, marks: [] })).toEqual([]);
});

test('a step that does not fit is refused', () => {
  const change = difference(before, { ...before, marks: [] });
  expect(() => apply({ ...before, marks: [] }, change)).toThrow(/does not fit/);
  expect(() => apply(before, { ...change, marks: { at: -1, removed: [], added: [] } })).toThrow(
    /does not fit/,
  );
  const other = difference(before, withPiece(audioPiece('c', 0, 100)));
  expect(() => apply({ ...before, tracks: before.tracks.slice(1) }, other)).toThrow(/does not fit/);
});
