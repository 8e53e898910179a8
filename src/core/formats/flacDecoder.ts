import { say } from '../../texts/say';
import { createMD5 } from 'hash-wasm';
import { ParolaError } from '../base/errors';
import { asciiAt, viewOf, type ByteSource } from './bytes';
import {
  FlacDamage,
  claimedSamples,
  decodeFlacFrame,
  isFlacSync,
  syncBytes,
  type FlacFrame,
  type StreamInfo,
} from './flacFrame';
import type { FileHealth } from './health';
import { soundStart } from './mp3Decoder';

const readBytes = 1_048_576;
const mostMetadataBlocks = 1000;
/**
 * A hole in a damaged file is filled with silence up to this long, and all of them together up to twenty
 * times that.
 */
const longestHoleSeconds = 30;
const mostHoles = 20;
/**
 * So many samples of frames that turn out not to be whole, and the rest is not looked through any more: an
 * hour of a stereo file, or headers made to keep a decoder busy.
 */
const mostLostSamples = 350_000_000;
/** What looks like the beginning of a frame and is none costs as much as so many samples. */
const samplesPerLook = 500;

export interface FlacFile {
  info: StreamInfo;
  firstFrame: number;
}

const refuse = (what: string) =>
  new ParolaError(
    'damaged-file',
    say`This FLAC file cannot be read: ${what}. Export it again from where it came from.`,
  );

/**
 * Reads the metadata of a FLAC file (RFC 9639, chapter 8), past an ID3 tag before it. Throws `not-audio`,
 * `damaged-file` or `unsupported`.
 */
export async function readFlacInfo(source: ByteSource): Promise<FlacFile> {
  const tag = await soundStart(source);
  const start = await source.read(tag, 4);
  if (asciiAt(start, 0, start.length) !== 'fLaC')
    throw new ParolaError('not-audio', say`This is not a FLAC file.`);
  let info: StreamInfo | null = null;
  let at = tag + 4;
  for (let block = 0; block < mostMetadataBlocks; block++) {
    const header = await source.read(at, 4);
    if (header.length < 4) throw refuse(say`it ends before its audio`);
    const size = (header[1] << 16) | (header[2] << 8) | header[3];
    if ((header[0] & 0x7f) === 0) info = parseStreamInfo(await source.read(at + 4, Math.min(size, 34)));
    at += 4 + size;
    if (header[0] & 0x80) break;
  }
  if (!info) throw refuse(say`its stream information is missing`);
  return { info, firstFrame: at };
}

function parseStreamInfo(bytes: Uint8Array): StreamInfo {
  if (bytes.length < 34) throw refuse(say`its stream information is cut short`);
  const view = viewOf(bytes);
  const packed = view.getBigUint64(10);
  const rateHz = Number(packed >> 44n);
  const bits = Number((packed >> 36n) & 31n) + 1;
  const longestBlock = view.getUint16(2);
  if (rateHz < 1000 || rateHz > 768_000) throw refuse(say`it claims a sample rate of ${rateHz} Hz`);
  if (longestBlock < 16) throw refuse(say`it claims blocks of ${longestBlock} samples`);
  if (bits < 4 || bits > 24)
    throw new ParolaError(
      'unsupported',
      say`This FLAC file has ${bits}-bit samples, which cannot be read. Save it with 16 or 24 bits.`,
    );
  return {
    rateHz,
    bits,
    longestBlock,
    channels: Number((packed >> 41n) & 7n) + 1,
    totalFrames: Number(packed & 0xf_ffff_ffffn),
    md5: bytes.slice(18, 34),
  };
}

/**
 * Decodes a FLAC file as it streams; samples are scaled by 1/2^(bits−1). Damaged frames become silence of
 * their length, and `state`, which is whole when the generator has ended, says so.
 */
export async function* decodeFlac(
  source: ByteSource,
  { info, firstFrame }: FlacFile,
  state: FileHealth,
): AsyncGenerator<Float32Array<ArrayBuffer>[]> {
  const checksum = info.md5.some((byte) => byte !== 0) ? await createMD5() : null;
  checksum?.init();
  const scale = 2 ** (1 - info.bits);
  const mostFrameBytes = 64 + Math.ceil((info.longestBlock * info.channels * (info.bits + 1)) / 8) * 2;
  let position = 0;
  let holes = 0;
  let lost = 0;
  let buffer: Uint8Array = new Uint8Array(0);
  let bufferStart = firstFrame;
  let at = 0;
  for (;;) {
    if (buffer.length - at < mostFrameBytes && bufferStart + buffer.length < source.size) {
      bufferStart += at;
      buffer = await source.read(bufferStart, Math.max(readBytes, 2 * mostFrameBytes));
      at = 0;
    }
    if (at >= buffer.length || (info.totalFrames > 0 && position >= info.totalFrames)) break;
    const frame = tryFrame(buffer, at, info);
    if (!frame) {
      state.damaged = true;
      lost += samplesPerLook + claimedSamples(buffer, at, info);
      if (lost > mostLostSamples) throw refuse(say`most of it is damaged`);
      // A sync at the very end of what was read is seen when more has been.
      const isLast = bufferStart + buffer.length >= source.size;
      const end = isLast ? buffer.length : buffer.length - syncBytes + 1;
      at++;
      while (at < end && !isFlacSync(buffer, at)) at++;
      continue;
    }
    const hole = frame.start - position;
    if (hole < 0 || hole > longestHoleSeconds * info.rateHz || (hole > 0 && ++holes > mostHoles)) {
      state.damaged = true;
      at += frame.bytes;
      continue;
    }
    if (hole > 0) {
      yield* silentFrames(info.channels, hole);
      position += hole;
    }
    checksum?.update(littleEndian(frame.samples, info.bits));
    yield frame.samples.map((samples) => scaled(samples, scale));
    position += frame.samples[0].length;
    at += frame.bytes;
  }
  if (position < info.totalFrames) {
    state.truncated = true;
    // What was cut off is no damage of what is there.
    return;
  }
  const found = checksum?.digest('binary');
  if (found && found.some((byte, i) => byte !== info.md5[i])) state.damaged = true;
}

function tryFrame(buffer: Uint8Array, at: number, info: StreamInfo): FlacFrame | null {
  try {
    return decodeFlacFrame(buffer, at, info);
  } catch (error) {
    if (error instanceof FlacDamage) return null;
    throw error;
  }
}

/** A loop, since a mapping copy takes ten times as long. */
function scaled(samples: Int32Array, scale: number): Float32Array<ArrayBuffer> {
  const result = new Float32Array(samples.length);
  for (let i = 0; i < result.length; i++) result[i] = samples[i] * scale;
  return result;
}

function* silentFrames(channels: number, frames: number) {
  for (let left = frames; left > 0; left -= 65_536)
    yield Array.from({ length: channels }, () => new Float32Array(Math.min(left, 65_536)));
}

/** Interleaved samples in as few whole bytes as they need: what the stream's checksum is over. */
function littleEndian(samples: readonly Int32Array[], bits: number): Uint8Array {
  const width = Math.ceil(bits / 8);
  const channels = samples.length;
  const bytes = new Uint8Array(samples[0].length * channels * width);
  samples.forEach((values, channel) => {
    for (let i = 0, at = channel * width; i < values.length; i++, at += channels * width) {
      // An array of bytes keeps the lowest eight bits.
      bytes[at] = values[i];
      if (width > 1) bytes[at + 1] = values[i] >> 8;
      if (width > 2) bytes[at + 2] = values[i] >> 16;
    }
  });
  return bytes;
}
