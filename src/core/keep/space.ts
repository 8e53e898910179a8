import { say } from '../../texts/say';
/** What a sample takes in the browser's storage, with its peaks: 32 bits, and three values for each 256. */
export const storedBytesPerSample = 4.05;

/** Before less than this is left to record, the user is told. */
export const leastMinutes = 30;

export interface StoredSource {
  frames: number;
  channels: number;
  film?: { bytes: number };
}

/** Bytes that a recording takes, its film included. */
export const storedBytes = ({ frames, channels, film }: StoredSource): number =>
  frames * channels * storedBytesPerSample + (film?.bytes ?? 0);

/** Bytes of an hour of recording on so many tracks. */
export const hourBytes = (rateHz: number, tracks: number): number =>
  3600 * rateHz * tracks * storedBytesPerSample;

/** How long recording can go on with so many bytes free, in minutes; 0 where there are none. */
export const minutesLeft = (freeBytes: number, rateHz: number, tracks: number): number =>
  Math.max(0, (freeBytes / hourBytes(rateHz, tracks)) * 60);

/** A length of time for somebody who wants to know whether it will do. */
export function roughly(minutes: number): string {
  if (minutes < 1) return say`less than a minute`;
  if (minutes < 90) return minutes < 2 ? say`one minute` : say`${Math.floor(minutes)} minutes`;
  return say`${Math.floor(minutes / 60)} hours`;
}
