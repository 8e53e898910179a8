import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { seededRandom } from '../base/random';
import { dbToAmplitude } from '../base/units';
import { WavEncoder, wavHeader, type WavEncoding } from '../formats/wavWriter';

/** A sine of a peak level in dBFS; `phaseDegrees` at its first sample. */
export function sine(
  rateHz: number,
  seconds: number,
  hertz: number,
  peakDb: number,
  phaseDegrees = 0,
): Float32Array<ArrayBuffer> {
  const gain = dbToAmplitude(peakDb);
  const phase = (phaseDegrees * Math.PI) / 180;
  const step = (2 * Math.PI * hertz) / rateHz;
  const samples = new Float32Array(Math.round(rateHz * seconds));
  // Globals are slow to reach inside Jest.
  const { sin } = Math;
  if (gain > 0) for (let i = 0; i < samples.length; i++) samples[i] = gain * sin(step * i + phase);
  return samples;
}

/** White noise of an RMS level in dBFS. */
export function noise(frames: number, rmsDb: number, seed: number): Float32Array<ArrayBuffer> {
  const random = seededRandom(seed);
  const gain = dbToAmplitude(rmsDb) * 2;
  // The sum of three uniform numbers in ±½ has a variance of ¼.
  const samples = new Float32Array(frames);
  for (let i = 0; i < frames; i++) samples[i] = gain * (random() + random() + random() - 1.5);
  return samples;
}

export function concat(...pieces: Float32Array[]): Float32Array<ArrayBuffer> {
  const all = new Float32Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return all;
}

export const add = (a: Float32Array, b: Float32Array): Float32Array<ArrayBuffer> =>
  a.map((value, i) => value + b[i]) as Float32Array<ArrayBuffer>;

/** Cuts audio into chunks of random lengths up to `longest`. */
export function* chunksOf(
  audio: Float32Array,
  longest: number,
  seed: number,
): Generator<Float32Array<ArrayBuffer>> {
  const random = seededRandom(seed);
  for (let at = 0; at < audio.length;) {
    const length = 1 + Math.floor(random() * longest);
    yield audio.slice(at, at + length);
    at += length;
  }
}

export const scratchFolder = () => mkdtempSync(path.join(tmpdir(), 'parola-test-'));

export function writeWav(
  file: string,
  rateHz: number,
  audio: readonly Float32Array[],
  encoding: WavEncoding = 'float32',
): string {
  const format = { encoding, rateHz, channels: audio.length, dither: 'none' as const };
  const encoder = new WavEncoder(format);
  writeFileSync(
    file,
    Buffer.concat([wavHeader(format, audio[0].length), encoder.process(audio), encoder.finish()]),
  );
  return file;
}

/** What ffmpeg decodes from a file, one channel; not Parola's own reader. */
export function decodeWithFfmpeg(file: string): Float32Array {
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-ac', '1', '-f', 'f32le', '-'], {
    maxBuffer: 1 << 30,
  });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
}

/**
 * Where two recordings first differ, bit by bit; −1 when they are the same. Jest's own comparison takes
 * seconds for this.
 */
export function firstDifference(a: Float32Array, b: Float32Array): number {
  const [x, y] = [a, b].map((audio) => new Int32Array(audio.buffer, audio.byteOffset, audio.length));
  for (let i = 0; i < Math.max(x.length, y.length); i++) if (x[i] !== y[i]) return i;
  return -1;
}
