import { seededRandom } from '../base/random';
import { audioPiece, framesOfPiece } from '../testing/naiveTimeline';
import { seeds } from '../testing/seeds';
import { commonFrames } from './changedRange';
import { PieceTable, silence, type Piece } from './pieces';

const framesOf = (pieces: readonly Piece[]) => pieces.flatMap(framesOfPiece);

/** Frames at the start that are the same, one by one. */
function alike(a: readonly string[], b: readonly string[]): number {
  let count = 0;
  while (count < Math.min(a.length, b.length) && a[count] === b[count]) count++;
  return count;
}

test.each(seeds(40))(
  'every frame told as common is, and where a table was edited no other is, seed %d',
  (seed) => {
    const random = seededRandom(seed);
    const below = (count: number) => Math.floor(random() * count);
    const before = PieceTable.of(
      Array.from({ length: 1 + below(6) }, (_, index): Piece =>
        random() < 0.2 ? silence(1 + below(30)) : audioPiece('abc'[below(3)], 1000 * index, 1 + below(60)),
      ),
    );
    const from = below(before.frames);
    const to = from + below(before.frames - from + 1);
    const put = random() < 0.5 ? [audioPiece('new', 0, 1 + below(20))] : [];
    const after = before.replace(from, to, put);
    const { head, tail, before: was, after: is } = commonFrames(before.pieces, after.pieces);
    const [a, b] = [framesOf(before.pieces), framesOf(after.pieces)];
    expect([was, is]).toEqual([a.length, b.length]);
    const start = alike(a, b);
    const end = alike([...a].reverse(), [...b].reverse());
    expect(head).toBeLessThanOrEqual(start);
    expect(tail).toBeLessThanOrEqual(end);
    // As far as what was edited, from both sides.
    expect(head).toBeGreaterThanOrEqual(Math.min(from, to > from || put.length > 0 ? from : a.length));
    if (head < Math.min(a.length, b.length)) expect(tail).toBeGreaterThanOrEqual(before.frames - to);
  },
);

describe('edges set by hand count as changed sound', () => {
  const one = audioPiece('a', 0, 100);
  const fade = { frames: 20, shape: 'power' } as const;
  const joint = { frames: 10, shape: 'power' } as const;
  const common = (a: Piece, b: Piece) => {
    const { head, tail } = commonFrames([a], [b]);
    return [head, tail];
  };

  test('a fade out at the end leaves the beginning, a fade in at the start the end', () => {
    expect(common(one, { ...one, fadeOut: fade })).toEqual([80, 0]);
    expect(common({ ...one, fadeOut: fade }, one)).toEqual([80, 0]);
    expect(common(one, { ...one, fadeIn: fade })).toEqual([0, 80]);
    expect(common({ ...one, fadeIn: fade }, one)).toEqual([0, 80]);
    expect(common(one, { ...one, fadeIn: { ...fade, frames: 150 } })).toEqual([0, 0]);
  });

  test('another joint changes the start, not the end; the same one nothing', () => {
    expect(common(one, { ...one, joint })).toEqual([0, 100]);
    expect(common({ ...one, joint }, { ...one, joint: { ...joint, frames: 11 } })).toEqual([0, 100]);
    expect(common({ ...one, joint }, { ...one, joint: { ...joint, shape: 'smooth' } })).toEqual([0, 100]);
    expect(common({ ...one, joint }, { ...one, joint })).toEqual([100, 0]);
    expect(common({ ...one, joint }, { ...audioPiece('a', 0, 60), joint })).toEqual([60, 0]);
  });

  test('another gain, source or place has nothing in common; silence always has', () => {
    expect(common(one, { ...one, gainDb: 1 } as Piece)).toEqual([0, 0]);
    expect(common(one, audioPiece('b', 0, 100))).toEqual([0, 0]);
    expect(common(one, audioPiece('a', 1, 100))).toEqual([0, 0]);
    expect(common(one, audioPiece('a', 40, 60))).toEqual([0, 60]);
    expect(common(one, silence(100))).toEqual([0, 0]);
    // Both are true: it is as silent at the end as at the start.
    expect(common(silence(100), silence(60))).toEqual([60, 60]);
  });

  test('an end is not counted twice when one list is the beginning of the other', () => {
    const pieces = [one, audioPiece('b', 0, 50)];
    expect(commonFrames(pieces, pieces.slice(0, 1))).toEqual({ head: 100, tail: 0, before: 150, after: 100 });
    expect(commonFrames(pieces, pieces.slice(1))).toEqual({ head: 0, tail: 50, before: 150, after: 50 });
    expect(commonFrames([], pieces)).toEqual({ head: 0, tail: 0, before: 0, after: 150 });
    expect(commonFrames(pieces, [...pieces])).toEqual({ head: 150, tail: 0, before: 150, after: 150 });
  });
});
