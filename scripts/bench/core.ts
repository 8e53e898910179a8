import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { Meter } from '@/core/loudness/measure';
import { readSound } from '@/core/formats/readSound';
import { seededRandom } from '@/core/base/random';
import { strike, stet, strikeAll } from '@/core/timeline/edits';
import { difference } from '@/core/timeline/history';
import { PieceTable, type Piece } from '@/core/timeline/pieces';
import type { Timeline } from '@/core/timeline/timeline';
import { FileSource } from '@/node/fileSource';
import { median, type Row } from './row';

const hour = '.cache/bench-hour.wav';

/** One hour of speech at 48 kHz mono: the demo's readings, over and over. */
export function makeHour(): string {
  if (!existsSync(hour)) {
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-stream_loop',
      '-1',
      '-i',
      'public/demo/stair.mp3',
      '-t',
      '3600',
      '-ac',
      '1',
      '-ar',
      '48000',
      '-c:a',
      'pcm_s24le',
      hour,
    ]);
  }
  return hour;
}

/** Processor seconds of this process while `work` runs. */
async function cpuSeconds(work: () => Promise<void>): Promise<number> {
  const before = process.cpuUsage();
  await work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1e6;
}

async function measureHour() {
  const source = await FileSource.open(hour);
  let meter: Meter | null = null;
  for await (const audio of readSound(
    source,
    ({ rateHz, channels }) => (meter = new Meter(rateHz, channels)),
  )) {
    (meter as Meter | null)?.process(audio);
  }
  (meter as Meter | null)?.finish();
  await source.close();
}

function ffmpegSeconds(): number {
  const script =
    'import resource,subprocess,sys\nsubprocess.run(sys.argv[1:],stderr=subprocess.DEVNULL)\nu=resource.getrusage(resource.RUSAGE_CHILDREN)\nprint(u.ru_utime+u.ru_stime)';
  const command = [
    'ffmpeg',
    '-nostats',
    '-threads',
    '1',
    '-i',
    hour,
    '-af',
    'ebur128=peak=true:framelog=verbose',
    '-f',
    'null',
    '-',
  ];
  return Number(execFileSync('python3', ['-c', script, ...command], { encoding: 'utf8' }));
}

function tableOf(count: number): Timeline {
  const random = seededRandom(1);
  const pieces: Piece[] = Array.from({ length: count }, (_, i) => ({
    kind: 'audio',
    source: `take-${i % 40}`,
    channel: 0,
    from: Math.floor(random() * 1e8),
    length: 20_000 + Math.floor(random() * 40_000),
    gainDb: 0,
  }));
  const table = PieceTable.of(pieces);
  const whole: Timeline = {
    tracks: [{ id: 'track-1', name: 'Voice', table }],
    struck: [],
    marks: [],
    places: [],
  };
  return strikeAll(
    whole,
    pieces.flatMap((piece, i) =>
      i % 7 === 0 ? [{ from: table.startOf(i), to: table.startOf(i) + piece.length }] : [],
    ),
  );
}

function editMilliseconds(count: number): number {
  const random = seededRandom(2);
  const times: number[] = [];
  let timeline = tableOf(count);
  const end = timeline.tracks[0].table.frames;
  for (let i = 0; i < 300; i++) {
    const from = Math.floor(random() * (end - 100_000));
    const range = { from, to: from + 70_000 };
    const started = performance.now();
    const after = i % 2 === 0 ? strike(timeline, range) : stet(timeline, range);
    difference(timeline, after);
    times.push(performance.now() - started);
    timeline = after;
  }
  return median(times);
}

export async function benchCore(): Promise<Row[]> {
  makeHour();
  const ours: number[] = [];
  const theirs: number[] = [];
  for (let i = 0; i < 3; i++) {
    theirs.push(ffmpegSeconds());
    ours.push(await cpuSeconds(measureHour));
  }
  const ratio = median(ours) / median(theirs);
  return [
    [
      'Measuring one hour of 48 kHz mono, reading included, all measures',
      `${median(ours).toFixed(1)} s CPU`,
      '',
    ],
    ['ffmpeg `ebur128=peak=true`, one thread, the same file', `${median(theirs).toFixed(1)} s CPU`, ''],
    ['Ratio', ratio.toFixed(2), 'at most 0.5'],
    [
      'Edit with its difference, part of 5,000 pieces',
      `${editMilliseconds(5000).toFixed(2)} ms`,
      'under 5 ms',
    ],
    ['Edit with its difference, part of 20,000 pieces', `${editMilliseconds(20_000).toFixed(2)} ms`, ''],
  ];
}
