import { ascii, joinBytes, viewOf } from '../formats/bytes';

/** The checksum of a FLAC frame's header (RFC 9639, 9.1.8). */
export const crc8 = (bytes: readonly number[]) =>
  bytes.reduce((sum, byte) => {
    let crc = sum ^ byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 0x80 ? ((crc << 1) ^ 0x07) & 0xff : (crc << 1) & 0xff;
    return crc;
  }, 0);

const crc16 = (bytes: readonly number[]) =>
  bytes.reduce((sum, byte) => {
    let crc = sum ^ (byte << 8);
    for (let bit = 0; bit < 8; bit++)
      crc = crc & 0x8000 ? ((crc << 1) ^ 0x8005) & 0xffff : (crc << 1) & 0xffff;
    return crc;
  }, 0);

/** A number coded as UTF-8 codes characters (RFC 9639, 9.1.5), up to 21 bits. */
function coded(value: number): number[] {
  if (value < 0x80) return [value];
  if (value < 0x800) return [0xc0 | (value >> 6), 0x80 | (value & 63)];
  if (value < 0x10000) return [0xe0 | (value >> 12), 0x80 | ((value >> 6) & 63), 0x80 | (value & 63)];
  return [0xf0 | (value >> 18), 0x80 | ((value >> 12) & 63), 0x80 | ((value >> 6) & 63), 0x80 | (value & 63)];
}

const longestBlock = 65_535;

/** The first 42 bytes of a FLAC file of 16-bit samples (RFC 9639, 8.2). */
export function flacHead(rateHz: number, channels: number, frames: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(42);
  bytes.set([0x66, 0x4c, 0x61, 0x43, 0x80, 0, 0, 34, 0xff, 0xff, 0xff, 0xff]);
  const packed = (BigInt(rateHz) << 44n) | (BigInt(channels - 1) << 41n) | (15n << 36n) | BigInt(frames);
  viewOf(bytes).setBigUint64(18, packed);
  return bytes;
}

/** Digital silence as FLAC, in blocks as long as can be: a few bytes for each minute. */
export function silentFlac(wanted: {
  hours: number;
  rateHz: number;
  channels: number;
}): Uint8Array<ArrayBuffer> {
  const { hours, rateHz, channels } = wanted;
  const blocks = Math.ceil((hours * 3600 * rateHz) / longestBlock);
  const parts: number[][] = [];
  for (let block = 0; block < blocks; block++) {
    const header = [0xff, 0xf8, 0x70, ((channels - 1) << 4) | 8, ...coded(block), 0xff, 0xfe];
    header.push(crc8(header));
    const body = [...header, ...Array.from({ length: channels }, () => [0, 0, 0]).flat()];
    const sum = crc16(body);
    parts.push([...body, sum >> 8, sum & 0xff]);
  }
  return Uint8Array.from([...flacHead(rateHz, channels, blocks * longestBlock), ...parts.flat()]);
}

export type RiffChunk = [id: string, body: Uint8Array, size?: number];
const isList = (chunks: RiffChunk | RiffChunk[]): chunks is RiffChunk[] => typeof chunks[0] !== 'string';

/** A RIFF file of these chunks; sizes are as given, whatever the content. */
export const riff = (...chunks: (RiffChunk | RiffChunk[])[]): Uint8Array<ArrayBuffer> =>
  joinBytes([
    ascii('RIFF'),
    new Uint8Array(4),
    ascii('WAVE'),
    ...chunks
      .flatMap((one) => (isList(one) ? one : [one]))
      .flatMap(([id, body, size = body.length]) => {
        const length = new Uint8Array(4);
        viewOf(length).setUint32(0, size, true);
        return [ascii(id), length, body];
      }),
  ]);

/** The format chunk of a WAV file, its derived fields left empty. */
export function wavFormatChunk(channels: number, rateHz: number, bits: number, tag = 1): Uint8Array {
  const bytes = new Uint8Array(16);
  const view = viewOf(bytes);
  view.setUint16(0, tag, true);
  view.setUint16(2, channels, true);
  view.setUint32(4, rateHz, true);
  view.setUint16(14, bits, true);
  return bytes;
}

/** The head of an ID3v2 tag that claims so many bytes. */
export function id3Head(size: number): Uint8Array {
  const bytes = new Uint8Array(10);
  bytes.set(ascii('ID3'));
  bytes.set([4, 0, 0, (size >> 21) & 127, (size >> 14) & 127, (size >> 7) & 127, size & 127], 3);
  return bytes;
}

/** A chunk of so many marks, three frames apart. */
export function cuePoints(count: number): Uint8Array {
  const bytes = new Uint8Array(4 + count * 24);
  const view = viewOf(bytes);
  view.setUint32(0, count, true);
  for (let i = 0; i < count; i++) {
    view.setUint32(4 + i * 24, i, true);
    bytes.set(ascii('data'), 4 + i * 24 + 8);
    view.setUint32(4 + i * 24 + 20, i * 3, true);
  }
  return bytes;
}
