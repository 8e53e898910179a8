import { BitReader, bitsEnd } from '../base/bitReader';
import { kernels } from '../dsp/kernels';

/**
 * One FLAC frame (RFC 9639, chapter 9): header, subframes, checksums. What does not fit throws FlacDamage.
 */

/**
 * The bytes are no frame, or a damaged one. Never leaves the decoder. Made once for each reason: a file of
 * nothing but beginnings has one in every other byte, and an error with its stack takes longer than looking.
 */
export class FlacDamage extends Error {}
const damage = {
  end: new FlacDamage('the data ends'),
  noFrame: new FlacDamage('no frame'),
  header: new FlacDamage('the header does not check'),
  otherStream: new FlacDamage('another stream'),
  number: new FlacDamage('no frame number'),
  frame: new FlacDamage('the frame does not check'),
  noSubframe: new FlacDamage('no subframe'),
  wasted: new FlacDamage('nothing but wasted bits'),
  subframe: new FlacDamage('a reserved subframe'),
  predictorLength: new FlacDamage('a predictor longer than the block'),
  predictor: new FlacDamage('a reserved predictor'),
  residual: new FlacDamage('a residual that does not fit'),
};

export interface StreamInfo {
  rateHz: number;
  channels: number;
  bits: number;
  longestBlock: number;
  /** 0 when unknown. */
  totalFrames: number;
  /** All zero when it was not computed. */
  md5: Uint8Array;
}

export interface FlacFrame {
  /** First frame of the block in the stream. */
  start: number;
  /** Integers of `bits` bits, one array for each channel. */
  samples: Int32Array[];
  /** Bytes the frame took. */
  bytes: number;
}

const blockSizes = [0, 192, 576, 1152, 2304, 4608, 0, 0, 256, 512, 1024, 2048, 4096, 8192, 16384, 32768];
const sampleSizes = [0, 8, 12, 0, 16, 20, 24, 32];
const fixedCoefficients = [[], [1], [2, -1], [3, -3, 1], [4, -6, 4, -1]];

/** CRC-8 with polynomial 0x07, start value 0. */
function crc8(bytes: Uint8Array, from: number, to: number): number {
  let crc = 0;
  for (let at = from; at < to; at++) {
    crc ^= bytes[at];
    for (let bit = 0; bit < 8; bit++) crc = crc & 0x80 ? ((crc << 1) ^ 0x07) & 0xff : crc << 1;
  }
  return crc;
}

const crc16Table = Uint16Array.from({ length: 256 }, (_, byte) => {
  let crc = byte << 8;
  for (let bit = 0; bit < 8; bit++) crc = crc & 0x8000 ? ((crc << 1) ^ 0x8005) & 0xffff : (crc << 1) & 0xffff;
  return crc;
});

/** CRC-16 with polynomial 0x8005, not reflected, start value 0. */
function crc16(bytes: Uint8Array, from: number, to: number): number {
  let crc = 0;
  for (let at = from; at < to; at++) crc = ((crc << 8) & 0xffff) ^ crc16Table[(crc >> 8) ^ bytes[at]];
  return crc;
}

interface FrameHeader {
  blockSize: number;
  channelCode: number;
  start: number;
}

/** So many bytes tell whether a frame may begin. */
export const syncBytes = 4;

/** True when a frame may begin here: a sync, and no reserved code after it; the header's checksum decides. */
export const isFlacSync = (bytes: Uint8Array, at: number) =>
  bytes[at] === 0xff &&
  (bytes[at + 1] & 0xfe) === 0xf8 &&
  (bytes[at + 2] & 0xf0) !== 0 &&
  (bytes[at + 2] & 0x0f) !== 0x0f &&
  bytes[at + 3] >> 4 <= 10 &&
  (bytes[at + 3] & 1) === 0;

function readHeader(reader: BitReader, bytes: Uint8Array, from: number, info: StreamInfo): FrameHeader {
  if (!isFlacSync(bytes, from)) throw damage.noFrame;
  const variable = (bytes[from + 1] & 1) === 1;
  reader.unsigned(16);
  const sizeCode = reader.unsigned(4);
  const rateCode = reader.unsigned(4);
  const channelCode = reader.unsigned(4);
  const bits = sampleSizes[reader.unsigned(3)];
  reader.unsigned(1);
  const number = codedNumber(reader);
  const blockSize =
    sizeCode === 6 ? reader.unsigned(8) + 1 : sizeCode === 7 ? reader.unsigned(16) + 1 : blockSizes[sizeCode];
  if (rateCode === 12) reader.unsigned(8);
  else if (rateCode > 12) reader.unsigned(16);
  const end = reader.at / 8;
  if (reader.unsigned(8) !== crc8(bytes, from, end)) throw damage.header;
  const channels = channelCode < 8 ? channelCode + 1 : 2;
  if (channels !== info.channels || (bits !== 0 && bits !== info.bits) || blockSize > info.longestBlock)
    throw damage.otherStream;
  return { blockSize, channelCode, start: variable ? number : number * info.longestBlock };
}

