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
