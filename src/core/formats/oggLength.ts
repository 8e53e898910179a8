import { asciiAt, viewOf, type ByteSource } from './bytes';

/** As far from the end as the last page can begin: a page has at most 65,307 bytes (RFC 3533). */
const longestPage = 65_307;

/**
 * The number of frames an Ogg file of one Vorbis or Opus stream ends with, from the granule position of its
 * last page (RFC 3533; of Opus, at 48 kHz and without the pre-skip, RFC 7845): its last packet mostly holds
 * more than belongs to it. Null when there is no such page.
 */
export async function oggFrames(source: ByteSource): Promise<number | null> {
  const start = await source.read(0, 64);
  if (start.length < 64 || asciiAt(start, 0, 4) !== 'OggS') return null;
  const segments = start[26];
  const head = 27 + segments;
  const isOpus = head + 12 <= start.length && asciiAt(start, head, 8) === 'OpusHead';
  const preSkip = isOpus ? viewOf(start).getUint16(head + 10, true) : 0;
  const from = Math.max(0, source.size - longestPage - 27);
  const end = await source.read(from, source.size - from);
  for (let at = end.length - 27; at >= 0; at--) {
    if (end[at] !== 0x4f || asciiAt(end, at, 4) !== 'OggS') continue;
    const granule = viewOf(end).getBigInt64(at + 6, true);
    const frames = Number(granule) - preSkip;
    return granule >= 0n && frames > 0 ? frames : null;
  }
  return null;
}
