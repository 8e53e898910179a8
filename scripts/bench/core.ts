import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { build } from 'esbuild';
import { cpuOf } from './processes';
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

/** Measures the hour in a process of its own, compiled as the server's is. */
async function measureProcess(): Promise<() => { whole: number; alone: number; residentMb: number }> {
  const outfile = '.cache/measure-hour.mjs';
  await build({
    entryPoints: ['scripts/bench/measureHour.ts'],
    outfile,
    bundle: true,
    format: 'esm',
    platform: 'node',
    packages: 'external',
    tsconfig: 'tsconfig.json',
  });
  return () => {
    const told = '.cache/measure-hour.json';
    const whole = cpuOf(process.execPath, outfile, hour, told);
    return { whole, ...(JSON.parse(readFileSync(told, 'utf8')) as { alone: number; residentMb: number }) };
  };
}

export async function benchCore(): Promise<Row[]> {
  makeHour();
  const filter = ['-nostats', '-threads', '1', '-i', hour, '-af', 'ebur128=peak=true:framelog=verbose'];
  const measure = await measureProcess();
  // In turn, so that a busy neighbour slows both.
  const runs = Array.from({ length: 5 }, () => ({
    theirs: cpuOf('ffmpeg', ...filter, '-f', 'null', '-'),
    reading: cpuOf('ffmpeg', '-nostats', '-threads', '1', '-i', hour, '-f', 'null', '-'),
    ours: measure(),
  }));
  const of = (value: (run: (typeof runs)[number]) => number) => median(runs.map(value));
  return [
    [
      'Measuring one hour of 48 kHz mono, all measures, whole process',
      `${of(({ ours }) => ours.whole).toFixed(1)} s CPU, ${of(({ ours }) => ours.residentMb).toFixed(0)} MB`,
      '',
    ],
    [
      'ffmpeg `ebur128=peak=true`, one thread, the same file; reading and decoding it alone',
      `${of(({ theirs }) => theirs).toFixed(1)} s CPU; ${of(({ reading }) => reading).toFixed(1)} s`,
      '',
    ],
    ['Ratio', of(({ ours, theirs }) => ours.whole / theirs).toFixed(2), 'at most 0.25'],
    [
      'Ratio of the measuring alone',
      of(({ ours, theirs }) => ours.alone / theirs).toFixed(2),
      'at most 0.15',
    ],
  ];
}
