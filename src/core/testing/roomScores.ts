import { gridOf } from '../chain/cells';
import { usualStep } from '../chain/settings';
import { learnRoom } from '../chain/softerRoom';
import { powerToDb } from '../base/units';
import { butterworthHighPass } from '../dsp/cookbook';
import { kernels } from '../dsp/kernels';
import { PowerSpectrum } from '../dsp/spectrum';
import { through } from './chains';
import type { Session } from './prompts';
import { add, noise } from './signals';
import { scaleToRms } from './sounds';

const rateHz = 48_000;

/** Rooms by their sound; of any level. */
export const rooms = {
  white: (frames: number) => noise(frames, -20, 41),
  pink: (frames: number) => pink(noise(frames, -20, 42)),
  /** A fan through a microphone (nothing under 30 Hz): what falls towards the treble, with a whirr in it. */
  fan: (frames: number) => {
    const air = pink(pink(noise(frames, -20, 43)));
    kernels().sections(air, butterworthHighPass(30, 4, rateHz), new Float64Array(4));
    const whirr = (i: number) =>
      Math.sin((2 * Math.PI * 117 * i) / rateHz) + 0.4 * Math.sin((2 * Math.PI * 351 * i) / rateHz);
    return scaleToRms(air, -20).map((value, i) => value + 0.03 * whirr(i));
  },
  hum: (frames: number) => {
    const hiss = noise(frames, -50, 44);
    const tone = (i: number) =>
      [1, 0.6, 0.35, 0.2].reduce(
        (sum, level, k) => sum + level * Math.sin((2 * Math.PI * 50 * (k + 1) * i) / rateHz),
        0,
      );
    return Float32Array.from({ length: frames }, (_, i) => 0.1 * tone(i) + hiss[i]);
  },
} as const;

export type RoomKind = keyof typeof rooms;

/** Pink by five poles and a plain part (P. Kellet's weights, within 0.1 dB from 10 Hz on; from memory). */
function pink(white: Float32Array): Float32Array {
  const poles = [0.99886, 0.99332, 0.969, 0.8665, 0.55];
  const weights = [0.0555179, 0.0750759, 0.153852, 0.3104856, 0.5329522];
  const states = [0, 0, 0, 0, 0];
  return white.map((x) => {
    let sum = 0.1848 * x;
    for (let k = 0; k < 5; k++) sum += states[k] = poles[k] * states[k] + weights[k] * x;
    return sum;
  });
}

function meanSquare(audio: Float32Array, from = 0, to = audio.length): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += audio[i] ** 2;
  return sum / (to - from);
}

/** Windows of 30 ms in which somebody speaks. */
const speechFrames = 0.03 * rateHz;

/**
 * Mean over speech of the signal-to-noise ratio of 30 ms windows, each from −10 to 35 dB: the usual
 * measure.
 */
function segmentalDb(clean: Float32Array, other: Float32Array): number {
  let total = 0;
  let windows = 0;
  for (let at = 0; at + speechFrames <= clean.length; at += speechFrames) {
    const power = meanSquare(clean, at, at + speechFrames);
    if (power < 1e-5) continue;
    let error = 0;
    for (let i = at; i < at + speechFrames; i++) error += (other[i] - clean[i]) ** 2;
    total += Math.min(35, Math.max(-10, powerToDb(power / Math.max(error / speechFrames, 1e-20))));
    windows++;
  }
  return total / windows;
}

const octavesHz = [125, 250, 500, 1000, 2000, 4000] as const;
const size = 512;

/** Powers of octave bands in windows 10 ms apart. */
function bandPowers(audio: Float32Array, from: number, to: number): Float64Array[] {
  const spectrum = new PowerSpectrum(size);
  const rows = octavesHz.map(() => [] as number[]);
  for (let at = from; at + size <= to; at += rateHz / 100) {
    const powers = spectrum.of(audio, at);
    octavesHz.forEach((middle, band) => {
      const [low, high] = [middle / Math.SQRT2, middle * Math.SQRT2].map((hertz) => (hertz * size) / rateHz);
      let sum = 0;
      for (let bin = Math.round(low); bin <= Math.max(Math.round(low), Math.round(high) - 1); bin++)
        sum += powers[bin];
      rows[band].push(sum);
    });
  }
  return rows.map((row) => Float64Array.from(row));
}

/** How much bands move from one window to the next: the standard deviation of their levels, dB. */
function fluctuations(audio: Float32Array, from: number, to: number): number[] {
  return bandPowers(audio, from, to).map((row) => {
    const levels = [...row].map((power) => powerToDb(power + 1e-20));
    const mean = levels.reduce((sum, level) => sum + level, 0) / levels.length;
    return Math.sqrt(levels.reduce((sum, level) => sum + (level - mean) ** 2, 0) / levels.length);
  });
}

export interface RoomScore {
  /** How far the pauses went down, dB. */
  pausesDb: number;
  /** Segmental signal-to-noise ratio before and after, dB. */
  segmentalDb: { before: number; after: number };
  /** The octave band of speech that changed most, dB. */
  bandDb: number;
  /** How much more bands move in what is left of the room than they did, at most, dB. */
  fluctuationDb: number;
}

/** What noise reduction by so much does to a voice in a room that is `overDb` under its speech. */
export async function roomScore(
  { audio: clean, placed }: Session,
  kind: RoomKind,
  overDb: number,
  amountDb: number,
): Promise<RoomScore> {
  const spoken = placed.reduce(
    (sum, { from, to }) => ({
      power: sum.power + meanSquare(clean, from, to) * (to - from),
      frames: sum.frames + to - from,
    }),
    { power: 0, frames: 0 },
  );
  const level = powerToDb(spoken.power / spoken.frames);
  const room = scaleToRms(rooms[kind](clean.length), level - overDb);
  const mixed = add(clean, room);
  // A second of the session's own room, before the first word.
  const profile = learnRoom(mixed.subarray(0, 0.95 * rateHz), gridOf(rateHz));
  const made = await through(mixed, [{ ...usualStep('room', 'room'), amountDb, profile }], rateHz);
  // Between the first prompt and the second nobody speaks, nor in the reduction's frames around it.
  const pauses = placed.map(({ to }) => ({ from: to + 0.1 * rateHz, to: to + 0.9 * rateHz }));
  const inPauses = (audio: Float32Array) =>
    pauses.reduce((sum, { from, to }) => sum + meanSquare(audio, from, to), 0);
  const bands = (audio: Float32Array) =>
    placed
      .map(({ from, to }) =>
        bandPowers(audio, from, to).map((row) => row.reduce((sum, power) => sum + power, 0)),
      )
      .reduce((sums, row) => sums.map((sum, band) => sum + row[band]));
  const [were, are] = [bands(clean), bands(made)];
  const [moved, moves] = [mixed, made].map((audio) =>
    fluctuations(audio, Math.round(placed[0].to + 0.1 * rateHz), Math.round(placed[0].to + 0.9 * rateHz)),
  );
  return {
    pausesDb: powerToDb(inPauses(mixed) / inPauses(made)),
    segmentalDb: { before: segmentalDb(clean, mixed), after: segmentalDb(clean, made) },
    bandDb: Math.max(...were.map((power, band) => Math.abs(powerToDb(are[band] / power)))),
    fluctuationDb: Math.max(...moves.map((level, band) => level - moved[band])),
  };
}
