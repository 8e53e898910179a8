import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';

/** What Chromium's fake microphone plays: speech at its own 44,100 Hz, mono, 16 bit, so that captured samples are exact. */
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

/** A 16-bit file as the fake device gives it: positive v/32767, negative v/32768. */
export function fakeDeviceSamples(file: string): Float32Array {
  const bytes = readFileSync(file);
  const data = bytes.subarray(bytes.indexOf('data') + 8);
  return Float32Array.from({ length: Math.floor(data.length / 2) }, (_, i) => {
    const value = data.readInt16LE(i * 2);
    return value / (value > 0 ? 32767 : 32768);
  });
}

export interface StreamFacts {
  codec: string;
  sampleRate: number;
  channels: number;
  bitRate: number;
  duration: number;
}

export function probe(file: string): StreamFacts {
  const json = execFileSync('ffprobe', ['-v', 'error', '-show_streams', '-of', 'json', file], {
    encoding: 'utf8',
  });
  const [stream] = (JSON.parse(json) as { streams: Record<string, string | number>[] }).streams;
  return {
    codec: String(stream.codec_name),
    sampleRate: Number(stream.sample_rate),
    channels: Number(stream.channels),
    bitRate: Number(stream.bit_rate),
    duration: Number(stream.duration),
  };
}

/** The fake device sometimes inserts this much silence of its own, mostly at the start: a property of the device. */
const insertedFrames = 441;
const probeFrames = 400;

/**
 * Compares a recording with what was played into it, sample by sample, from its first loud sample to its end. Silences the fake device inserts are
 * stepped over and counted; at any other difference the comparison ends and `lost` is 1.
 */
export function compareWithPlayed(
  recorded: Float32Array,
  played: Float32Array,
): { matched: number; inserted: number; lost: number } {
  // The device scales in 32-bit arithmetic: the last bit may differ from ours; one step of 16 bits is 3e-5.
  const same = (i: number, at: number) => Math.abs(recorded[i] - played[at % played.length]) < 1e-6;
  const fits = (i: number, at: number) => {
    for (let k = 0; k < probeFrames && i + k < recorded.length; k++) if (!same(i + k, at + k)) return false;
    return true;
  };
  const start = recorded.findIndex((value) => Math.abs(value) > 0.05);
  let at = 0;
  while (at < played.length && !fits(start, at)) at++;
  if (start < 0 || at === played.length) return { matched: 0, inserted: 0, lost: 1 };
  let matched = 0;
  let inserted = 0;
  for (let i = start; i < recorded.length;) {
    if (same(i, at)) {
      i++;
      at++;
      matched++;
    } else if (
      recorded.subarray(i, i + insertedFrames).every((value) => value === 0) &&
      fits(i + insertedFrames, at)
    ) {
      i += insertedFrames;
      inserted++;
    } else return { matched, inserted, lost: 1 };
  }
  return { matched, inserted, lost: 0 };
}
