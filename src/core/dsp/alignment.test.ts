import { execFileSync } from 'node:child_process';
import path from 'node:path';
import { seededRandom } from '../base/random';
import { concat, noise, scratchFolder, writeWav } from '../testing/signals';
import { ffmpegChannels } from '../testing/soundFiles';
import { findAlignment, ratesOfClocks, type TwoRecordings } from './alignment';
import { CrossCorrelation } from './crossCorrelation';
import { Resampler } from './resampler';

const rateHz = 8000;
const stepSeconds = 256 / 48_000;

/** A conversation as functions of time, so that any clock can read it at any moment, to any fraction. */
interface Voice {
  /** Loudness at a moment, and the sound itself. */
  level: (seconds: number) => number;
  sound: (seconds: number) => number;
}

/** Noise that can be read between its samples: nothing above 3 kHz, sampled at 48. */
const finelyHz = 48_000;
function fineNoise(seed: number): (seconds: number) => number {
  const white = noise(1 << 20, -6, seed);
  const soft = new Float32Array(white.length);
  for (let i = 0; i < white.length; i++)
    for (let k = 0; k < 12; k++)
      soft[i] += white[(i + k * 3) % white.length] * Math.sin((Math.PI * (k + 0.5)) / 12);
  return (seconds) => {
    const at = seconds * finelyHz;
    const whole = Math.floor(at);
    const a = soft[whole & (white.length - 1)];
    const b = soft[(whole + 1) & (white.length - 1)];
    return a + (b - a) * (at - whole);
  };
}

/** Turns of one to eight seconds, in syllables; `mine` says which of two speakers has a turn. */
function conversation(seconds: number, seed: number): [Voice, Voice] {
  const random = seededRandom(seed);
  const turns: { from: number; to: number; who: number }[] = [];
  for (let at = 1; at < seconds;) {
    const to = at + 1 + 7 * random();
    turns.push({ from: at, to, who: random() < 0.5 ? 0 : 1 });
    at = to + 0.2 + random();
  }
  const beats = Float32Array.from({ length: Math.ceil(seconds * 8) + 16 }, () => random());
  const turnAt = (t: number) => {
    let [low, high] = [0, turns.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (turns[middle].from <= t) low = middle + 1;
      else high = middle;
    }
    const turn = turns[low - 1];
    return turn && t < turn.to ? turn.who : -1;
  };
  const voice = (who: number): Voice => {
    const sound = fineNoise(seed + 10 + who);
    const level = (t: number) => {
      if (t < 0 || turnAt(t) !== who) return 0;
      const beat = beats[Math.floor(t * 8) + who * 8];
      return beat < 0.25 ? 0.02 : 0.1 + 0.4 * beat;
    };
    return { level, sound: (t) => level(t) * sound(t) };
  };
  return [voice(0), voice(1)];
}

interface Recorder {
  /** Second t of the conversation is at second `begins + t × (1 + ppm ÷ 10⁶)` of the recording. */
  begins: number;
  ppm: number;
  seconds: number;
}

/** What two recorders make of it: each its own voice, the other's softer and later, and its own room. */
function recordings(
  voices: [Voice, Voice],
  recorders: [Recorder, Recorder],
  bleedDb: number,
  echo: number,
): TwoRecordings {
  const bleed = 10 ** (bleedDb / 20);
  const timeOf = ({ begins, ppm }: Recorder, at: number) => (at - begins) / (1 + ppm / 1e6);
  const both = (which: 0 | 1) => [voices[which], voices[1 - which]] as const;
  const levels = recorders.map((recorder, which) => {
    const [own, other] = both(which as 0 | 1);
    return new Float32Array(Math.floor(recorder.seconds / stepSeconds)).map((_, i) => {
      const t = timeOf(recorder, (i + 0.5) * stepSeconds);
      return 0.1 * (own.level(t) ** 2 + (bleed * other.level(t - echo)) ** 2) + 3e-7;
    });
  }) as [Float32Array, Float32Array];
  const random = seededRandom(99);
  return {
    levels,
    stepSeconds,
    rateHz,
    read(which, from, seconds) {
      const recorder = recorders[which];
      const [own, other] = both(which);
      return Promise.resolve(
        new Float32Array(Math.round(seconds * rateHz)).map((_, i) => {
          const at = from + i / rateHz;
          if (at < 0 || at >= recorder.seconds) return 0;
          const t = timeOf(recorder, at);
          return own.sound(t) + bleed * other.sound(t - echo) + 0.001 * (random() - 0.5);
        }),
      );
    },
  };
}

/** Known offsets and clocks; who is late is found whichever it is. */
const cases = [
  { minutes: 60, begins: 12.345, ppm: 60 },
  { minutes: 8, begins: -7.5, ppm: -60 },
  { minutes: 5, begins: 0, ppm: 0 },
];
test.each(cases)(
  '$minutes minutes, begun $begins s apart with clocks $ppm ppm apart, an echo of 20 ms and bleed at −12 dB: within 1 ms at both ends',
  async ({ minutes, begins, ppm }) => {
    const seconds = minutes * 60;
    const two = recordings(
      conversation(seconds, 5),
      [
        { begins: 0, ppm: 0, seconds },
        { begins, ppm, seconds: seconds + Math.min(0, begins) },
      ],
      -12,
      0.02,
    );
    const found = await findAlignment(two);
    if (!found) throw new Error('nothing in common');
    for (const t of [Math.max(0, -begins), seconds / 2, seconds - 20]) {
      const truth = begins + t * (1 + ppm / 1e6);
      const told = found.offsetSeconds + t * (1 + found.ppm / 1e6);
      expect(Math.abs(told - truth)).toBeLessThan(0.001);
    }
    expect(found.bleedMs).toBeGreaterThan(18);
    expect(found.bleedMs).toBeLessThan(22);
    expect(found.moments).toBeGreaterThan(minutes);
  },
);

