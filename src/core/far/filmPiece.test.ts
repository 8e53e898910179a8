import { seededRandom } from '../base/random';
import { filmNumber, pieceBytes, readFilmPiece, writeFilmPiece } from './filmPiece';

const random = seededRandom(3);
const bytes = Uint8Array.from({ length: 5000 }, () => random() * 256);
const film = filmNumber('0b5e4a4e-9c1d-4c3f-8d20-5b1d6f0a9c77');

test('a piece of a picture comes as it was, from anywhere in a large file', () => {
  const piece = { film, from: 5_000_000_123, bytes };
  expect(readFilmPiece(writeFilmPiece(piece))).toEqual(piece);
});

test('one that has changed, is garbage or too long is refused', () => {
  const message = writeFilmPiece({ film, from: 0, bytes });
  for (const at of [0, 18, 20, 3000]) {
    const changed = message.slice();
    changed[at] ^= 4;
    expect(() => readFilmPiece(changed)).toThrow(/damaged/);
  }
  expect(() => readFilmPiece(new Uint8Array(10))).toThrow(/damaged/);
  expect(() =>
    readFilmPiece(writeFilmPiece({ film, from: 0, bytes: new Uint8Array(pieceBytes + 1) })),
  ).toThrow(/damaged/);
});
