import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';

/**
 * What Chromium's fake microphone plays: speech at its own 44,100 Hz, mono, 16 bit, so that captured samples
 * are exact.
 */
export const speechFile = '.cache/e2e-speech.wav';

export function makeSpeechFile(): void {
  mkdirSync('.cache', { recursive: true });
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    'public/demo/practice-reader.mp3',
    '-ar',
    '44100',
    '-ac',
    '1',
    '-c:a',
    'pcm_s16le',
    speechFile,
  ]);
}

/** Any audio file as 32-bit float mono samples, decoded by ffmpeg, not by Parola. */
export function decode(file: string): Float32Array {
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-ac', '1', '-f', 'f32le', '-'], {
    maxBuffer: 1 << 30,
  });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
}

/** One channel of a 16-bit file as the fake device gives it: positive v/32767, negative v/32768. */
export function fakeDeviceSamples(file: string, channel = 0): Float32Array {
  const bytes = readFileSync(file);
  const channels = bytes.readUInt16LE(22);
  const data = bytes.subarray(bytes.indexOf('data') + 8);
  return Float32Array.from({ length: Math.floor(data.length / 2 / channels) }, (_, i) => {
    const value = data.readInt16LE((i * channels + channel) * 2);
    return value / (value > 0 ? 32767 : 32768);
  });
}

export interface StreamFacts {
  codec: string;
  sampleRate: number;
  channels: number;
  bitRate: number;
  duration: number;
  tags: Record<string, string>;
}

export function probe(file: string): StreamFacts {
  const json = execFileSync(
    'ffprobe',
    ['-v', 'error', '-show_streams', '-show_format', '-of', 'json', file],
    {
      encoding: 'utf8',
    },
  );
  const { streams, format } = JSON.parse(json) as {
    streams: Record<string, string | number>[];
    format: { tags?: Record<string, string> };
  };
  const [stream] = streams;
  return {
    codec: String(stream.codec_name),
    sampleRate: Number(stream.sample_rate),
    channels: Number(stream.channels),
    bitRate: Number(stream.bit_rate),
    duration: Number(stream.duration),
    tags: format.tags ?? {},
  };
}

/**
 * The fake device hands over 10 ms at a time. When it is short of time it puts in such a stretch of silence,
 * or leaves one out: a property of the device. Parola moves audio in stretches of 128 frames and stores
 * blocks of 16,384; it cannot lose a multiple of 441.
 */
const deviceFrames = 441;
const mostDeviceBuffers = 20;
const probeFrames = 400;

export interface Comparison {
  matched: number;
  /** Stretches of 10 ms that the device put in as silence, and that it left out. */
  inserted: number;
  skipped: number;
  /** 1 where the comparison ended at a difference, 0 where it went on to the end. */
  lost: number;
  /** Where it began and where it ended, in frames of the recording, for whoever has to find out why. */
  from: number;
  to: number;
}

/**
 * Compares a recording with what was played into it, sample by sample, from its first frame to its end: a
 * stretch that is loud enough to be found in what was played is looked for, and from there the comparison
 * runs back to the first frame and on to the last. Silences the fake device inserts are stepped over and
 * counted, as are stretches it leaves out; at any other difference the comparison ends and `lost` is 1.
 */
export function compareWithPlayed(recorded: Float32Array, played: Float32Array): Comparison {
  const length = played.length;
  // The device scales in 32-bit arithmetic: the last bit may differ from ours; one step of 16 bits is 3e-5.
  const same = (i: number, at: number) =>
    Math.abs(recorded[i] - played[((at % length) + length) % length]) < 1e-6;
  const fits = (i: number, at: number, step: number) => {
    for (let k = 0; k < probeFrames && i + k * step >= 0 && i + k * step < recorded.length; k++) {
      if (!same(i + k * step, at + k * step)) return false;
    }
    return true;
  };
  const start = recorded.findIndex((value) => Math.abs(value) > 0.02);
  let at = 0;
  while (at < length && !fits(start, at, 1)) at++;
  if (start < 0 || at === length)
    return { matched: 0, inserted: 0, skipped: 0, lost: 1, from: start, to: start };
  const leftOut = (i: number, place: number, step: number) => {
    for (let buffers = 1; buffers <= mostDeviceBuffers; buffers++) {
      if (fits(i, place + buffers * deviceFrames * step, step)) return buffers;
    }
    return 0;
  };
  const follow = (step: 1 | -1) => {
    let matched = 0;
    let inserted = 0;
    let skipped = 0;
    let i = step === 1 ? start : start - 1;
    let place = step === 1 ? at : at - 1;
    while (i >= 0 && i < recorded.length) {
      const silent = (k: number) =>
        i + k * step < 0 || i + k * step >= recorded.length || recorded[i + k * step] === 0;
      if (same(i, place)) {
        i += step;
        place += step;
        matched++;
      } else if (
        Array.from({ length: deviceFrames }, (_, k) => k).every(silent) &&
        fits(i + deviceFrames * step, place, step)
      ) {
        i += deviceFrames * step;
        inserted++;
      } else {
        const left = leftOut(i, place, step);
        if (left === 0) return { matched, inserted, skipped, end: i, lost: 1 };
        place += left * deviceFrames * step;
        skipped += left;
      }
    }
    return { matched, inserted, skipped, end: i, lost: 0 };
  };
  const on = follow(1);
  const back = follow(-1);
  return {
    matched: on.matched + back.matched,
    inserted: on.inserted + back.inserted,
    skipped: on.skipped + back.skipped,
    lost: Math.max(on.lost, back.lost),
    from: back.end + 1,
    to: on.end,
  };
}

/**
 * How much of a recording is what was played, sample by sample, with a comparison begun anew behind each gap
 * that cannot be explained: a browser on a busy machine has many.
 */
export function playedAltogether(recorded: Float32Array, played: Float32Array): number {
  let matched = 0;
  let at = 0;
  while (at < recorded.length) {
    const rest = recorded.subarray(at);
    const { matched: more, from, to } = compareWithPlayed(rest, played);
    if (from < 0) break;
    matched += more;
    at += more > 0 ? Math.max(to, deviceFrames) : from + deviceFrames;
  }
  return matched;
}
