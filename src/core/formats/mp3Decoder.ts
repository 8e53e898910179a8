import { say } from '../../texts/say';
import { MPEGDecoder } from 'mpg123-decoder';
import { ParolaError } from '../base/errors';
import { asciiAt, joinBytes, type ByteSource } from './bytes';
import type { FileHealth } from './health';
import { Mp3FrameScan } from './mp3Frames';
import { parseMp3Header, type Mp3FrameHeader } from './mp3Info';

/**
 * What is no file of the formats that are read here; MP3 has no sure sign, so this decoder is the last to see
 * it.
 */
export const noSound = () =>
  new ParolaError(
    'not-audio',
    say`This is not a WAV, AIFF, FLAC or MP3 file, or it holds no audio. Choose another one, or save it as one of these.`,
  );

/** How far into a file the first frame is looked for, past any ID3 tag. */
const searchBytes = 65_536;
/** So much of a file without a single frame that could be decoded, and the rest is none either. */
const mostSilentBytes = 16_777_216;

/** Length of an ID3v2 tag at the start (id3.org, ID3v2.4 structure 3.1), 0 when there is none. */
export function id3Bytes(bytes: Uint8Array): number {
  if (bytes.length < 10 || asciiAt(bytes, 0, 3) !== 'ID3') return 0;
  const [a, b, c, d] = bytes.subarray(6, 10);
  return 10 + ((a << 21) | (b << 14) | (c << 7) | d) + (bytes[5] & 0x10 ? 10 : 0);
}

/** Tags one after another at the start of a file: more than these are none. */
const mostTags = 100;

/** Where the audio begins behind the tags at the start of a file; tags of many megabytes stay unread. */
export async function soundStart(source: ByteSource): Promise<number> {
  let at = 0;
  for (let count = 0; count < mostTags; count++) {
    const length = id3Bytes(await source.read(at, 10));
    if (length === 0) break;
    at += length;
  }
  return at;
}

/** A stream without the tag it begins with. */
async function* withoutTag(chunks: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let start: Uint8Array = new Uint8Array(0);
  let skip = -1;
  for await (const chunk of chunks) {
    let bytes = chunk;
    if (skip < 0) {
      start = bytes = joinBytes([start, chunk]);
      if (start.length < 10) continue;
      skip = id3Bytes(start);
    }
    const step = Math.min(skip, bytes.length);
    skip -= step;
    if (step < bytes.length) yield bytes.subarray(step);
  }
  if (skip < 0 && start.length > 0) yield start;
}

/**
 * The first MPEG-1 Layer III frame header that another one follows; null when there is none nearby.
 */
function findMp3Header(bytes: Uint8Array): { header: Mp3FrameHeader; at: number } | null {
  for (let at = 0; at < Math.min(bytes.length - 4, searchBytes); at++) {
    const header = parseMp3Header(bytes, at);
    if (header && (at + header.bytes >= bytes.length - 4 || parseMp3Header(bytes, at + header.bytes)))
      return { header, at };
  }
  return null;
}

export interface Mp3Info {
  rateHz: number;
  channels: number;
}

/**
 * Decodes MP3 as it streams in, without the encoder's delay and padding where the file states them. Yields
 * planar audio with as many channels as the file has. `onInfo` is called before the first audio. What cannot
 * be decoded is left out, and `state`, which is whole when the generator has ended, says so. Throws
 * `not-audio` when no frame is found, `damaged-file` when 16 MB hold none.
 */
export async function* decodeMp3(
  chunks: AsyncIterable<Uint8Array>,
  onInfo: (info: Mp3Info) => FileHealth,
): AsyncGenerator<Float32Array<ArrayBufferLike>[]> {
  const decoder = new MPEGDecoder();
  await decoder.ready;
  try {
    let info: Mp3Info | null = null;
    let state: FileHealth | null = null;
    let held: Uint8Array = new Uint8Array(0);
    let silentBytes = 0;
    const scan = new Mp3FrameScan();
    const start = () => {
      const found = findMp3Header(held);
      if (!found) throw noSound();
      const { rateHz, channels } = found.header;
      info = { rateHz, channels };
      state = onInfo(info);
      scan.process(held.subarray(found.at));
    };
    const finish = () => {
      const { truncated, damaged } = scan.finish();
      if (!state) return;
      state.truncated ||= truncated;
      state.damaged ||= damaged;
    };
    const decode = (bytes: Uint8Array): Float32Array[] | null => {
      const { channelData, samplesDecoded, errors } = quietly(() => decoder.decode(bytes));
      if (errors.length > 0 && state) state.damaged = true;
      silentBytes = samplesDecoded > 0 ? 0 : silentBytes + bytes.length;
      if (silentBytes > mostSilentBytes) throw noneDecoded();
      // The decoder answers in stereo whatever the file is.
      return samplesDecoded > 0 ? channelData.slice(0, info?.channels) : null;
    };
    for await (const chunk of withoutTag(chunks)) {
      let bytes = chunk;
      if (!info) {
        held = joinBytes([held, chunk]);
        if (held.length < searchBytes) continue;
        start();
        bytes = held;
      } else scan.process(chunk);
      const audio = decode(bytes);
      if (audio) yield audio;
    }
    if (!info) {
      start();
      const audio = decode(held);
      if (audio) yield audio;
    }
    finish();
  } finally {
    decoder.free();
  }
}

const noneDecoded = () =>
  new ParolaError(
    'damaged-file',
    say`This MP3 file cannot be read: most of it is damaged. Export it again from where it came from.`,
  );

/**
 * The decoder prints every damaged frame to the console: hundreds of lines, of which the caller makes one
 * message. Only for what does not wait.
 */
function quietly<Result>(work: () => Result): Result {
  const print = console.error;
  console.error = () => undefined;
  try {
    return work();
  } finally {
    console.error = print;
  }
}
