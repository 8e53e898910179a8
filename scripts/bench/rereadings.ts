import { seededRandom } from '@/core/base/random';
import { mkdirSync, writeFileSync } from 'node:fs';
import { writeWav } from '@/core/testing/signals';
import { analysisRateHz } from '@/core/speech/cepstra';
import { ClapDetector } from '@/core/speech/claps';
import {
  cutOf,
  findRereadings,
  rereadingCandidates,
  weights,
  type Candidate,
  type Evidence,
} from '@/core/speech/rereadings';
import { findSpeech, withoutBreaths } from '@/core/speech/voiceActivity';
import { prompts, sessionOf } from '@/core/testing/prompts';
import { sessionWithFlubs, type FlubSession } from '@/core/testing/rereadings';
import type { Row } from './row';

/** Every other prompt of a voice: the first half is for fitting, the second for figures. */
const half = (voice: 'en' | 'fr', count: number, which: 0 | 1) =>
  prompts(voice, count, 1.4).filter((_, index) => index % 2 === which);

const near = (a: number, b: number, seconds: number) => Math.abs(a - b) <= seconds * analysisRateHz;
const isRight = ({ abandoned, again }: Pick<Candidate, 'abandoned' | 'again'>, { flubs }: FlubSession) =>
  flubs.some((flub) => near(flub.abandoned, abandoned, 0.15) && near(flub.again, again, 0.15));

const speechOf = (audio: Float32Array) =>
  withoutBreaths(audio, findSpeech(audio, analysisRateHz), analysisRateHz);
const claps = (audio: Float32Array) => new ClapDetector(analysisRateHz).process(audio);

/** Fits the weights by gradient ascent on the candidates of sessions of the first half. */
export function fitRereadings(): void {
  let truth = 0;
  const data: { evidence: Evidence; right: number }[] = [];
  for (const seed of [1, 2, 3, 4]) {
    const session = sessionWithFlubs(half('en', 240, 0), seed, seed % 2 === 0);
    const marks = claps(session.audio);
    truth += session.flubs.length;
    for (const candidate of rereadingCandidates(session.audio, speechOf(session.audio), marks))
      data.push({ evidence: candidate.evidence, right: isRight(candidate, session) ? 1 : 0 });
  }
  const names = Object.keys(data[0].evidence) as (keyof Evidence)[];
  const fitted = { ...weights };
  const rate = 0.05;
  for (let round = 0; round < 6000; round++) {
    const slope = Object.fromEntries([...names, 'bias'].map((name) => [name, 0])) as typeof weights;
    for (const { evidence, right } of data) {
      const z = names.reduce((sum, name) => sum + fitted[name] * evidence[name], fitted.bias);
      const error = right - 1 / (1 + Math.exp(-z));
      for (const name of names) slope[name] += error * evidence[name];
      slope.bias += error;
    }
    for (const name of [...names, 'bias'] as (keyof typeof weights)[])
      fitted[name] += rate * (slope[name] / data.length) * 20 - 1e-5 * fitted[name];
  }
  const right = data.filter((item) => item.right).length;
  console.log(`${data.length} candidates, ${right} right, of ${truth} re-readings`);
  console.log(fitted);
}

const folder = '.cache/rereadings';

/** Keeps a session with its truth beside it, to be listened to: WAV and CSV, seconds. */
function keep(name: string, { audio, flubs }: FlubSession) {
  const file = `${folder}/${name.replace(/ /g, '-')}`;
  mkdirSync(folder, { recursive: true });
  writeWav(`${file}.wav`, analysisRateHz, [audio]);
  const seconds = (at: number) => (at / analysisRateHz).toFixed(3);
  const rows = flubs.map(({ abandoned, again, clap }) =>
    [seconds(abandoned), seconds(again), clap === null ? '' : seconds(clap)].join(','),
  );
  writeFileSync(`${file}.csv`, ['abandoned_s,again_s,clap_s', ...rows].join('\n') + '\n');
}

interface Score {
  truth: number;
  hits: number;
  found: number;
  cuts: number[];
  inWords: number;
  misses: string[];
  seconds: number;
  cpu: number;
}