/** Samples of all channels that the frame at `at` claims; 0 where no header of this stream stands there. */
export function claimedSamples(bytes: Uint8Array, at: number, info: StreamInfo): number {
  try {
    return readHeader(new BitReader(bytes, at * 8), bytes, at, info).blockSize * info.channels;
  } catch (error) {
    if (error instanceof FlacDamage || error === bitsEnd) return 0;
    throw error;
  }
}

/** A number coded as UTF-8 codes characters, up to 36 bits. */
function codedNumber(reader: BitReader): number {
  const first = reader.unsigned(8);
  if (first < 0x80) return first;
  const length = Math.clz32(~(first << 24));
  if (length < 2 || length > 7) throw damage.number;
  let value = first & ((1 << (7 - length)) - 1);
  for (let i = 1; i < length; i++) value = value * 64 + (reader.unsigned(8) & 0x3f);
  return value;
}

/** Decodes the frame that begins at byte `from`. Throws FlacDamage. */
export function decodeFlacFrame(bytes: Uint8Array, from: number, info: StreamInfo): FlacFrame {
  try {
    return decodeFrame(bytes, from, info);
  } catch (error) {
    throw error === bitsEnd ? damage.end : error;
  }
}

function decodeFrame(bytes: Uint8Array, from: number, info: StreamInfo): FlacFrame {
  const reader = new BitReader(bytes, from * 8);
  const { blockSize, channelCode, start } = readHeader(reader, bytes, from, info);
  const samples = Array.from({ length: info.channels }, (_, channel) => {
    const isSide =
      (channelCode === 8 && channel === 1) ||
      (channelCode === 9 && channel === 0) ||
      (channelCode === 10 && channel === 1);
    return decodeSubframe(reader, bytes, blockSize, info.bits + (isSide ? 1 : 0));
  });
  undoStereo(samples, channelCode);
  reader.align();
  const end = reader.at / 8;
  if (reader.unsigned(16) !== crc16(bytes, from, end)) throw damage.frame;
  return { start, samples, bytes: end + 2 - from };
}

function undoStereo([left, right]: Int32Array[], channelCode: number) {
  if (channelCode < 8) return;
  for (let i = 0; i < left.length; i++) {
    if (channelCode === 8) right[i] = left[i] - right[i];
    else if (channelCode === 9) left[i] += right[i];
    else {
      const side = right[i];
      const middle = left[i] * 2 + (side & 1);
      left[i] = (middle + side) / 2;
      right[i] = (middle - side) / 2;
    }
  }
}

function decodeSubframe(
  reader: BitReader,
  bytes: Uint8Array,
  blockSize: number,
  wholeBits: number,
): Int32Array {
  if (reader.unsigned(1) !== 0) throw damage.noSubframe;
  const type = reader.unsigned(6);
  const wasted = reader.unsigned(1) === 1 ? reader.unary() + 1 : 0;
  const bits = wholeBits - wasted;
  if (bits < 1) throw damage.wasted;
  const samples = new Int32Array(blockSize);
  if (type === 0) samples.fill(reader.signed(bits));
  else if (type === 1) for (let i = 0; i < blockSize; i++) samples[i] = reader.signed(bits);
  else if (type >= 8 && type <= 12) decodePredicted(reader, bytes, samples, bits, type - 8, null);
  else if (type >= 32) decodePredicted(reader, bytes, samples, bits, type - 31, 'linear');
  else throw damage.subframe;
  if (wasted > 0) for (let i = 0; i < blockSize; i++) samples[i] <<= wasted;
  return samples;
}

/** Warm-up samples, then each sample as a prediction from those before and a residual. */
function decodePredicted(
  reader: BitReader,
  bytes: Uint8Array,
  samples: Int32Array,
  bits: number,
  order: number,
  kind: 'linear' | null,
) {
  if (order > samples.length) throw damage.predictorLength;
  for (let i = 0; i < order; i++) samples[i] = reader.signed(bits);
  let coefficients: readonly number[] = fixedCoefficients[order];
  let shift = 0;
  if (kind === 'linear') {
    const precision = reader.unsigned(4) + 1;
    shift = reader.signed(5);
    if (precision === 16 || shift < 0) throw damage.predictor;
    coefficients = Array.from({ length: order }, () => reader.signed(precision));
  }
  const end = kernels().flacResidual(bytes, reader.at, samples, coefficients, shift);
  if (end < 0) throw damage.residual;
  reader.at = end;
}
