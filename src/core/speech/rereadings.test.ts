import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { prompts } from '../testing/prompts';
import { sessionWithFlubs, type FlubSession } from '../testing/rereadings';
import { noise } from '../testing/signals';
import { analysisRateHz } from './cepstra';
import { ClapDetector } from './claps';
import { analyse, defaultFindingOptions } from './findings';
import { cutOf, findRereadings, type Rereading } from './rereadings';
import { findSpeech, withoutBreaths } from './voiceActivity';

/**
 * Truth is known because it is put there: recorded prompts (Debian's asterisk-core-sounds), begun, given up,
 * and read again altered in tempo, pitch, tone, level and timing. The whole score, with every miss, is `npm
 * run bench -- rereadings`.
 */
const near = (a: number, b: number) => Math.abs(a - b) <= 0.05 * analysisRateHz;
const readings = prompts('en', 150, 1.4).filter((_, index) => index % 2 === 1);

function find({ audio }: FlubSession): Rereading[] {
  const claps = new ClapDetector(analysisRateHz).process(audio);
  const speech = withoutBreaths(audio, findSpeech(audio, analysisRateHz), analysisRateHz);
  return findRereadings(audio, speech, claps);
}

test.each([
  ['with a clap', true, 0.98],
  ['without any mark', false, 0.85],
])(
  're-readings %s are found, few others, and cut to within 50 ms and never inside a word',
  (_name, clapped, least) => {
    const session = sessionWithFlubs(readings, 77, clapped);
    const found = find(session);
    const right = (item: Rereading) =>
      session.flubs.some(
        ({ abandoned, again }) =>
          Math.abs(abandoned - item.abandoned) < 0.15 * analysisRateHz &&
          Math.abs(again - item.again) < 0.15 * analysisRateHz,
      );
    const hits = found.filter(right);
    expect(hits.length / session.flubs.length).toBeGreaterThanOrEqual(least);
    expect(hits.length / found.length).toBeGreaterThanOrEqual(0.9);
    const ends = hits.flatMap((item) => {
      const flub = session.flubs.find(({ abandoned }) => Math.abs(abandoned - item.abandoned) < 2400);
      return flub ? [near(item.abandoned, flub.abandoned), near(item.again, flub.again)] : [];
    });
    expect(ends.filter(Boolean).length / ends.length).toBeGreaterThanOrEqual(0.95);
    for (const item of hits) {
      const { from, to } = cutOf(session.audio, item);
      // The pause before the sentence stays as it was read.
      expect(to - from).toBe(item.again - item.abandoned);
      for (const at of [from, to])
        expect(session.words.some((word) => at > word.from + 160 && at < word.to - 160)).toBe(false);
    }
  },
);

test('nothing is found in silence, in noise, or in one sentence', () => {
  for (const audio of [new Float32Array(16_000), noise(160_000, -40, 1), readings[3]])
    expect(findRereadings(audio, findSpeech(audio, analysisRateHz), [])).toEqual([]);
});

describe('the demo readings', () => {
  const at16k = (file: string) => {
    const command = [
      '-v',
      'error',
      '-i',
      `public/demo/${file}.mp3`,
      '-ac',
      '1',
      '-ar',
      '16000',
      '-f',
      'f32le',
      '-',
    ];
    const bytes = execFileSync('ffmpeg', command, { maxBuffer: 1 << 28 });
    return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  };
  const rows = readFileSync('public/demo/truth.csv', 'utf8')
    .trim()
    .split('\n')
    .slice(1)
    .map((row) => row.split(','))
    .map(([file, event, , from, to]) => ({ file, event, from: Number(from), to: Number(to) }));

  test.each(['arrival', 'boat-house', 'stair', 'keepers-talk', 'practice-reader'])(
    '%s: every flub is proposed from its start to the start of the good reading, and no other passage',
    (file) => {
      const { findings } = analyse({ samples: at16k(file), marks: [], clipped: [] }, defaultFindingOptions);
      const restarts = findings.filter(({ kind }) => kind === 'restart' || kind === 'readTwice');
      const own = rows.filter((row) => row.file === file);
      const flubs = own.filter(({ event }) => event.startsWith('flub'));
      expect(restarts).toHaveLength(flubs.length);
      flubs.forEach((flub, index) => {
        const again = own.find(({ event, from }) => event === 'again' && from > flub.from);
        const { from, to, marked } = restarts[index];
        // 20 to 120 ms before both of them, by the same amount.
        const lead = flub.from - from / analysisRateHz;
        expect(lead).toBeGreaterThan(-0.03);
        expect(lead).toBeLessThan(0.17);
        expect(Math.abs((again?.from ?? 0) - to / analysisRateHz - lead)).toBeLessThan(0.05);
        expect(marked).toBe(flub.event === 'flub-with-clap');
      });
    },
  );

  test('the click and the breaths of the stair are found where they are', () => {
    const { findings } = analyse(
      { samples: at16k('stair'), marks: [], clipped: [] },
      { ...defaultFindingOptions, breathOverDb: 6 },
    );
    const of = (kind: string) => findings.filter((finding) => finding.kind === kind);
    const places = (event: string) => rows.filter((row) => row.file === 'stair' && row.event === event);
    expect(of('click').map(({ from }) => (from / analysisRateHz).toFixed(1))).toEqual(
      places('click').map(({ from }) => from.toFixed(1)),
    );
    for (const breath of places('breath')) {
      const middle = ((breath.from + breath.to) / 2) * analysisRateHz;
      // A breath inside a passage that goes anyway is not proposed by itself.
      const inside = of('restart').some(({ from, to }) => middle > from && middle < to);
      const found = of('breath').some(({ from, to }) => from < middle && to > middle);
      expect([breath.from, found || inside]).toEqual([breath.from, true]);
    }
  });
});
