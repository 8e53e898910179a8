import { ascii, joinBytes, viewOf } from './bytes';

/** What a player shows. Empty texts are left out. */
export interface SoundTags {
  title: string;
  album: string;
  artist: string;
  track: number;
  tracks: number;
  /** “2026-11-25”. */
  date: string;
  comment: string;
}

export interface Cover {
  mime: 'image/jpeg' | 'image/png';
  bytes: Uint8Array;
}

export interface Chapter {
  fromMs: number;
  toMs: number;
  title: string;
}

/** Sizes in a tag are seven bits to the byte, so that they never look like the beginning of audio. */
function synchsafe(value: number): Uint8Array<ArrayBuffer> {
  return Uint8Array.from([21, 14, 7, 0], (shift) => (value >>> shift) & 0x7f);
}

const utf8 = 3;
const zero = new Uint8Array(1);
const encode = (text: string) => new TextEncoder().encode(text.replaceAll('\0', ''));

const frame = (id: string, body: Uint8Array) =>
  joinBytes([ascii(id), synchsafe(body.length), new Uint8Array(2), body]);

const textFrame = (id: string, text: string) =>
  text === '' ? [] : [frame(id, joinBytes([Uint8Array.of(utf8), encode(text)]))];

/**
 * A chapter: element id, times in milliseconds, no byte offsets, its title (ID3v2 Chapter Frame Addendum 1.0,
 * from memory; confirmed with ffprobe).
 */
function chapterFrame({ fromMs, toMs, title }: Chapter, index: number) {
  const times = new Uint8Array(16).fill(0xff);
  viewOf(times).setUint32(0, fromMs);
  viewOf(times).setUint32(4, toMs);
  return frame('CHAP', joinBytes([ascii(`ch${index}`), zero, times, ...textFrame('TIT2', title)]));
}

/** The order of the chapters: top level, ordered, at most 255. */
function contentsFrame(count: number) {
  const ids = Array.from({ length: count }, (_, index) => joinBytes([ascii(`ch${index}`), zero]));
  return frame('CTOC', joinBytes([ascii('toc'), zero, Uint8Array.of(0b11, count), ...ids]));
}

/**
 * A whole ID3v2.4 tag (id3.org, ID3v2.4.0 structure and native frames), to stand before the audio. At most
 * 255 chapters; further ones are left out.
 */
export function id3Tag(
  tags: SoundTags,
  chapters: readonly Chapter[] = [],
  cover: Cover | null = null,
): Uint8Array<ArrayBuffer> {
  const kept = chapters.slice(0, 255);
  const track = tags.track > 0 ? `${tags.track}${tags.tracks > 0 ? `/${tags.tracks}` : ''}` : '';
  const frames = joinBytes([
    ...textFrame('TIT2', tags.title),
    ...textFrame('TALB', tags.album),
    ...textFrame('TPE1', tags.artist),
    ...textFrame('TRCK', track),
    ...textFrame('TDRC', tags.date),
    ...(tags.comment
      ? [frame('COMM', joinBytes([Uint8Array.of(utf8), ascii('eng'), zero, encode(tags.comment)]))]
      : []),
    ...(cover
      ? [
          frame(
            'APIC',
            joinBytes([Uint8Array.of(utf8), ascii(cover.mime), zero, Uint8Array.of(3), zero, cover.bytes]),
          ),
        ]
      : []),
    ...(kept.length > 0 ? [contentsFrame(kept.length), ...kept.map(chapterFrame)] : []),
  ]);
  return joinBytes([ascii('ID3'), Uint8Array.of(4, 0, 0), synchsafe(frames.length), frames]);
}
