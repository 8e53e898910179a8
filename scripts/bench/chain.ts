import { gridOf } from '@/core/chain/cells';
import { ChainedVoice } from '@/core/chain/chained';
import type { ChainStep } from '@/core/chain/chain';
import { usualStep } from '@/core/chain/settings';
import { learnRoom } from '@/core/chain/softerRoom';
import { stepNames } from '@/core/chain/stepText';
import { trackOf } from '@/core/testing/chains';
import { voiceAt48 } from '@/core/testing/prompts';
import { roomScore, rooms, type RoomKind } from '@/core/testing/roomScores';
import { concat, noise } from '@/core/testing/signals';
import { median, type Row } from './row';

const rateHz = 48_000;
const hour = 3600 * rateHz;

/** An hour of recorded prompts of three voices, one after another, as often as it takes, in a room. */
function anHour(): Float32Array {
  const prompts = concat(...(['en', 'it', 'fr'] as const).map((voice) => voiceAt48(voice, 150, 1.5).audio));
  const room = noise(60 * rateHz, -62, 9);
  return Float32Array.from({ length: hour }, (_, i) => prompts[i % prompts.length] + room[i % room.length]);
}

const profile = learnRoom(noise(2 * rateHz, -62, 9), gridOf(rateHz));
const every: readonly ChainStep[] = [
  usualStep('rumble', '1'),
  { ...usualStep('hum', '2'), harmonics: [1, 2, 3, 4, 5, 6, 7, 8] },
  usualStep('plosives', '3'),
  { ...usualStep('room', '4'), profile },
  { ...usualStep('pauses', '5'), thresholdDb: -50 },
  {
    ...usualStep('equaliser', '6'),
    bands: [160, 300, 600, 1200, 2400, 4000, 7000, 11_000].map((hertz) => ({
      ...{ shape: 'bell' as const, hertz, gainDb: -2, q: 1 },
    })),
  },
  usualStep('sibilance', '7'),
  usualStep('phrases', '8'),
  usualStep('even', '9'),
  usualStep('ceiling', '10'),
];
const inSeven: readonly ChainStep['kind'][] = [
  'rumble',
  'room',
  'pauses',
  'equaliser',
  'sibilance',
  'even',
  'ceiling',
];
const seven = every.filter(({ kind }) => inSeven.includes(kind));

/** Real time over the time it takes to bring frames through steps, reading on in chunks of two seconds. */
async function speed(audio: Float32Array, steps: readonly ChainStep[]): Promise<number> {
  const voice = ChainedVoice.of(trackOf(audio), steps, rateHz);
  const started = performance.now();
  for (let from = 0; from < audio.length; from += 2 * rateHz) await voice.read(from, 2 * rateHz);
  return audio.length / rateHz / ((performance.now() - started) / 1000);
}

const times = (value: number) => `${Math.round(value)}×`;

/** What begins to play first is rendered anywhere in three hours, from nothing. */
async function startsMs(audio: Float32Array): Promise<number[]> {
  const threeHours = {
    ...trackOf(audio),
    read: (from: number, count: number) => trackOf(audio).read(from % hour, count),
  };
  const taken: number[] = [];
  for (let i = 0; i < 25; i++) {
    const voice = ChainedVoice.of(threeHours, seven, rateHz);
    const from = Math.floor((hour * 3 * (i + 0.37)) / 26);
    const started = performance.now();
    // A player asks for a quarter of a second first.
    await voice.read(from, rateHz / 4);
    taken.push(performance.now() - started);
  }
  return taken.sort((a, b) => a - b);
}

