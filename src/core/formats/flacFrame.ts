import { viewOf } from './bytes';

/**
 * One FLAC frame (RFC 9639, chapter 9): header, subframes, prediction. Kernels trust their buffer; what does
 * not fit throws FlacDamage.
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
  residual: new FlacDamage('a reserved residual'),
  partitions: new FlacDamage('partitions that do not fit'),
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

/** Fewer bits than a 32-bit word that begins at any bit of a byte holds. */
const wordBits = 25;

class BitReader {
  private at: number;
  private readonly view: DataView;
  /** A whole word can be read from bytes up to here. */
  private readonly lastWord: number;

  constructor(
    private readonly bytes: Uint8Array,
    firstByte: number,
  ) {
    this.at = firstByte * 8;
    this.view = viewOf(bytes);
    this.lastWord = bytes.length - 4;
  }

  get bytePosition() {
    return this.at / 8;
  }

  align() {
    this.at = Math.ceil(this.at / 8) * 8;
  }

  /** At most 32 bits, unsigned. */
  unsigned(count: number): number {
    const byte = this.at >>> 3;
    if (count > wordBits || count === 0 || byte > this.lastWord) return this.unsignedByBytes(count);
    const word = this.view.getUint32(byte) << (this.at & 7);
    this.at += count;
    return word >>> (32 - count);
  }

  private unsignedByBytes(count: number): number {
    let value = 0;
    let left = count;
    while (left > 0) {
      const byte = this.bytes[this.at >>> 3];
      if (byte === undefined) throw damage.end;
      const offset = this.at & 7;
      const take = Math.min(left, 8 - offset);
      value = value * (1 << take) + ((byte >> (8 - offset - take)) & ((1 << take) - 1));
      this.at += take;
      left -= take;
    }
    return value;
  }

  signed(count: number): number {
    const value = this.unsigned(count);
    return value >= 2 ** (count - 1) ? value - 2 ** count : value;
  }

  /** Zeros before the next one. */
  unary(): number {
    let zeros = 0;
    for (;;) {
      const byte = this.bytes[this.at >>> 3];
      if (byte === undefined) throw damage.end;
      const offset = this.at & 7;
      const rest = (byte << offset) & 0xff;
      if (rest !== 0) {
        const here = Math.clz32(rest) - 24;
        this.at += here + 1;
        return zeros + here;
      }
      zeros += 8 - offset;
      this.at += 8 - offset;
    }
  }

  /** Rice codes with this parameter into `samples[from..to)`: nearly all of a file. */
  rice(samples: Int32Array, from: number, to: number, parameter: number): void {
    for (let i = from; i < to; i++) {
      const byte = this.at >>> 3;
      const word = byte <= this.lastWord ? this.view.getUint32(byte) << (this.at & 7) : 0;
      const zeros = Math.clz32(word);
      if (zeros + 1 + parameter <= wordBits) {
        const low = parameter === 0 ? 0 : (word << (zeros + 1)) >>> (32 - parameter);
        const folded = (zeros << parameter) | low;
        samples[i] = (folded >>> 1) ^ -(folded & 1);
        this.at += zeros + 1 + parameter;
      } else {
        const folded = this.unary() * 2 ** parameter + (parameter === 0 ? 0 : this.unsigned(parameter));
        samples[i] = folded % 2 === 0 ? folded / 2 : -(folded + 1) / 2;
      }
    }
  }
}

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
  const end = reader.bytePosition;
  if (reader.unsigned(8) !== crc8(bytes, from, end)) throw damage.header;
  const channels = channelCode < 8 ? channelCode + 1 : 2;
  if (channels !== info.channels || (bits !== 0 && bits !== info.bits) || blockSize > info.longestBlock)
    throw damage.otherStream;
  return { blockSize, channelCode, start: variable ? number : number * info.longestBlock };
}