function score(session: FlubSession, name: string): Score {
  keep(name, session);
  const before = process.cpuUsage();
  const marks = claps(session.audio);
  const speech = speechOf(session.audio);
  const found = findRereadings(session.audio, speech, marks);
  const { user, system } = process.cpuUsage(before);
  const hits = session.flubs.filter((flub) =>
    found.some((item) => near(flub.abandoned, item.abandoned, 0.15) && near(flub.again, item.again, 0.15)),
  );
  const misses = session.flubs
    .filter((flub) => !hits.includes(flub))
    .map(({ abandoned, again }) => `${name} ${(abandoned / 16e3).toFixed(2)} ${(again / 16e3).toFixed(2)}`);
  const cuts: number[] = [];
  let inWords = 0;
  for (const item of found) {
    const flub = session.flubs.find((one) => near(one.abandoned, item.abandoned, 0.15));
    if (!flub || !isRight(item, session)) continue;
    const { from, to } = cutOf(session.audio, item);
    const lead = item.abandoned - from;
    cuts.push(Math.abs(from + lead - flub.abandoned), Math.abs(to + lead - flub.again));
    const inside = (at: number) =>
      session.words.some((word) => at > word.from + 0.01 * 16e3 && at < word.to - 0.01 * 16e3);
    if (inside(from)) inWords++;
    if (inside(to)) inWords++;
  }
  return {
    truth: session.flubs.length,
    hits: hits.length,
    found: found.length,
    cuts,
    inWords,
    misses,
    seconds: session.audio.length / analysisRateHz,
    cpu: (user + system) / 1e6,
  };
}

const sum = (scores: Score[], of: (score: Score) => number) =>
  scores.reduce((total, one) => total + of(one), 0);

export async function benchRereadings(): Promise<Row[]> {
  const marked: Score[] = [];
  const unmarked: Score[] = [];
  for (const [voice, which] of [
    ['en', 1],
    ['fr', 0],
    ['fr', 1],
  ] as const) {
    const readings = half(voice, 240, which);
    marked.push(score(sessionWithFlubs(readings, 11 + which, true), `${voice} marked`));
    unmarked.push(score(sessionWithFlubs(readings, 21 + which, false), `${voice} unmarked`));
  }
  const clean: Score[] = (['en', 'fr'] as const).map((voice) => {
    // In the order of their names prompts with the same beginning stand side by side, which no narration
    // does.
    const random = seededRandom(5);
    const shuffled = half(voice, 600, 1)
      .map((reading) => ({ reading, key: random() }))
      .sort((a, b) => a.key - b.key)
      .map(({ reading }) => reading);
    const { audio } = sessionOf(shuffled, -62, 31);
    return score({ audio, flubs: [], words: [] }, `${voice} clean`);
  });
  const both = [...marked, ...unmarked];
  const share = (scores: Score[]) => `${sum(scores, (s) => s.hits)} of ${sum(scores, (s) => s.truth)}`;
  const cuts = both.flatMap((s) => s.cuts).sort((a, b) => a - b);
  const ms = (samples: number) => ((samples / analysisRateHz) * 1000).toFixed(0);
  const within = cuts.filter((cut) => cut <= 0.05 * analysisRateHz).length;
  const hours = sum(clean, (s) => s.seconds) / 3600;
  const all = [...both, ...clean];
  const missed = both.flatMap(({ misses }) => misses);
  return [
    [
      `Missed: ${missed.join('; ') || 'none'} (seconds; sessions and truth in \`${folder}\`)`,
      String(missed.length),
      '',
    ],
    ['Re-readings found, with a clap', share(marked), 'at least 98 %'],
    ['Re-readings found, without any mark', share(unmarked), 'at least 85 %'],
    [
      'Proposals that are re-readings',
      `${sum(both, (s) => s.hits)} of ${sum(both, (s) => s.found)}`,
      'at least 90 %',
    ],
    [
      'Cut points of hits: median, p95, within 50 ms',
      `${ms(cuts[Math.floor(cuts.length / 2)])} ms, ${ms(cuts[Math.floor(cuts.length * 0.95)])} ms, ${((100 * within) / cuts.length).toFixed(1)} %`,
      'at least 95 %',
    ],
    ['Cut points inside a word', String(sum(both, (s) => s.inWords)), '0'],
    [
      `False ones in ${(hours * 60).toFixed(0)} minutes of clean narration`,
      String(sum(clean, (s) => s.found)),
      'at most 1 an hour',
    ],
    [
      'CPU for an hour: claps, speech, features and matching',
      `${((sum(all, (s) => s.cpu) / sum(all, (s) => s.seconds)) * 3600).toFixed(0)} s`,
      'at most 45 s',
    ],
  ];
}
