import { say } from '../../texts/say';
import { ParolaError } from '../base/errors';
import { ascii, asciiAt, viewOf, type ByteSource } from './bytes';
import { chunksFrom } from './chunks';
import { decodeFrames, frameBytesOf, type NumberTally, type PcmLayout, type SampleType } from './pcm';

export interface AiffInfo extends PcmLayout {
  rateHz: number;
  frames: number;
  dataOffset: number;
  /** The file ends before the length its header states; `frames` counts what is there. */
  truncated: boolean;
}

const damaged = (what: string) =>
  new ParolaError(
    'damaged-file',
    say`This AIFF file cannot be read: ${what}. Export it again from where it came from.`,
  );

/**
 * Compression types of AIFF-C that are plain samples or G.711, with what they hold for each sample size in
 * bits.
 */
const codings: Record<string, { bigEndian: boolean; types: Record<number, SampleType> }> = {
  NONE: { bigEndian: true, types: { 8: 's8', 16: 's16', 24: 's24', 32: 's32' } },
  twos: { bigEndian: true, types: { 8: 's8', 16: 's16', 24: 's24', 32: 's32' } },
  sowt: { bigEndian: false, types: { 8: 's8', 16: 's16', 24: 's24', 32: 's32' } },
  in24: { bigEndian: true, types: { 24: 's24' } },
  in32: { bigEndian: true, types: { 32: 's32' } },
  fl32: { bigEndian: true, types: { 32: 'f32' } },
  FL32: { bigEndian: true, types: { 32: 'f32' } },
  fl64: { bigEndian: true, types: { 64: 'f64' } },
  FL64: { bigEndian: true, types: { 64: 'f64' } },
  alaw: { bigEndian: true, types: { 8: 'alaw', 16: 'alaw' } },
  ulaw: { bigEndian: true, types: { 8: 'ulaw', 16: 'ulaw' } },
};

/**
 * The 80-bit extended number a sample rate is written as (Apple AIFF 1.3; IEEE 754 double extended), rounded
 * to whole hertz.
 */
function extendedAt(bytes: Uint8Array, at: number): number {
  const view = viewOf(bytes);
  const exponent = (view.getUint16(at) & 0x7fff) - 16383;
  return Math.round(
    view.getUint32(at + 2) * 2 ** (exponent - 31) + view.getUint32(at + 6) * 2 ** (exponent - 63),
  );
}

/** The same, for whole numbers below 2^31. */
function extended(value: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(10);
  const exponent = Math.floor(Math.log2(value));
  viewOf(bytes).setUint16(0, exponent + 16383);
  viewOf(bytes).setUint32(2, value * 2 ** (31 - exponent));
  return bytes;
}

/**
 * Reads the chunks of an AIFF or AIFF-C file. Throws ParolaError `not-audio`, `damaged-file` or
 * `unsupported`.
 */
export async function readAiffInfo(source: ByteSource): Promise<AiffInfo> {
  const start = await source.read(0, 12);
  const kind = start.length === 12 ? asciiAt(start, 8, 4) : '';
  if (asciiAt(start, 0, Math.min(4, start.length)) !== 'FORM' || (kind !== 'AIFF' && kind !== 'AIFC'))
    throw new ParolaError('not-audio', say`This is not an AIFF file.`);
  let common: ReturnType<typeof parseCommon> | null = null;
  let sound: { offset: number; bytes: number } | null = null;
  for await (const { id, at, size } of chunksFrom(source, 12, false)) {
    if (id === 'COMM') common = parseCommon(await source.read(at, Math.min(size, 26)), kind === 'AIFC');
    if (id === 'SSND') {
      const skip = await source.read(at, 8);
      if (skip.length < 8) throw damaged(say`its sound chunk is cut short`);
      const offset = viewOf(skip).getUint32(0);
      sound = { offset: at + 8 + offset, bytes: Math.max(0, size - 8 - offset) };
    }
    if (common && sound) break;
  }
  if (!common) throw damaged(say`its common chunk is missing`);
  if (!sound) throw damaged(say`it has no audio in it`);
  const frameBytes = frameBytesOf(common);
  const stated = Math.min(common.frames, Math.floor(sound.bytes / frameBytes));
  const there = Math.floor(Math.max(0, source.size - sound.offset) / frameBytes);
  return { ...common, frames: Math.min(stated, there), dataOffset: sound.offset, truncated: there < stated };
}

