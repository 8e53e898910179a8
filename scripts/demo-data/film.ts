import { spawn } from 'node:child_process';
import { once } from 'node:events';

/**
 * The picture of the demo’s film, drawn point by point: a tower at night whose beam goes round, a boat that
 * passes, and on every picture its number. Coded by ffmpeg (Debian) with the sound it is given.
 */
const width = 640;
const height = 360;

type Colour = readonly [number, number, number];
const night: Colour = [22, 34, 54];
const horizon: Colour = [48, 66, 92];
const sea: Colour = [14, 24, 38];
const rock: Colour = [9, 13, 18];
const stone: Colour = [214, 208, 192];
const shade: Colour = [150, 146, 138];
const roof: Colour = [142, 58, 44];
const lamp: Colour = [255, 236, 176];

const seaAt = 250;
const tower = { x: 430, top: 128, bottom: 268, half: 13, spread: 7 };
const light = { x: tower.x, y: tower.top - 10 };
const roundSeconds = 8;

const mix = (a: Colour, b: Colour, share: number): Colour => [
  a[0] + (b[0] - a[0]) * share,
  a[1] + (b[1] - a[1]) * share,
  a[2] + (b[2] - a[2]) * share,
];

/** What does not move. */
function background(): Uint8Array {
  const picture = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) put(picture, x, y, still(x, y));
  return picture;
}

function still(x: number, y: number): Colour {
  const hill = 268 + 26 * ((x - tower.x) / 190) ** 2;
  if (y > hill) return rock;
  const across = Math.abs(x - tower.x);
  const reach = tower.half + (tower.spread * (y - tower.top)) / (tower.bottom - tower.top);
  if (y >= tower.top && y <= tower.bottom && across <= reach) return x > tower.x + reach / 3 ? shade : stone;
  if (y >= tower.top - 18 && y < tower.top && across <= 10) return across < 7 ? lamp : rock;
  if (y >= tower.top - 28 && y < tower.top - 18 && across <= 12 - (tower.top - 18 - y)) return roof;
  if (y > seaAt) return sea;
  // Steps, not a gradient: large even fields take no room in the file.
  const star = (x * 7919 + y * 104_729) % 4801 === 0 && y < 190;
  return star ? [190, 198, 208] : mix(night, horizon, Math.floor((8 * y) / seaAt) / 8);
}

function put(picture: Uint8Array, x: number, y: number, [red, green, blue]: Colour) {
  const at = 3 * (y * width + x);
  picture[at] = red;
  picture[at + 1] = green;
  picture[at + 2] = blue;
}

/** Digits and a colon, five rows of three points each. */
const glyphs: Readonly<Record<string, string>> = {
  '0': '111101101101111',
  '1': '010110010010111',
  '2': '111001111100111',
  '3': '111001111001111',
  '4': '101101111001001',
  '5': '111100111001111',
  '6': '111100111101111',
  '7': '111001001001001',
  '8': '111101111101111',
  '9': '111101111001111',
};
const dot = 3;

function write(picture: Uint8Array, text: string, left: number, top: number) {
  [...text].forEach((sign, index) => {
    [...(glyphs[sign] ?? '')].forEach((on, point) => {
      if (on === '0') return;
      const x = left + index * 4 * dot + (point % 3) * dot;
      const y = top + Math.floor(point / 3) * dot;
      for (let i = 0; i < dot * dot; i++)
        put(picture, x + (i % dot), y + Math.floor(i / dot), [232, 226, 208]);
    });
  });
}

function drawn(still: Uint8Array, number: number, perSecond: number, seconds: number): Uint8Array {
  const picture = still.slice();
  const at = number / perSecond;
  const angle = (2 * Math.PI * at) / roundSeconds;
  // Seen from the side: the beam is long to the left and right, short towards us and away.
  const reach = Math.cos(angle);
  const far = 420 * Math.abs(reach);
  const side = Math.sign(reach);
  for (let step = 12; step < far; step++) {
    const x = Math.round(light.x + side * step);
    if (x < 0 || x >= width) break;
    const half = 3 + step * 0.11;
    for (let y = Math.max(0, Math.round(light.y - half)); y < Math.min(seaAt, light.y + half); y++) {
      const start = 3 * (y * width + x);
      const known: Colour = [picture[start], picture[start + 1], picture[start + 2]];
      put(picture, x, y, mix(known, lamp, 0.34 * (1 - step / 430)));
    }
  }
  const boat = Math.round(40 + (300 * at) / seconds);
  for (let y = -4; y <= 0; y++)
    for (let x = -12; x <= 12; x++) if (Math.abs(x) < 12 + y) put(picture, boat + x, seaAt + 22 + y, rock);
  for (let i = 0; i < 9; i++) put(picture, boat + (i % 3), seaAt + 12 + Math.floor(i / 3), roof);
  write(picture, String(number).padStart(4, '0'), 16, height - 30);
  return picture;
}

/** Writes so many pictures with a sound file beside them as MP4 (H.264, AAC). */
export async function writeFilm(
  file: string,
  sound: string,
  pictures: number,
  perSecond: number,
): Promise<void> {
  const input = ['-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${height}`, '-r', String(perSecond)];
  const ffmpeg = spawn(
    'ffmpeg',
    [
      ...['-y', '-loglevel', 'error', ...input, '-i', '-', '-i', sound, '-map', '0:v', '-map', '1:a'],
      ...[
        '-c:v',
        'libx264',
        '-preset',
        'veryslow',
        '-tune',
        'animation',
        '-crf',
        '27',
        '-pix_fmt',
        'yuv420p',
      ],
      // A key picture each second: whoever steps through it does not wait.
      ...['-g', String(perSecond), '-c:a', 'aac', '-b:a', '64k', '-movflags', '+faststart'],
      ...['-map_metadata', '-1', '-fflags', '+bitexact', '-flags', '+bitexact', '-threads', '1', file],
    ],
    { stdio: ['pipe', 'inherit', 'inherit'] },
  );
  const ground = background();
  for (let number = 0; number < pictures; number++)
    if (!ffmpeg.stdin.write(drawn(ground, number, perSecond, pictures / perSecond)))
      await once(ffmpeg.stdin, 'drain');
  ffmpeg.stdin.end();
  const [code] = (await once(ffmpeg, 'close')) as [number];
  if (code !== 0) throw new Error('ffmpeg could not write the film');
}
