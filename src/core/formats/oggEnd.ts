import { asciiAt, viewOf, type ByteSource } from './bytes';

/** A page has at most 65,307 bytes (RFC 3533). */
const longestPage = 65_307;
const pageHead = 27;
const endOfStream = 4;

export interface OggEnd {
  /** Frames up to the end of the last whole page; null where no packet ends there. */
  frames: number | null;
  /** Where the last whole page ends. */
  bytes: number;
  /** That page says that the stream ends with it; a file that is cut short has none. */
  isWhole: boolean;
}

/**
 * How an Ogg file of one Vorbis or Opus stream ends, from the granule position of its last whole page
 * (RFC 3533; of Opus, at 48 kHz and without the pre-skip, RFC 7845): its last packet mostly holds more than
 * belongs to it, and a page that is cut off is none. Null when it is no Ogg file.
 */
export async function oggEnd(source: ByteSource): Promise<OggEnd | null> {
  const start = await source.read(0, 64);
  if (start.length < 64 || asciiAt(start, 0, 4) !== 'OggS') return null;
  const head = pageHead + start[26];
  const isOpus = head + 12 <= start.length && asciiAt(start, head, 8) === 'OpusHead';
  const preSkip = isOpus ? viewOf(start).getUint16(head + 10, true) : 0;
  // The last page may be cut off; the one before it is whole.
  const from = Math.max(0, source.size - 2 * longestPage - pageHead);
  const end = await source.read(from, source.size - from);
  let bytes: number | null = null;
  let isWhole = false;
  for (let at = end.length - pageHead; at >= 0; at--) {
    if (end[at] !== 0x4f || asciiAt(end, at, 4) !== 'OggS') continue;
    const length = pageBytes(end, at);
    if (length === null) continue;
    if (bytes === null) {
      bytes = from + at + length;
      isWhole = (end[at + 5] & endOfStream) !== 0;
    }
    const granule = viewOf(end).getBigInt64(at + 6, true);
    // On a page on which no packet ends it is −1.
    if (granule < 0n) continue;
    const frames = Number(granule) - preSkip;
    return { frames: frames > 0 ? frames : null, bytes, isWhole };
  }
  return { frames: null, bytes: bytes ?? source.size, isWhole };
}

/** The length of the page that begins at `at`; null where not all of it is there. */
function pageBytes(bytes: Uint8Array, at: number): number | null {
  const segments = bytes[at + 26];
  if (at + pageHead + segments > bytes.length) return null;
  let length = pageHead + segments;
  for (let i = 0; i < segments; i++) length += bytes[at + pageHead + i];
  return at + length <= bytes.length ? length : null;
}
