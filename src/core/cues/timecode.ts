import { say } from '../../texts/say';
/** Frames of picture in a second, exactly: `num` / `den`; a second of timecode counts `count` of them. */
export interface PictureRate {
  readonly name: RateName;
  readonly num: number;
  readonly den: number;
  readonly count: number;
  /** Numbers left out at each minute but every tenth, so that an hour of timecode lasts an hour. */
  readonly dropped: number;
}

export const rateNames = [
  '23.976',
  '24',
  '25',
  '29.97',
  '29.97 drop',
  '30',
  '50',
  '59.94 drop',
  '60',
] as const;
export type RateName = (typeof rateNames)[number];

const rate = (name: RateName, num: number, den: number, dropped = 0): PictureRate => ({
  ...{ name, num, den, dropped },
  count: Math.round(num / den),
});

/**
 * Rates of pictures and how they are counted. Source: SMPTE ST 12-1 (drop-frame leaves out numbers 0 and 1 of
 * each minute that is no multiple of ten; at 59.94 twice as many: *common practice*, from memory).
 */
export const rates: Readonly<Record<RateName, PictureRate>> = {
  '23.976': rate('23.976', 24_000, 1001),
  '24': rate('24', 24, 1),
  '25': rate('25', 25, 1),
  '29.97': rate('29.97', 30_000, 1001),
  '29.97 drop': rate('29.97 drop', 30_000, 1001, 2),
  '30': rate('30', 30, 1),
  '50': rate('50', 50, 1),
  '59.94 drop': rate('59.94 drop', 60_000, 1001, 4),
  '60': rate('60', 60, 1),
};

/** Picture frames that a day of timecode has. */
export const framesOfDay = ({ count, dropped }: PictureRate) =>
  24 * 3600 * count - dropped * (24 * 60 - 24 * 6);

const pad = (value: number) => String(value).padStart(2, '0');

/**
 * `hh:mm:ss:ff` of a picture frame counted from 00:00:00:00, with `;` before the last where numbers are left
 * out.
 */
export function timecodeOf(frame: number, { count, dropped }: PictureRate): string {
  const inTen = 600 * count - 9 * dropped;
  const tens = Math.floor(frame / inTen);
  const rest = frame - tens * inTen;
  const inMinute = 60 * count - dropped;
  // The first of ten minutes has all its numbers.
  const minutes = rest < 60 * count ? 0 : 1 + Math.floor((rest - 60 * count) / inMinute);
  const number = frame + dropped * (9 * tens + minutes);
  const seconds = Math.floor(number / count);
  const clock = [Math.floor(seconds / 3600) % 24, Math.floor(seconds / 60) % 60, seconds % 60]
    .map(pad)
    .join(':');
  return `${clock}${dropped > 0 ? ';' : ':'}${pad(number % count)}`;
}

export type Timecode = { readonly frame: number } | { readonly fault: string };

/** The picture frame of a timecode, counted from 00:00:00:00; or what is wrong with it, in words. */
export function frameOfTimecode(text: string, { name, count, dropped }: PictureRate): Timecode {
  const match = /^\s*(\d{1,2}):(\d{1,2}):(\d{1,2})[:;.](\d{1,2})\s*$/.exec(text);
  if (!match)
    return {
      fault: say`“${short(text)}” is no timecode: hours, minutes, seconds and frames, as 01:02:03:04`,
    };
  const [hours, minutes, seconds, frames] = match.slice(1).map(Number);
  if (hours > 23 || minutes > 59 || seconds > 59) return { fault: say`there is no time “${short(text)}”` };
  if (frames >= count)
    return { fault: say`“${short(text)}” has frame ${frames}, but at ${name} they end with ${count - 1}` };
  if (dropped > 0 && seconds === 0 && frames < dropped && minutes % 10 !== 0)
    return { fault: say`“${short(text)}” does not exist in drop-frame counting` };
  const all = 60 * hours + minutes;
  const number = (60 * all + seconds) * count + frames;
  return { frame: number - dropped * (all - Math.floor(all / 10)) };
}

const short = (text: string) => (text.trim().length > 24 ? `${text.trim().slice(0, 24)}…` : text.trim());

/**
 * Frames of audio at which a picture frame begins, to the nearest one: `frame` counts from where the audio
 * does. Whole numbers all the way, so that nothing drifts; exact up to a year.
 */
export const audioFrameOf = (frame: number, { num, den }: PictureRate, rateHz: number): number =>
  Math.round((frame * den * rateHz) / num);

/** The picture frame that is seen at a frame of audio. */
export const pictureFrameAt = (
  audioFrame: number,
  { num, den }: Pick<PictureRate, 'num' | 'den'>,
  rateHz: number,
): number => Math.floor(((2 * audioFrame + 1) * num) / (2 * den * rateHz));
