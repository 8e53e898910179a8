import { readFileSync } from 'node:fs';
import { seededRandom } from '../base/random';
import { decodeWithFfmpeg, firstDifference } from '../testing/signals';
import { prompts, promptRateHz as rateHz, sessionOf } from '../testing/prompts';
import { clap, click, door, noise as roomNoise, pageTurn, plosive } from '../testing/sounds';
import { ClapDetector } from './claps';

const readings = prompts('en', 60, 1.2);

/**
 * Readings with claps in some pauses, and in others what is no clap: the truth is known because it is put
 * there.
 */
function sessionWithClaps(noiseDbfs: number, seed: number) {
  const random = seededRandom(seed);
  const truth: { reading: number; at: number }[] = [];
  const others = [door, click, pageTurn, plosive];
  const prepared = readings.map((reading, index) => {
    const clapped = index % 2 === 0;
    const sound = clapped ? clap(rateHz, seed * 100 + index) : others[(index >> 1) % 4](rateHz, index);
    // Peaks from about −5 to −15 dBFS: nearer and further hands.
    const gain = clapped ? 10 ** (-random() / 2) : 1;
    const gap = Math.round((0.25 + random() * 0.5) * rateHz);
    const all = new Float32Array(reading.length + gap + sound.length);
    all.set(reading);
    all.set(
      sound.map((value) => value * gain),
      reading.length + gap,
    );
    if (clapped) truth.push({ reading: index, at: reading.length + gap });
    return all;
  });
  const { audio, placed } = sessionOf(prepared, noiseDbfs, seed);
  return { audio, claps: truth.map(({ reading, at }) => placed[reading].from + at) };
}

function find(audio: Float32Array, chunk: number): number[] {
  const detector = new ClapDetector(rateHz);
  const found: number[] = [];
  for (let at = 0; at < audio.length; at += chunk)
    found.push(...detector.process(audio.subarray(at, at + chunk)));
  return found;
}

test.each([
  [-65, 1],
  [-55, 2],
  [-45, 3],
])(
  'room noise at %d dBFS: at least 98 %% of claps found, at least 95 %% of finds are claps',
  (noiseDbfs, seed) => {
    const { audio, claps } = sessionWithClaps(noiseDbfs, seed);
    const found = find(audio, 4096);
    const near = (a: number, b: number) => Math.abs(a - b) < 0.03 * rateHz;
    const hits = claps.filter((at) => found.some((frame) => near(frame, at)));
    const right = found.filter((frame) => claps.some((at) => near(frame, at)));
    expect(hits.length / claps.length).toBeGreaterThanOrEqual(0.98);
    expect(right.length / found.length).toBeGreaterThanOrEqual(0.95);
  },
);

test('any chunking finds the same', () => {
  const { audio } = sessionWithClaps(-55, 4);
  const some = audio.slice(0, 40 * rateHz);
  const whole = Float32Array.from(find(some, some.length));
  expect(whole.length).toBeGreaterThan(3);
  for (const chunk of [128, 1000, 7777])
    expect(firstDifference(Float32Array.from(find(some, chunk)), whole)).toBe(-1);
});

test('silence and noise hold no claps', () => {
  expect(find(new Float32Array(rateHz), 1000)).toEqual([]);
  expect(
    find(
      roomNoise(10 * rateHz, 1).map((value) => value * 0.1),
      1000,
    ),
  ).toEqual([]);
});

test('the claps of the demo readings, and nothing else in them (truth.csv beside the audio)', () => {
  const [, ...rows] = readFileSync('public/demo/truth.csv', 'utf8')
    .trim()
    .split('\n')
    .map((row) => row.split(','));
  for (const file of ['stair', 'boat-house', 'practice-reader', 'arrival']) {
    const detector = new ClapDetector(48_000);
    const found = detector
      .process(decodeWithFfmpeg(`public/demo/${file}.mp3`))
      .map((frame) => frame / 48_000);
    const ends = rows
      .filter(([name, event]) => name === file && event === 'flub-with-clap')
      .map((row) => Number(row[4]));
    // A clap takes the last quarter second of its flub.
    expect(found).toHaveLength(ends.length);
    found.forEach((at, index) => expect(Math.abs(at - (ends[index] - 0.25))).toBeLessThan(0.03));
  }
});
