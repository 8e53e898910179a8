import { ascii, asciiAt, viewOf } from './bytes';

/** What the header of one MPEG-1 Layer III frame says (ISO/IEC 11172-3, 2.4.2.3). */
export interface Mp3FrameHeader {
  bitRateKbps: number;
  rateHz: number;
  channels: number;
  bytes: number;
}

export const mp3FrameSamples = 1152;
const bitRates = [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320];
const rates = [44100, 48000, 32000];

/** Null when there is no MPEG-1 Layer III frame header at `at`. */
export function parseMp3Header(bytes: Uint8Array, at: number): Mp3FrameHeader | null {
  if (at + 4 > bytes.length || bytes[at] !== 0xff || (bytes[at + 1] & 0xfe) !== 0xfa) return null;
  const bitRateKbps = bitRates[bytes[at + 2] >> 4];
  const rateHz = rates[(bytes[at + 2] >> 2) & 3];
  if (!bitRateKbps || !rateHz) return null;
  const padding = (bytes[at + 2] >> 1) & 1;
  return {
    bitRateKbps,
    rateHz,
    channels: bytes[at + 3] >> 6 === 3 ? 1 : 2,
    bytes: Math.floor((144_000 * bitRateKbps) / rateHz) + padding,
  };
}

/** Follows the frames of a growing MP3 stream: how many there are, and the checksum of their bytes. */
export class Mp3FrameCounter {
  frames = 0;
  bytes = 0;
  checksum = 0;
  first: { header: Mp3FrameHeader; bytes: Uint8Array } | null = null;
  /** Where each frame begins, for the seek table of a variable bit rate. */
  readonly starts: number[] = [];
  private head = new Uint8Array(4);
  private have = 0;
  private skip = 0;

  process(chunk: Uint8Array): void {
    const before = this.bytes;
    this.bytes += chunk.length;
    this.checksum = crc16(chunk, this.checksum);
    for (let at = 0; at < chunk.length;) {
      if (this.skip > 0) {
        const step = Math.min(this.skip, chunk.length - at);
        this.skip -= step;
        at += step;
        continue;
      }
      this.head[this.have++] = chunk[at++];
      if (this.have < 4) continue;
      this.have = 0;
      const header = parseMp3Header(this.head, 0);
      if (!header) throw new Error('The encoder returned something that is not MPEG-1 Layer III');
      this.starts.push(before + at - 4);
      this.first ??= { header, bytes: this.head.slice() };
      this.frames++;
      this.skip = header.bytes - 4;
    }
  }
}

/** Frames an encoder adds before the first sample: 576 of its own; decoders know of their further 529. */
export const encoderDelayFrames = 576;

export interface GaplessFields {
  delayFrames: number;
  paddingFrames: number;
}

/** Padding is at least so long, so that a decoder's own delay loses nothing. */
const leastPaddingFrames = 576;

/** How many frames of MP3 the encoder makes of so many frames of sound. */
export const mp3FramesOf = (soundFrames: number) =>
  Math.ceil((soundFrames + encoderDelayFrames + leastPaddingFrames) / mp3FrameSamples);

/** The bit rate of the information frame of a variable-bit-rate file: large enough for what it holds. */
const variableFrameKbps = 128;

/**
 * The information frame that goes before the audio: a valid, silent frame holding the frame and byte counts,
 * a seek table, and the encoder delay and padding by which decoders give back exactly the samples that went
 * in (the `Info` tag with its encoder extension, an open de facto format; layout from memory, confirmed by
 * decoding with ffmpeg).
 */
