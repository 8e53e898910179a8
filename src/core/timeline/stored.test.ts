import { seededRandom } from '../base/random';
import { seeds } from '../testing/seeds';
import { PieceTable, silence, type Piece } from './pieces';
import { loadTimeline, piecesOf, plainTimeline, storeTimeline } from './stored';
import { emptyTimeline, type Timeline } from './timeline';

/** Pieces of every kind, in any order. */
function piecesBy(seed: number, count: number): Piece[] {
  const random = seededRandom(seed + 1);
  const whole = (most: number) => Math.floor(random() * most);
  return Array.from({ length: count }, (_, i): Piece => {
    const stretch = {
      source: `s${whole(4)}`,
      channel: whole(3),
      from: whole(2 ** 40),
      length: 1 + whole(2 ** 31),
    };
    const gainDb = random() < 0.5 ? 0 : 12 * random() - 6;
    const audio = { kind: 'audio' as const, ...stretch, gainDb };
    const edges = { fadeIn: { frames: 480, shape: 'linear' as const } };
    const tone = { kind: 'tone' as const, ...stretch, start: 5, end: 900, seed: i, gainDb };
    return [audio, audio, { ...audio, ...edges }, tone, silence(1 + whole(9000))][whole(5)] as Piece;
  });
}

const timelineOf = (pieces: readonly Piece[]): Timeline => {
  const { tracks, ...rest } = emptyTimeline(['One', 'Two']);
  return { ...rest, tracks: [{ ...tracks[0], table: PieceTable.of(pieces) }, tracks[1]] };
};

test('what a browser has stored is what was made, whatever its pieces are', () => {
  for (const seed of seeds(30)) {
    const made = timelineOf(piecesBy(seed, 2 * seed));
    // As a database gives it back.
    const stored = structuredClone(storeTimeline(made));
    expect(plainTimeline(loadTimeline(stored))).toEqual(plainTimeline(made));
    expect(piecesOf(stored.tracks[0].pieces)).toEqual(made.tracks[0].table.pieces);
  }
});

test('frames and gains are kept to the last bit', () => {
  const piece = {
    kind: 'audio',
    source: 's',
    channel: 31,
    from: 2 ** 53 - 1,
    length: 1,
    gainDb: 0.1 + 0.2,
  } as const;
  expect(loadTimeline(storeTimeline(timelineOf([piece]))).tracks[0].table.pieces).toEqual([piece]);
});

test('plain pieces, as earlier versions stored them and files hold them, are read as well', () => {
  const made = timelineOf(piecesBy(3, 50));
  const plain = JSON.parse(JSON.stringify(plainTimeline(made))) as ReturnType<typeof plainTimeline>;
  expect(plainTimeline(loadTimeline(plain))).toEqual(plainTimeline(made));
});

test('pieces that are only stretches of sources are nothing but numbers', () => {
  const pieces = Array.from({ length: 500 }, (_, i): Piece => {
    return { kind: 'audio', source: i % 2 ? 'a' : 'b', channel: 0, from: 1000 * i, length: 900, gainDb: 0 };
  });
  const { pieces: stored } = storeTimeline(timelineOf(pieces)).tracks[0];
  expect(stored).toMatchObject({ sources: ['b', 'a'], others: [] });
});
