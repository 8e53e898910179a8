import { say } from '../../texts/say';
import { buf as crc32 } from 'crc-32';
import { ParolaError } from '../base/errors';

/** A piece of a picture's file on its way to a talent. */
export interface FilmPiece {
  /** First four bytes of the film's id: enough to tell one from the one before. */
  readonly film: number;
  readonly from: number;
  readonly bytes: Uint8Array;
}

const magic = 0x50_46_31_0a;
const headerBytes = 20;
export const pieceBytes = 60_000;

export const filmNumber = (id: string): number => parseInt(id.slice(0, 8), 16);

/**
 * Little-endian but for the magic: magic, film, place in the file (64-bit float), CRC-32 of the bytes, bytes.
 */
export function writeFilmPiece({ film, from, bytes }: FilmPiece): Uint8Array<ArrayBuffer> {
  const message = new Uint8Array(headerBytes + bytes.length);
  const view = new DataView(message.buffer);
  view.setUint32(0, magic);
  view.setUint32(4, film, true);
  view.setFloat64(8, from, true);
  view.setInt32(16, crc32(bytes), true);
  message.set(bytes, headerBytes);
  return message;
}

/** Throws ParolaError `damaged-file` for whatever is none, or has been changed. */
export function readFilmPiece(message: Uint8Array): FilmPiece {
  const view = new DataView(message.buffer, message.byteOffset, message.byteLength);
  const bytes = message.subarray(headerBytes);
  const whole = message.length > headerBytes && bytes.length <= pieceBytes && view.getUint32(0) === magic;
  if (!whole || view.getInt32(16, true) !== crc32(bytes))
    throw new ParolaError('damaged-file', say`A piece of the picture came over the line damaged.`);
  return { film: view.getUint32(4, true), from: view.getFloat64(8, true), bytes };
}
