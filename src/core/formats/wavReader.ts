import { exhaustive, ParolaError } from '../base/errors';
import { asciiAt, viewOf, type ByteSource } from './bytes';

type SampleType = 'u8' | 's16' | 's24' | 's32' | 'f32' | 'f64';

export interface WavInfo {
  rateHz: number;
  channels: number;
  sampleType: SampleType;
  frames: number;
  dataOffset: number;
  /** Bytes of one frame: all channels. */
  frameBytes: number;
  /** The file ends before the length its header states; `frames` counts what is there. */
  truncated: boolean;
}

const damaged = (what: string) =>
  new ParolaError(
    'damaged-file',
    `This WAV file cannot be read: ${what}. Export it again from where it came from.`,
  );

/**
 * Reads the chunks of a RIFF or RF64 WAVE file up to its audio. PCM of 8, 16, 24 and 32 bits and float of 32 and 64 bits,
 * plain or WAVE_FORMAT_EXTENSIBLE. Throws ParolaError `not-audio`, `damaged-file` or `unsupported`.
 */
export async function readWavInfo(source: ByteSource): Promise<WavInfo> {
  const start = await source.read(0, 12);
  const kind = start.length === 12 ? asciiAt(start, 0, 4) : '';
  if ((kind !== 'RIFF' && kind !== 'RF64') || asciiAt(start, 8, 4) !== 'WAVE') {
    throw new ParolaError('not-audio', 'This is not a WAV file.');
  }
  let format: Pick<WavInfo, 'rateHz' | 'channels' | 'sampleType'> | null = null;
  let longDataBytes = 0;
  for (let at = 12; at + 8 <= source.size;) {
    const header = await source.read(at, 8);
    if (header.length < 8) break;
    const id = asciiAt(header, 0, 4);
    const size = viewOf(header).getUint32(4, true);
    if (id === 'data') {
      if (!format) throw damaged('its format chunk is missing');
      return withData(
        format,
        source.size,
        at + 8,
        size === 0xffff_ffff && longDataBytes > 0 ? longDataBytes : size,
      );
    }
    if (id === 'fmt ') format = parseFormat(await source.read(at + 8, Math.min(size, 40)));
    if (id === 'ds64') {
      const body = await source.read(at + 8, 28);
      if (body.length < 16) throw damaged('its ds64 chunk is cut short');
      longDataBytes = Number(viewOf(body).getBigUint64(8, true));
    }
    at += 8 + size + (size % 2);
  }
  throw damaged('it has no audio in it');
}

function withData(
  format: Pick<WavInfo, 'rateHz' | 'channels' | 'sampleType'>,
  fileBytes: number,
  dataOffset: number,
  statedBytes: number,
): WavInfo {
  const frameBytes = sampleBytes[format.sampleType] * format.channels;
  const there = Math.max(0, fileBytes - dataOffset);
  const streamed = statedBytes === 0 || statedBytes === 0xffff_ffff;
  const bytes = streamed ? there : Math.min(statedBytes, there);
  return {
    ...format,
    frameBytes,
    frames: Math.floor(bytes / frameBytes),
    dataOffset,
    truncated: !streamed && there < statedBytes,
  };
}

const sampleBytes: Record<SampleType, number> = { u8: 1, s16: 2, s24: 3, s32: 4, f32: 4, f64: 8 };

function parseFormat(bytes: Uint8Array) {
  if (bytes.length < 16) throw damaged('its format chunk is cut short');
  const view = viewOf(bytes);
  let tag = view.getUint16(0, true);
  if (tag === 0xfffe && bytes.length >= 26) tag = view.getUint16(24, true);
  const channels = view.getUint16(2, true);
  const rateHz = view.getUint32(4, true);
  const bits = view.getUint16(14, true);
  const types: Record<string, SampleType> = {
    '1:8': 'u8',
    '1:16': 's16',
    '1:24': 's24',
    '1:32': 's32',
    '3:32': 'f32',
    '3:64': 'f64',
  };
  const sampleType = types[`${tag}:${bits}`];
  if (!sampleType) {
    throw new ParolaError(
      'unsupported',
      `This WAV file's coding (format ${tag}, ${bits} bits) cannot be read. Save it as PCM or float.`,
    );
  }
  if (channels < 1 || channels > 32) throw damaged(`it claims ${channels} channels`);
  if (rateHz < 1000 || rateHz > 768_000) throw damaged(`it claims a sample rate of ${rateHz} Hz`);
  return { rateHz, channels, sampleType };
}

/** Planar samples of frames [from, from + frames); fewer at the end. Integers are scaled by 1/2^(bits−1). */
export async function readWavFrames(
  source: ByteSource,
  info: WavInfo,
  from: number,
  frames: number,
): Promise<Float32Array<ArrayBuffer>[]> {
  const { frameBytes } = info;
  const wanted = Math.max(0, Math.min(frames, info.frames - from));
  const bytes = await source.read(info.dataOffset + from * frameBytes, wanted * frameBytes);
  return decodeFrames(bytes, info);
}

/** Planar samples of interleaved bytes; a last frame that is not whole is left out. */
export function decodeFrames(
  bytes: Uint8Array,
  { sampleType, channels }: Pick<WavInfo, 'sampleType' | 'channels'>,
): Float32Array<ArrayBuffer>[] {
  const width = sampleBytes[sampleType];
  const frames = Math.floor(bytes.length / (width * channels));
  return Array.from({ length: channels }, (_, channel) => {
    const samples = new Float32Array(frames);
    readSamples(samples, bytes, sampleType, channel * width, channels * width);
    return samples;
  });
}

/** A loop for each coding: hours of audio go through here. Reads every `stride` bytes from `at` on. */
function readSamples(
  samples: Float32Array,
  bytes: Uint8Array,
  type: SampleType,
  at: number,
  stride: number,
): void {
  const view = viewOf(bytes);
  const count = samples.length;
  switch (type) {
    case 'u8':
      for (let i = 0; i < count; i++, at += stride) samples[i] = (bytes[at] - 128) / 128;
      return;
    case 's16':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getInt16(at, true) / 32768;
      return;
    case 's24':
      // Three bytes at a time but for the first sample: a 32-bit word that begins one byte early, its lowest byte cleared.
      if (count > 0)
        samples[0] = ((bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24)) / 2147483648;
      for (let i = 1; i < count; i++) {
        at += stride;
        samples[i] = (view.getInt32(at - 1, true) & ~0xff) / 2147483648;
      }
      return;
    case 's32':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getInt32(at, true) / 2147483648;
      return;
    case 'f32':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getFloat32(at, true);
      return;
    case 'f64':
      for (let i = 0; i < count; i++, at += stride) samples[i] = view.getFloat64(at, true);
      return;
    default:
      exhaustive(type);
  }
}
