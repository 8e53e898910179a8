import { execFileSync } from 'node:child_process';
import { seededRandom } from '../base/random';
import { promptRateHz } from './prompts';
import { clap } from './sounds';
import { concat, noise } from './signals';

/**
 * A reading as another attempt would sound: other tempo, pitch, tone and level, and time that runs unevenly.
 */
export function altered(reading: Float32Array, seed: number): Float32Array {
  const random = seededRandom(seed);
  const between = (low: number, high: number) => low + random() * (high - low);
  const raw = ['-t', 'f32', '-r', `${promptRateHz}`, '-c', '1'];
  const effects = [
    ['pitch', between(-80, 80).toFixed(0)],
    ['tempo', '-s', between(0.9, 1.1).toFixed(3)],
    ['treble', between(-3, 3).toFixed(1), '3k'],
    ['gain', between(-2, 2).toFixed(1)],
  ].flat();
  const bytes = execFileSync('sox', ['-D', ...raw, '-', ...raw, '-', ...effects], {
    input: Buffer.from(reading.buffer, reading.byteOffset, reading.byteLength),
    maxBuffer: 1 << 28,
  });
  const changed = new Float32Array(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + (bytes.byteLength & ~3)),
  );
  return warped(changed, random);
}

/** Time that runs up to 6 % faster or slower, changing its mind every 0.2 s. */
function warped(samples: Float32Array, random: () => number): Float32Array {
  const output: number[] = [];
  let speed = 1;
  let wanted = 1;
  for (let at = 0, i = 0; at < samples.length - 1; i++, at += speed) {
    if (i % (0.2 * promptRateHz) === 0) wanted = 1 + (random() - 0.5) * 0.12;
    speed += (wanted - speed) * 0.001;
    const index = Math.floor(at);
    const part = at - index;
    output.push(samples[index] * (1 - part) + samples[index + 1] * part);
  }
  return Float32Array.from(output);
}

export interface FlubSession {
  audio: Float32Array;
  /** Abandoned readings: where each begins and where the good one does, in samples. */
  flubs: { abandoned: number; again: number; clap: number | null }[];
  /** Every stretch in which somebody speaks. */
  words: { from: number; to: number }[];
}

/**
 * A session in which about every third prompt is begun, given up after 30 to 80 % of it, and read again in
 * full, altered; with a clap or without. Pauses of 0.5 to 1.3 s between sentences and 0.25 to 2 s before a
 * restart, in room noise of −62 dBFS.
 */
export function sessionWithFlubs(
  readings: readonly Float32Array[],
  seed: number,
  clapped: boolean,
  noiseDbfs = -62,
): FlubSession {
  const random = seededRandom(seed);
  const pieces: Float32Array[] = [];
  const flubs: FlubSession['flubs'] = [];
  const words: FlubSession['words'] = [];
  let at = 0;
  const put = (piece: Float32Array) => {
    pieces.push(piece);
    at += piece.length;
  };
  const pause = (least: number, most: number) =>
    put(new Float32Array(Math.round((least + random() * (most - least)) * promptRateHz)));
  const say = (reading: Float32Array) => {
    words.push({ from: at, to: at + reading.length });
    put(reading);
  };
  pause(0.8, 1.2);
  readings.forEach((reading, index) => {
    if (index % 3 !== 1) {
      say(reading);
      pause(0.5, 1.3);
      return;
    }
    const abandoned = at;
    const share = 0.3 + random() * 0.5;
    say(fadedEnd(reading.slice(0, Math.max(0.6 * promptRateHz, Math.round(reading.length * share)))));
    let clapAt: number | null = null;
    if (clapped) {
      pause(0.2, 0.6);
      clapAt = at;
      put(clap(promptRateHz, seed * 1000 + index));
    }
    pause(clapped ? 0.5 : 0.25, 2);
    const again = at;
    say(altered(reading, seed * 1000 + index));
    flubs.push({ abandoned, again, clap: clapAt });
    pause(0.5, 1.3);
  });
  const speech = concat(...pieces);
  const room = noise(speech.length, noiseDbfs, seed);
  return { audio: speech.map((value, i) => value + room[i]), flubs, words };
}

/** A voice stops within some hundredths of a second, not within a sample. */
function fadedEnd(reading: Float32Array): Float32Array {
  const frames = Math.round(0.03 * promptRateHz);
  return reading.map((value, i) => value * Math.min(1, (reading.length - i) / frames));
}
