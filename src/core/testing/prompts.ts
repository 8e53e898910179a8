import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { seededRandom } from '../base/random';
import { Resampler } from '../dsp/resampler';
import { concat, noise } from './signals';

/**
 * Recorded prompts of Debian's asterisk-core-sounds-*-g722 packages (CC BY-SA 3.0, professional voice
 * artists, 16 kHz), from which sessions with known truth are joined. Decoded by ffmpeg.
 */
const folders = {
  en: '/usr/share/asterisk/sounds/en_US_f_Allison',
  fr: '/usr/share/asterisk/sounds/fr_CA_f_June',
  it: '/usr/share/asterisk/sounds/it_IT_m_Carlo',
};
export const promptRateHz = 16_000;

/**
 * Spoken prompts of at least `shortestSeconds`, in order of their names. Throws where the package is not
 * installed.
 */
export function prompts(voice: keyof typeof folders, count: number, shortestSeconds: number): Float32Array[] {
  const folder = folders[voice];
  if (!existsSync(folder))
    throw new Error(`Install asterisk-core-sounds-${voice}-g722: ${folder} is missing`);
  const files = readdirSync(folder)
    .filter((name) => name.endsWith('.g722') && !/beep|tone|ring|silence|moh|click/.test(name))
    .sort()
    .map((name) => readFileSync(path.join(folder, name)))
    // Two samples a byte.
    .filter((bytes) => bytes.length * 2 >= shortestSeconds * promptRateHz)
    .slice(0, count);
  // One decoder run for all: each prompt begins and ends in silence, so nothing of one reaches the next.
  const all = decode(Buffer.concat(files));
  let at = 0;
  return files.map((bytes) => trim(all.subarray(at, (at += bytes.length * 2))));
}

function decode(input: Buffer): Float32Array {
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-f', 'g722', '-i', '-', '-f', 'f32le', '-'], {
    input,
    maxBuffer: 1 << 28,
  });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
}

/**
 * Without what is under −46 dBFS at both ends, by 2 ms windows: the first and last sound of the voice, scaled
 * to −20 dBFS RMS.
 */
function trim(audio: Float32Array): Float32Array {
  const window = promptRateHz / 500;
  let energy = 0;
  for (const value of audio) energy += value * value;
  const gain = 0.1 / Math.sqrt(energy / audio.length);
  const loud = (at: number) => {
    let sum = 0;
    for (let i = at; i < at + window; i++) sum += ((audio[i] ?? 0) * gain) ** 2;
    return sum / window > 10 ** -4.6;
  };
  let from = 0;
  while (from < audio.length && !loud(from)) from += window;
  let to = Math.floor(audio.length / window) * window;
  while (to > from && !loud(to - window)) to -= window;
  return audio.slice(from, to).map((value) => value * gain);
}

export interface Session {
  audio: Float32Array;
  /** First and last frame of each prompt. */
  placed: { from: number; to: number }[];
}

/** Prompts one after another with pauses of 0.6 to 1.4 s, in room noise of an RMS level. */
export function sessionOf(readings: readonly Float32Array[], noiseDbfs: number, seed: number): Session {
  const random = seededRandom(seed);
  const pieces: Float32Array[] = [];
  const placed: Session['placed'] = [];
  let at = 0;
  const pause = () => {
    const frames = Math.round((0.6 + random() * 0.8) * promptRateHz);
    pieces.push(new Float32Array(frames));
    at += frames;
  };
  for (const reading of readings) {
    pause();
    pieces.push(reading);
    placed.push({ from: at, to: at + reading.length });
    at += reading.length;
  }
  pause();
  const speech = concat(...pieces);
  const room = noise(speech.length, noiseDbfs, seed);
  return { audio: speech.map((value, i) => value + room[i]), placed };
}

/**
 * Prompts one after another at 48 kHz, a second of silence before the first one and after each; with where
 * each of them is.
 */
export function voiceAt48(voice: keyof typeof folders, count: number, shortestSeconds: number): Session {
  const silence = new Float32Array(promptRateHz);
  const placed: Session['placed'] = [];
  const pieces: Float32Array[] = [silence];
  let at = silence.length;
  for (const prompt of prompts(voice, count, shortestSeconds)) {
    placed.push({ from: 3 * at, to: 3 * (at + prompt.length) });
    pieces.push(prompt, silence);
    at += prompt.length + silence.length;
  }
  const resampler = new Resampler(promptRateHz, 48_000);
  return { audio: concat(resampler.process(concat(...pieces)), resampler.flush()), placed };
}
