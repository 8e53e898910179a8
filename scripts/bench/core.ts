import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { Meter } from '@/core/loudness/measure';
import { readSound } from '@/core/formats/readSound';
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
  ];
}
