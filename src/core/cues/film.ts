import { pictureFrameAt, rateNames, rates, type PictureRate } from './timecode';

/** A moving picture as it is kept: what its file says of itself. */
export interface Film {
  readonly fileName: string;
  readonly bytes: number;
  /** In pixels, as they are shown. */
  readonly width: number;
  readonly height: number;
  readonly frames: number;
  readonly seconds: number;
  /** Pictures a second, exactly `num` / `den`; null where they do not follow each other evenly. */
  readonly rate: { readonly num: number; readonly den: number } | null;
}

/** Containers round times to a millisecond; what is further off its even place is not even. */
const evenSeconds = 0.0025;
/** Nearer than that to a rate of the trade it is that rate. */
const nearShare = 4e-4;

/**
 * Pictures a second from the times of all pictures, in seconds, in any order; null where they are uneven or
 * fewer than two. A rate of the trade (SMPTE ST 12-1) is told exactly, any other in thousandths.
 */
export function rateOfTimes(times: ArrayLike<number>): { num: number; den: number } | null {
  const sorted = Float64Array.from(times).sort();
  const count = sorted.length;
  if (count < 2) return null;
  const step = (sorted[count - 1] - sorted[0]) / (count - 1);
  if (!(step > 0)) return null;
  for (let i = 0; i < count; i++)
    if (Math.abs(sorted[i] - sorted[0] - i * step) > Math.min(evenSeconds, step / 4)) return null;
  const perSecond = 1 / step;
  const known = tradeRate(perSecond);
  return known ? { num: known.num, den: known.den } : { num: Math.round(perSecond * 1000), den: 1000 };
}

/** The rate of the trade that is nearest, where one is near. */
export function tradeRate(perSecond: number): PictureRate | null {
  const [best] = rateNames
    .map((name) => rates[name])
    .sort((a, b) => Math.abs(a.num / a.den - perSecond) - Math.abs(b.num / b.den - perSecond));
  return Math.abs(best.num / best.den / perSecond - 1) < nearShare ? best : null;
}

/**
 * The time in a film, in seconds, at which to stand so that what belongs to a frame of its sound is seen: in
 * the middle of that picture, since a browser rounds times. The moment itself where pictures are uneven.
 * Within the film.
 */
export function stillTime({ rate, seconds, frames }: Film, audioFrame: number, rateHz: number): number {
  const last = Math.max(0, seconds - 1e-3);
  if (!rate) return Math.min(Math.max(0, audioFrame / rateHz), last);
  const picture = Math.min(Math.max(0, pictureFrameAt(audioFrame, rate, rateHz)), Math.max(0, frames - 1));
  return ((picture + 0.5) * rate.den) / rate.num;
}