function parseCommon(bytes: Uint8Array, compressed: boolean) {
  if (bytes.length < (compressed ? 22 : 18)) throw damaged(say`its common chunk is cut short`);
  const view = viewOf(bytes);
  const channels = view.getUint16(0);
  const frames = view.getUint32(2);
  const bits = view.getUint16(6);
  const rateHz = extendedAt(bytes, 8);
  const compression = compressed ? asciiAt(bytes, 18, 4) : 'NONE';
  const coding = codings[compression];
  // A sample of 12 bits stands in 16, and so on.
  const sampleType = coding?.types[Math.ceil(bits / 8) * 8];
  if (!coding || !sampleType)
    throw new ParolaError(
      'unsupported',
      say`This AIFF file's coding (${compression}, ${bits} bits) cannot be read. Save it as plain PCM from where it came from.`,
    );
  if (channels < 1 || channels > 32) throw damaged(say`it claims ${channels} channels`);
  if (!(rateHz >= 1000 && rateHz <= 768_000))
    throw damaged(
      Number.isNaN(rateHz) ? say`its sample rate is no number` : say`it claims a sample rate of ${rateHz} Hz`,
    );
  return { channels, frames, sampleType, bigEndian: coding.bigEndian, rateHz };
}

/** Planar samples of frames [from, from + frames); fewer at the end. */
export async function readAiffFrames(
  source: ByteSource,
  info: AiffInfo,
  from: number,
  frames: number,
  tally?: NumberTally,
): Promise<Float32Array<ArrayBuffer>[]> {
  const frameBytes = frameBytesOf(info);
  const wanted = Math.max(0, Math.min(frames, info.frames - from));
  const bytes = await source.read(info.dataOffset + from * frameBytes, wanted * frameBytes);
  return decodeFrames(bytes, info, tally);
}

/**
 * The header of an AIFF file of 16 or 24-bit samples with exactly `frames` frames. Throws `too-large` beyond
 * 4 GiB.
 */
export function aiffHeader(
  { rateHz, channels, bytesPerSample }: { rateHz: number; channels: number; bytesPerSample: 2 | 3 },
  frames: number,
): Uint8Array<ArrayBuffer> {
  const dataBytes = frames * channels * bytesPerSample;
  const bytes = new Uint8Array(54);
  const formBytes = bytes.length - 8 + dataBytes + (dataBytes % 2);
  if (formBytes > 0xffff_ffff)
    throw new ParolaError(
      'too-large',
      say`AIFF ends at 4 GiB, and this file would be larger. Choose WAV or FLAC.`,
    );
  const view = viewOf(bytes);
  bytes.set(ascii('FORM'), 0);
  view.setUint32(4, formBytes);
  bytes.set(ascii('AIFFCOMM'), 8);
  view.setUint32(16, 18);
  view.setUint16(20, channels);
  view.setUint32(22, frames);
  view.setUint16(26, bytesPerSample * 8);
  bytes.set(extended(rateHz), 28);
  bytes.set(ascii('SSND'), 38);
  view.setUint32(42, dataBytes + 8);
  return bytes;
}

/** Little-endian samples to big-endian ones, in place. */
export function swapBytes(bytes: Uint8Array, width: 2 | 3): void {
  for (let at = 0; at + width <= bytes.length; at += width) {
    const first = bytes[at];
    bytes[at] = bytes[at + width - 1];
    bytes[at + width - 1] = first;
  }
}
