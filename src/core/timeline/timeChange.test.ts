import { seededRandom } from '../base/random';
import { audioPiece } from '../testing/naiveTimeline';
import { addMark, closingUp, insertTime, removeTime, strikeAll } from './edits';
import type { Segment } from './range';
import { changeTime, TimeChange } from './timeChange';
import { PieceTable } from './pieces';
import { clockOf, type Mark, type Timeline } from './timeline';
import { seeds } from '../testing/seeds';

const sheet = (frames: number): Timeline => ({
  tracks: [{ id: 't', name: 'Voice', table: PieceTable.of([audioPiece('a', 0, frames)]) }],
  struck: [],
  marks: [],
  places: [{ source: 'a', channel: 0, track: 't', at: 0, from: 0, length: frames }],
});
const mark = (kind: Mark['kind'], at: number, length = 0, id = kind): Mark => ({
  id,
  kind,
  at,
  length,
  name: id,
});

/** Which old frame stands at each new one; −1 where time has opened. */
const written = (segments: readonly Segment[]): number[] =>
  segments.flatMap((segment) =>
    segment.kind === 'opened'
      ? Array<number>(segment.frames).fill(-1)
      : Array.from({ length: segment.to - segment.from }, (_, i) => segment.from + i),
  );

/** A sheet cut into stretches, some left out, the rest in any order, with gaps between them. */
function randomChange(frames: number, random: () => number): TimeChange {
  const cuts = [0, ...Array.from({ length: 5 }, () => Math.floor(random() * frames)), frames].sort(
    (a, b) => a - b,
  );
  const kept = cuts
    .slice(1)
    .map((to, i): Segment => ({ kind: 'kept', from: cuts[i], to }))
    .filter((segment) => segment.kind === 'kept' && segment.to > segment.from && random() < 0.7)
    .sort(() => random() - 0.5);
  return new TimeChange(
    kept.flatMap((segment): Segment[] =>
      random() < 0.4 ? [{ kind: 'opened', frames: 1 + Math.floor(random() * 9) }, segment] : [segment],
    ),
  );
}

test.each(seeds(50))(
  'any removing, opening and moving at once carries pieces, strikes, places and positions alike, seed %d',
  (seed) => {
    const random = seededRandom(seed);
    const frames = 60;
    const change = randomChange(frames, random);
    const now = written(change.segments);
    const from = Math.floor(random() * 40);
    const before = strikeAll(sheet(frames), [{ from, to: from + 10 }]);
    const after = changeTime(before, change);
    const clock = clockOf(after);
    const { table } = after.tracks[0];
    expect(table.frames).toBe(now.length);
    now.forEach((old, at) => {
      const [piece] = table.slice(at, at + 1);
      expect(piece.kind === 'audio' ? piece.from : -1).toBe(old);
      expect(clock.isStruck(at)).toBe(old >= from && old < from + 10);
      if (old >= 0) expect(change.frame(old)).toBe(at);
      if (old >= 0) expect(change.frame(old + 1, 'end')).toBe(at + 1);
    });
    const placed = after.places.flatMap(({ at, from: source, length }) =>
      Array.from({ length }, (_, i) => [at + i, source + i]),
    );
    expect(placed.sort((a, b) => a[0] - b[0])).toEqual(
      now.flatMap((old, at) => (old < 0 ? [] : [[at, old]])),
    );
    for (let old = 0; old < frames; old++) expect(change.keeps(old)).toBe(now.includes(old));
  },
);

test('what is removed comes to the joint, from either side; what opens parts a beginning from an end', () => {
  const removed = TimeChange.remove([{ from: 10, to: 20 }], 100);
  for (const frame of [10, 15, 19]) expect(removed.frame(frame)).toBe(10);
  for (const frame of [11, 15, 20]) expect(removed.frame(frame, 'end')).toBe(10);
  expect(removed.frame(20)).toBe(10);
  expect(removed.frame(10, 'end')).toBe(10);
  const first = TimeChange.remove([{ from: 0, to: 10 }], 100);
  expect([first.frame(5), first.frame(5, 'end'), first.frame(12)]).toEqual([0, 0, 2]);
  expect(TimeChange.remove([{ from: 0, to: 100 }], 100).frame(50)).toBe(0);
  const opened = TimeChange.open([{ at: 30, frames: 5 }], 100);
  expect([opened.frame(30), opened.frame(30, 'end')]).toEqual([35, 30]);
  expect([opened.frame(100), opened.frame(100, 'end')]).toEqual([105, 105]);
  const atStart = TimeChange.open([{ at: 0, frames: 5 }], 100);
  expect([atStart.frame(0), atStart.frame(0, 'end')]).toEqual([5, 5]);
});

test('where a take belongs goes with its time, cut where that is cut; one that is not touched stays itself', () => {
  const place = { source: 'b', channel: 0, track: 't', at: 40, from: 500, length: 30 };
  const before = { ...sheet(100), places: [place] };
  expect(removeTime(before, { from: 50, to: 60 }).places).toEqual([
    { ...place, length: 10 },
    { ...place, at: 50, from: 520, length: 10 },
  ]);
  expect(insertTime(before, 10, 7).places).toEqual([{ ...place, at: 47 }]);
  expect(removeTime(before, { from: 0, to: 45 }).places).toEqual([
    { ...place, at: 0, from: 505, length: 25 },
  ]);
  expect(removeTime(before, { from: 80, to: 90 }).places[0]).toBe(place);
});

describe('marks', () => {
  test('what opens at the end of a range lies outside it; what opens inside lengthens it', () => {
    const flub = addMark(sheet(100), mark('flub', 20, 30));
    expect(insertTime(flub, 50, 40).marks[0]).toMatchObject({ at: 20, length: 30 });
    expect(insertTime(flub, 20, 40).marks[0]).toMatchObject({ at: 60, length: 30 });
    expect(insertTime(flub, 30, 40).marks[0]).toMatchObject({ at: 20, length: 70 });
    expect(insertTime(addMark(sheet(100), mark('note', 50)), 50, 10).marks[0].at).toBe(60);
  });

  test('what is about a passage goes with it, what the user said stays at the joint', () => {
    const all = [mark('flub', 20, 10), mark('clipped', 22, 3), mark('note', 25), mark('part', 28)].reduce(
      addMark,
      sheet(100),
    );
    const removed = removeTime(all, { from: 15, to: 40 });
    expect(removed.marks.map(({ kind, at }) => [kind, at])).toEqual([
      ['note', 15],
      ['part', 15],
    ]);
    expect(removeTime(all, { from: 25, to: 40 }).marks.find(({ kind }) => kind === 'flub')).toMatchObject({
      at: 20,
      length: 5,
    });
  });

  test('a flub over two struck passages that are closed up at once is gone', () => {
    const struck = strikeAll(addMark(sheet(100), mark('flub', 12, 16)), [
      { from: 10, to: 20 },
      { from: 20, to: 30 },
    ]);
    const change = closingUp(struck, { from: 0, to: 100 });
    expect(change && changeTime(struck, change).marks).toEqual([]);
  });
});

test('five thousand strikes are closed up in one pass, at their own places', () => {
  const ranges = Array.from({ length: 5000 }, (_, i) => ({ from: i * 20 + 5, to: i * 20 + 12 }));
  const struck = strikeAll(sheet(100_000), ranges);
  const change = closingUp(struck, { from: 0, to: 100_000 });
  const closed = change && changeTime(struck, change);
  expect(closed?.tracks[0].table.frames).toBe(100_000 - 5000 * 7);
  expect(closed?.struck).toEqual([]);
  expect(change?.frame(20 * 4000)).toBe(13 * 4000);
});