test('two recordings of different conversations have nothing in common', async () => {
  const one = recordings(
    conversation(600, 1),
    [
      { begins: 0, ppm: 0, seconds: 600 },
      { begins: 0, ppm: 0, seconds: 600 },
    ],
    -60,
    0,
  );
  const other = recordings(
    conversation(600, 2),
    [
      { begins: 0, ppm: 0, seconds: 600 },
      { begins: 0, ppm: 0, seconds: 600 },
    ],
    -60,
    0,
  );
  const mixed: TwoRecordings = {
    ...one,
    levels: [one.levels[0], other.levels[1]],
    read: (which, from, seconds) => (which === 0 ? one : other).read(which, from, seconds),
  };
  expect(await findAlignment(mixed)).toBeNull();
  const silent = new Float32Array(1000);
  expect(await findAlignment({ ...one, levels: [silent, silent] })).toBeNull();
});

/** Samples of two files, in memory, as the state reads them from storage. */
function inMemory(files: readonly [Float32Array, Float32Array], fileHz: number): TwoRecordings {
  const step = 256;
  const low = files.map((samples) => {
    const resampler = new Resampler(fileHz, rateHz, 'analysis');
    return concat(resampler.process(samples), resampler.flush());
  });
  return {
    levels: files.map((samples) =>
      Float32Array.from({ length: Math.floor(samples.length / step) }, (_, i) => {
        let sum = 0;
        for (let k = 0; k < step; k++) sum += samples[i * step + k] ** 2;
        return sum / step;
      }),
    ) as [Float32Array, Float32Array],
    stepSeconds: step / fileHz,
    rateHz,
    read(which, from, seconds) {
      const first = Math.round(from * rateHz);
      return Promise.resolve(
        Float32Array.from({ length: Math.round(seconds * rateHz) }, (_, i) => low[which][first + i] ?? 0),
      );
    },
  };
}

test('speech, its second recording made to run 120 ppm slower and to begin 3.2 s later by sox: laid in step within 1 ms', async () => {
  const fileHz = 48_000;
  const [ines] = ffmpegChannels('public/demo/stair.mp3', 1);
  const [talk] = ffmpegChannels('public/demo/keepers-talk.mp3', 1);
  // They take turns of nine seconds; each is heard 12 dB softer and 5 ms later at the other's microphone.
  const turn = 9 * fileHz;
  const length = 2 * Math.min(ines.length, talk.length);
  const own = [new Float32Array(length), new Float32Array(length)];
  for (let at = 0; at < length; at += turn) {
    const who = (at / turn) % 2;
    const from = Math.floor(at / 2 / turn) * turn;
    own[who].set([ines, talk][who].subarray(from, Math.min(from + turn, from + length - at)), at);
  }
  const late = Math.round(0.005 * fileHz);
  const microphones = own.map((voice, who) =>
    voice.map((value, i) => value + 0.25 * (own[1 - who][i - late] ?? 0)),
  );
  const folder = scratchFolder();
  const second = writeWav(path.join(folder, 'second.wav'), fileHz, [microphones[1]]);
  const moved = path.join(folder, 'moved.wav');
  // Slower by 120 ppm: as many more seconds in a million.
  execFileSync('sox', [
    second,
    '-b',
    '24',
    moved,
    'speed',
    String(1 / 1.00012),
    'rate',
    '-v',
    '48000',
    'pad',
    '3.2',
  ]);
  const [heard] = ffmpegChannels(moved, 1);
  const found = await findAlignment(inMemory([microphones[0], heard], fileHz));
  if (!found) throw new Error('nothing in common');
  expect(Math.abs(found.ppm - 120)).toBeLessThan(6);
  // Converted to the first one's clock, what was second 0 of the conversation stands where it was found.
  const { fromHz, toHz } = ratesOfClocks(found);
  const resampler = new Resampler(fromHz, toHz);
  const laid = concat(resampler.process(heard), resampler.flush());
  const begins = Math.round((found.offsetSeconds / (1 + found.ppm / 1e6)) * fileHz);
  for (const share of [0.05, 0.5, 0.9]) {
    const at = Math.round(share * microphones[1].length);
    const window = 4 * fileHz;
    const correlation = CrossCorrelation.holding(2 * window);
    const lags = correlation.lags(
      correlation.spectrumOf(laid.subarray(begins + at, begins + at + window)),
      correlation.spectrumOf(microphones[1].subarray(at, at + window)),
      true,
    );
    const lag = lags.indexOf(Math.max(...lags.subarray(0, 4800), ...lags.subarray(-4800)));
    const frames = lag > lags.length / 2 ? lag - lags.length : lag;
    expect(Math.abs(frames) / fileHz).toBeLessThan(0.001);
  }
});