export function infoFrame(
  counter: Pick<Mp3FrameCounter, 'first' | 'frames' | 'bytes' | 'checksum' | 'starts'>,
  soundFrames: number,
  vbrQuality: number | null = null,
): Uint8Array<ArrayBuffer> {
  const { first } = counter;
  if (!first) throw new RangeError('There is no audio to describe');
  const variable = vbrQuality !== null;
  const frame = new Uint8Array(infoFrameBytes(first.header, variable));
  const view = viewOf(frame);
  frame.set(first.bytes);
  if (variable) frame[2] = (bitRates.indexOf(variableFrameKbps) << 4) | (frame[2] & 0x0f);
  frame[1] |= 1; // no CRC
  frame[2] &= ~2; // no padding
  const tag = 4 + (first.header.channels === 1 ? 17 : 32);
  frame.set(ascii(variable ? 'Xing' : 'Info'), tag);
  view.setUint32(tag + 4, 0x0f);
  view.setUint32(tag + 8, counter.frames);
  view.setUint32(tag + 12, counter.bytes + frame.length);
  for (let i = 0; i < 100; i++) {
    const start = counter.starts[Math.floor((i * counter.frames) / 100)] ?? 0;
    frame[tag + 16 + i] = Math.floor(((start + frame.length) * 256) / (counter.bytes + frame.length));
  }
  view.setUint32(tag + 116, vbrQuality === null ? 0 : 100 - vbrQuality * 10);
  const extension = tag + 120;
  frame.set(ascii('LAME3.100'), extension);
  // Tag revision 0; method 1 is a constant bit rate, 4 a variable one; then its rate, or the lowest there may
  // be.
  frame[extension + 9] = variable ? 0x04 : 0x01;
  frame[extension + 20] = variable ? 32 : Math.min(255, first.header.bitRateKbps);
  const padding = counter.frames * mp3FrameSamples - soundFrames - encoderDelayFrames;
  frame[extension + 21] = encoderDelayFrames >> 4;
  frame[extension + 22] = ((encoderDelayFrames & 15) << 4) | (padding >> 8);
  frame[extension + 23] = padding & 0xff;
  view.setUint32(extension + 28, counter.bytes + frame.length);
  view.setUint16(extension + 32, counter.checksum);
  view.setUint16(extension + 34, crc16(frame.subarray(0, extension + 34)));
  return frame;
}

/** Where the tag stands in an information frame; null where the first frame is none. */
function tagAt(bytes: Uint8Array): number | null {
  const header = parseMp3Header(bytes, 0);
  if (!header) return null;
  const tag = 4 + (header.channels === 1 ? 17 : 32);
  return bytes.length >= tag + 8 && ['Info', 'Xing'].includes(asciiAt(bytes, tag, 4)) ? tag : null;
}

/** Delay and padding of a file's information frame, or null when it has none. */
export function readGapless(bytes: Uint8Array): GaplessFields | null {
  const tag = tagAt(bytes);
  if (tag === null) return null;
  const extension = tag + 120;
  if (bytes.length < extension + 24) return null;
  const [a, b, c] = bytes.subarray(extension + 21, extension + 24);
  return { delayFrames: (a << 4) | (b >> 4), paddingFrames: ((b & 15) << 8) | c };
}

/** What an information frame says of the stream it stands before; null where it does not say. */
export interface InfoFields {
  /** Frames of music, without the information frame. */
  frames: number | null;
  /** Of the whole stream, the information frame with it. */
  bytes: number | null;
  /** CRC-16 of the music. */
  checksum: number | null;
}

/** The statements of a file's information frame, or null when it has none. */
export function readInfoFields(bytes: Uint8Array): InfoFields | null {
  const tag = tagAt(bytes);
  if (tag === null) return null;
  const view = viewOf(bytes);
  const flags = view.getUint32(tag + 4);
  let at = tag + 8;
  const field = (flag: number) => {
    if (!(flags & flag) || at + 4 > bytes.length) return null;
    at += 4;
    return view.getUint32(at - 4);
  };
  const frames = field(1);
  const stated = field(2);
  // With all four fields the encoder's extension follows; its last checksum is over everything before it.
  const extension = tag + 120;
  const isWhole =
    (flags & 0x0f) === 0x0f &&
    bytes.length >= extension + 36 &&
    view.getUint16(extension + 34) === crc16(bytes.subarray(0, extension + 34));
  return { frames, bytes: stated, checksum: isWhole ? view.getUint16(extension + 32) : null };
}

/** How many bytes to leave free for the information frame of a stream with this header. */
export const infoFrameBytes = (
  { bitRateKbps, rateHz }: Pick<Mp3FrameHeader, 'bitRateKbps' | 'rateHz'>,
  variable = false,
) => Math.floor((144_000 * (variable ? variableFrameKbps : bitRateKbps)) / rateHz);

const crcTable = Uint16Array.from({ length: 256 }, (_, byte) => {
  let crc = byte;
  for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >> 1) ^ 0xa001 : crc >> 1;
  return crc;
});

/** CRC-16 with polynomial 0x8005, reflected, start value 0. */
export function crc16(bytes: Uint8Array, seed = 0): number {
  let crc = seed;
  for (const byte of bytes) crc = (crc >> 8) ^ crcTable[(crc ^ byte) & 0xff];
  return crc;
}