/** Samples of all channels that the frame at `at` claims; 0 where no header of this stream stands there. */
export function claimedSamples(bytes: Uint8Array, at: number, info: StreamInfo): number {
  try {
    return readHeader(new BitReader(bytes, at), bytes, at, info).blockSize * info.channels;
  } catch (error) {
    if (error instanceof FlacDamage) return 0;
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
  const reader = new BitReader(bytes, from);
  const { blockSize, channelCode, start } = readHeader(reader, bytes, from, info);
  const samples = Array.from({ length: info.channels }, (_, channel) => {
    const isSide =
      (channelCode === 8 && channel === 1) ||
      (channelCode === 9 && channel === 0) ||
      (channelCode === 10 && channel === 1);
    return decodeSubframe(reader, blockSize, info.bits + (isSide ? 1 : 0));
  });
  undoStereo(samples, channelCode);
  reader.align();
  const end = reader.bytePosition;
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

function decodeSubframe(reader: BitReader, blockSize: number, wholeBits: number): Int32Array {
  if (reader.unsigned(1) !== 0) throw damage.noSubframe;
  const type = reader.unsigned(6);
  const wasted = reader.unsigned(1) === 1 ? reader.unary() + 1 : 0;
  const bits = wholeBits - wasted;
  if (bits < 1) throw damage.wasted;
  const samples = new Int32Array(blockSize);
  if (type === 0) samples.fill(reader.signed(bits));
  else if (type === 1) for (let i = 0; i < blockSize; i++) samples[i] = reader.signed(bits);
  else if (type >= 8 && type <= 12) decodePredicted(reader, samples, bits, type - 8, null);
  else if (type >= 32) decodePredicted(reader, samples, bits, type - 31, 'linear');
  else throw damage.subframe;
  if (wasted > 0) for (let i = 0; i < blockSize; i++) samples[i] <<= wasted;
  return samples;
}

/** Warm-up samples, then each sample as a prediction from those before and a residual. */
function decodePredicted(
  reader: BitReader,
  samples: Int32Array,
  bits: number,
  order: number,
  kind: 'linear' | null,
) {
  if (order > samples.length) throw damage.predictorLength;
  for (let i = 0; i < order; i++) samples[i] = reader.signed(bits);
  let coefficients: readonly number[] = fixedCoefficients[order];
  let scale = 1;
  if (kind === 'linear') {
    const precision = reader.unsigned(4) + 1;
    const shift = reader.signed(5);
    if (precision === 16 || shift < 0) throw damage.predictor;
    coefficients = Array.from({ length: order }, () => reader.signed(precision));
    scale = 2 ** -shift;
  }
  readResidual(reader, samples, order);
  // Products of 24-bit samples and 15-bit coefficients pass 32 bits; doubles hold them exactly.
  const taps = Float64Array.from(coefficients);
  for (let i = order; i < samples.length; i++) {
    let sum = 0;
    for (let k = 0; k < order; k++) sum += taps[k] * samples[i - 1 - k];
    samples[i] += Math.floor(sum * scale);
  }
}

/** Rice-coded residuals in partitions, into `samples` from `order` on. */
function readResidual(reader: BitReader, samples: Int32Array, order: number) {
  const method = reader.unsigned(2);
  if (method > 1) throw damage.residual;
  const partitions = 1 << reader.unsigned(4);
  const perPartition = samples.length / partitions;
  if (!Number.isInteger(perPartition) || perPartition < order) throw damage.partitions;
  const parameterBits = method === 0 ? 4 : 5;
  const escape = (1 << parameterBits) - 1;
  for (let partition = 0; partition < partitions; partition++) {
    const parameter = reader.unsigned(parameterBits);
    const first = partition === 0 ? order : partition * perPartition;
    const end = (partition + 1) * perPartition;
    if (parameter === escape) {
      const width = reader.unsigned(5);
      for (let i = first; i < end; i++) samples[i] = width === 0 ? 0 : reader.signed(width);
      continue;
    }
    reader.rice(samples, first, end, parameter);
  }
}
