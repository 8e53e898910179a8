import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { writeWav } from '@/core/testing/signals';

/**
 * A film made for measuring: every picture bears its number as a row of black and white fields, and with each
 * second a click is heard as a picture flashes. Made by ffmpeg.
 */
const size = { width: 320, height: 180 };
const bits = 12;
const field = 24;
const inset = 16;

export interface FilmOptions {
  /** As ffmpeg takes it: 25, 24000/1001. */
  rate?: string;
  container?: 'mp4' | 'webm';
  sound?: boolean;
  /** Pictures that do not follow each other evenly. */
  uneven?: boolean;
}

function picture(number: number, perSecond: number): Buffer {
  const { width, height } = size;
  const flash = Math.abs(number / perSecond - Math.round(number / perSecond)) < 0.5 / perSecond;
  const grey = Buffer.alloc(width * height, flash ? 200 : 40);
  for (let bit = 0; bit < bits; bit++) {
    const value = (number >> bit) & 1 ? 255 : 0;
    for (let y = inset; y < inset + field; y++)
      grey.fill(value, y * width + inset + bit * field, y * width + inset + (bit + 1) * field);
  }
  return grey;
}

/** Clicks of 2 ms at each whole second. */
function clicks(seconds: number, rateHz: number): Float32Array {
  const samples = new Float32Array(seconds * rateHz);
  for (let second = 0; second < seconds; second++)
    for (let i = 0; i < 0.002 * rateHz; i++) samples[second * rateHz + i] = i % 2 ? -0.5 : 0.5;
  return samples;
}

/** The file of such a film, the same for the same options. */
export function filmFile(
  seconds: number,
  { rate = '25', container = 'mp4', sound = true, uneven = false }: FilmOptions = {},
): string {
  mkdirSync('.cache', { recursive: true });
  const name = `film-${seconds}-${rate.replace('/', '_')}${sound ? '' : '-mute'}${uneven ? '-uneven' : ''}`;
  const file = `.cache/${name}.${container}`;
  if (existsSync(file)) return file;
  const [num, den = 1] = rate.split('/').map(Number);
  const count = Math.round((seconds * num) / den);
  const pictures = Buffer.concat(Array.from({ length: count }, (_, i) => picture(i, num / den)));
  const wav = '.cache/film-clicks.wav';
  writeWav(wav, 48_000, [clicks(seconds, 48_000)]);
  const coded =
    container === 'mp4'
      ? ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-crf', '20', '-c:a', 'aac']
      : ['-c:v', 'libvpx', '-b:v', '500k', '-c:a', 'libopus'];
  execFileSync(
    'ffmpeg',
    [
      ...['-y', '-loglevel', 'error', '-f', 'rawvideo', '-pix_fmt', 'gray'],
      ...['-s', `${size.width}x${size.height}`, '-r', rate, '-i', '-'],
      ...(sound ? ['-i', wav, '-map', '0:v', '-map', '1:a'] : []),
      ...(uneven ? ['-vf', "setpts='PTS+0.4/TB/25*mod(N,3)'", '-fps_mode', 'vfr'] : []),
      ...coded,
      file,
    ],
    { input: pictures, maxBuffer: 1 << 28 },
  );
  return file;
}

/** Reads the number of the picture that is seen now; −1 where none is. */
export const pictureSeen = (page: Page): Promise<number> =>
  page.evaluate(
    ({ width, height, count, step, edge }) => {
      const video = document.querySelector<HTMLVideoElement>('[data-testid=film]');
      if (!video || video.readyState < 2 || video.seeking) return -1;
      const canvas = new OffscreenCanvas(width, height);
      const context = canvas.getContext('2d');
      if (!context) return -1;
      context.drawImage(video, 0, 0, width, height);
      const { data } = context.getImageData(0, edge + step / 2, width, 1);
      let number = 0;
      for (let bit = 0; bit < count; bit++)
        if (data[4 * Math.round(edge + (bit + 0.5) * step)] > 127) number |= 1 << bit;
      return number;
    },
    { ...size, count: bits, step: field, edge: inset },
  );