/** A value is changed while it plays: what comes next is rendered anew, as far as it has to be. */
async function changesMs(audio: Float32Array, index: number): Promise<number[]> {
  let voice = ChainedVoice.of(trackOf(audio), seven, rateHz);
  const taken: number[] = [];
  for (let i = 0; i < 25; i++) {
    const from = (60 + 7 * i) * rateHz + 321 * i;
    for (let at = from - 4 * rateHz; at < from; at += rateHz / 4) await voice.read(at, rateHz / 4);
    const changed = seven.map((step, place) => (place === index ? other(step, i) : step));
    const started = performance.now();
    voice = voice.with(changed);
    await voice.read(from, rateHz / 4);
    taken.push(performance.now() - started);
  }
  return taken.sort((a, b) => a - b);
}

const other = (step: ChainStep, i: number): ChainStep => {
  if (step.kind === 'rumble') return { ...step, hertz: 60 + i };
  return step.kind === 'even' ? { ...step, thresholdDb: -30 + i / 4 } : step;
};

/** Speed of every step and of a chain, and what noise reduction does to recorded prompts. */
export async function benchChain(): Promise<Row[]> {
  const audio = anHour();
  const rows: Row[] = [];
  for (const step of every) {
    const wanted = step.kind === 'room' ? 'at least 40×' : 'at least 60×';
    rows.push([
      `“${stepNames[step.kind]}” alone, one hour of recorded prompts, one core`,
      times(await speed(audio, [step])),
      wanted,
    ]);
  }
  rows.push(['A chain of seven steps, the same hour', times(await speed(audio, seven)), 'at least 60×']);
  rows.push(['A chain with nothing on', times(await speed(audio, [])), 'the limit of this machine']);
  const starts = await startsMs(audio);
  rows.push([
    'The first quarter of a second of a chain of seven, at 25 places of three hours, from nothing',
    `${median(starts).toFixed(0)} ms, ${starts[starts.length - 1].toFixed(0)} ms at most`,
    'playing begins in under 300 ms',
  ]);
  for (const [kind, title] of [
    ['rumble', 'first'],
    ['even', 'sixth'],
  ] as const) {
    const changes = await changesMs(
      audio,
      seven.findIndex((step) => step.kind === kind),
    );
    rows.push([
      `The same after a value of the ${title} step was changed while it plays, at 25 places`,
      `${median(changes).toFixed(0)} ms, ${changes[changes.length - 1].toFixed(0)} ms at most`,
      'heard within 150 ms, of which 50 are the player’s',
    ]);
  }
  for (const name of ['en', 'it'] as const) {
    const voice = voiceAt48(name, 8, 2.5);
    for (const kind of Object.keys(rooms) as RoomKind[]) rows.push(await scoreRow(voice, name, kind));
  }
  return rows;
}

async function scoreRow(voice: ReturnType<typeof voiceAt48>, name: string, kind: RoomKind): Promise<Row> {
  const told: string[] = [];
  const misses: string[] = [];
  for (const overDb of [15, 25, 35])
    for (const amountDb of [10, 20]) {
      const { pausesDb, segmentalDb, bandDb, fluctuationDb } = await roomScore(voice, kind, overDb, amountDb);
      const gained = segmentalDb.after - segmentalDb.before;
      told.push(
        `${overDb}/${amountDb}: ${pausesDb.toFixed(1)}, +${gained.toFixed(1)}, ${bandDb.toFixed(2)}, ${fluctuationDb.toFixed(2)}`,
      );
      const missed = [
        Math.abs(pausesDb - amountDb) > 1 && 'pauses',
        gained <= 0 && 'segmental',
        overDb >= 25 && bandDb >= 1 && 'bands',
        fluctuationDb > 0.25 && 'fluctuation',
      ].filter((miss) => typeof miss === 'string');
      if (missed.length > 0) misses.push(`${overDb}/${amountDb}: ${missed.join(', ')}`);
    }
  return [
    `Noise reduction on prompts (${name}) in ${kind} noise: dB under the voice/dB asked: pauses dB, segmental SNR, most changed octave dB, more fluctuation dB`,
    told.join('; '),
    misses.length === 0 ? 'no misses' : `misses at ${misses.join('; ')}`,
  ];
}
