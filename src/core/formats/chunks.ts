import { asciiAt, viewOf, type ByteSource } from './bytes';

/** More chunks than this no file of sound has: what goes on longer gets nowhere. */
const mostChunks = 10_000;

export interface Chunk {
  /** Four characters. */
  id: string;
  /** Where its content begins. */
  at: number;
  /** As its header states it, whatever the file holds. */
  size: number;
}

/**
 * The chunks of a RIFF, RF64 or FORM file from byte `from` on, in order. Ends at the end of the file, and
 * after 10,000 chunks.
 */
export async function* chunksFrom(
  source: ByteSource,
  from: number,
  littleEndian: boolean,
): AsyncGenerator<Chunk> {
  let at = from;
  for (let count = 0; at + 8 <= source.size && count < mostChunks; count++) {
    const header = await source.read(at, 8);
    if (header.length < 8) return;
    const size = viewOf(header).getUint32(4, littleEndian);
    yield { id: asciiAt(header, 0, 4), at: at + 8, size };
    at += 8 + size + (size % 2);
  }
}
