import { say } from '../../texts/say';
import { ParolaError } from '../base/errors';
import { bextInfo, type BroadcastOrigin } from './bext';
import { asciiAt, viewOf, type ByteSource } from './bytes';
import { chunksFrom } from './chunks';
import type { FileMark } from './fileMarks';
import { decodeFrames, frameBytesOf, type NumberTally, type PcmLayout, type SampleType } from './pcm';
import { readWavMarks } from './wavMarks';

export interface WavInfo extends PcmLayout {
  rateHz: number;
  frames: number;
  dataOffset: number;
  /** Bytes of one frame: all channels. */
  frameBytes: number;
  /** Where the audio ends and further chunks may follow. */
  dataEnd: number;
  /** The file ends before the length its header states; `frames` counts what is there. */
  truncated: boolean;
}

const damaged = (what: string) =>
  new ParolaError(
    'damaged-file',
    say`This WAV file cannot be read: ${what}. Export it again from where it came from.`,
  );

/**
 * Reads the chunks of a RIFF or RF64 WAVE file up to its audio. PCM of 8, 16, 24 and 32 bits, float of 32 and
 * 64 bits, A-law and µ-law, plain or WAVE_FORMAT_EXTENSIBLE. Throws ParolaError `not-audio`, `damaged-file`
 * or `unsupported`.
 */
export async function readWavInfo(source: ByteSource): Promise<WavInfo> {
  const start = await source.read(0, 12);
  const kind = start.length === 12 ? asciiAt(start, 0, 4) : '';
  if ((kind !== 'RIFF' && kind !== 'RF64') || asciiAt(start, 8, 4) !== 'WAVE') {
    throw new ParolaError('not-audio', say`This is not a WAV file.`);
  }
  let format: WavFormatInfo | null = null;
  let longDataBytes = 0;
  for await (const { id, at, size } of chunksFrom(source, 12, true)) {
    if (id === 'data') {
      if (!format) throw damaged(say`its format chunk is missing`);
      const bytes = size === 0xffff_ffff && longDataBytes > 0 ? longDataBytes : size;
      return withData(format, source.size, at, bytes);
    }
    if (id === 'fmt ') format = parseFormat(await source.read(at, Math.min(size, 40)));
    if (id === 'ds64') {
      const body = await source.read(at, 28);
      if (body.length < 16) throw damaged(say`its ds64 chunk is cut short`);
      longDataBytes = Number(viewOf(body).getBigUint64(8, true));
    }
  }
  throw damaged(say`it has no audio in it`);
}

type WavFormatInfo = PcmLayout & { rateHz: number };

function withData(
  format: WavFormatInfo,
  fileBytes: number,
  dataOffset: number,
  statedBytes: number,
): WavInfo {
  const frameBytes = frameBytesOf(format);
  const there = Math.max(0, fileBytes - dataOffset);
  const streamed = statedBytes === 0 || statedBytes === 0xffff_ffff;
  const bytes = streamed ? there : Math.min(statedBytes, there);
  return {
    ...format,
    frameBytes,
    frames: Math.floor(bytes / frameBytes),
    dataOffset,
    dataEnd: dataOffset + bytes + (bytes % 2),
    truncated: !streamed && there < statedBytes,
  };
}

function parseFormat(bytes: Uint8Array) {
  if (bytes.length < 16) throw damaged(say`its format chunk is cut short`);
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
    '6:8': 'alaw',
    '7:8': 'ulaw',
  };
  const sampleType = types[`${tag}:${bits}`];
  if (!sampleType) {
    throw new ParolaError(
      'unsupported',
      say`This WAV file's coding (format ${tag}, ${bits} bits) cannot be read. Save it as PCM or float from where it came from.`,
    );
  }
  if (channels < 1 || channels > 32) throw damaged(say`it claims ${channels} channels`);
  if (rateHz < 1000 || rateHz > 768_000) throw damaged(say`it claims a sample rate of ${rateHz} Hz`);
  return { rateHz, channels, sampleType, bigEndian: false };
}

/** Planar samples of frames [from, from + frames); fewer at the end. See decodeFrames for scaling. */
export async function readWavFrames(
  source: ByteSource,
  info: WavInfo,
  from: number,
  frames: number,
  tally?: NumberTally,
): Promise<Float32Array<ArrayBuffer>[]> {
  const { frameBytes } = info;
  const wanted = Math.max(0, Math.min(frames, info.frames - from));
  const bytes = await source.read(info.dataOffset + from * frameBytes, wanted * frameBytes);
  return decodeFrames(bytes, info, tally);
}

/** What stands around the audio of a WAV file: marks, and where and when it was recorded. */
export interface WavExtras {
  marks: FileMark[];
  origin: BroadcastOrigin | null;
}

/** A chunk of marks larger than this is no chunk of marks. */
const mostExtraBytes = 4_000_000;

/**
 * Reads `cue `, `LIST adtl` and `bext` chunks, before and after the audio; never throws for what is wrong
 * with them.
 */
export async function readWavExtras(source: ByteSource, info: WavInfo): Promise<WavExtras> {
  const found = new Map<string, Uint8Array>();
  const look = async (from: number) => {
    for await (const { id, at, size } of chunksFrom(source, from, true)) {
      if (at === info.dataOffset) return;
      const wanted = id === 'cue ' || id === 'bext' || id === 'LIST';
      if (!wanted || size > mostExtraBytes) continue;
      const body = await source.read(at, size);
      if (id !== 'LIST' || asciiAt(body, 0, Math.min(4, body.length)) === 'adtl') found.set(id, body);
    }
  };
  await look(12);
  await look(info.dataEnd);
  const cue = found.get('cue ');
  const bext = found.get('bext');
  return {
    marks: cue ? readWavMarks(cue, found.get('LIST') ?? null) : [],
    origin: bext ? bextInfo(bext) : null,
  };
}
