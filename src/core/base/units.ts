/** Decibels relative to full scale of a linear amplitude; silence gives −∞. */
export const amplitudeToDb = (amplitude: number) => 20 * Math.log10(amplitude);

/** Decibels of a mean square (power); 0 gives −∞. */
export const powerToDb = (power: number) => 10 * Math.log10(power);

export const dbToAmplitude = (db: number) => 10 ** (db / 20);
export const dbToPower = (db: number) => 10 ** (db / 10);

export const secondsToFrames = (seconds: number, rateHz: number) => Math.round(seconds * rateHz);
export const framesToSeconds = (frames: number, rateHz: number) => frames / rateHz;

export const clamp = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/** `mm:ss`, or `h:mm:ss` from one hour on; with `.mmm` when asked for. Negative times are shown as zero. */
export function formatTime(seconds: number, withMilliseconds = false): string {
  const totalMs = Math.max(0, withMilliseconds ? Math.round(seconds * 1000) : Math.floor(seconds) * 1000);
  const pad = (value: number, width = 2) => String(value).padStart(width, '0');
  const hours = Math.floor(totalMs / 3_600_000);
  const minutes = pad(Math.floor(totalMs / 60_000) % 60);
  const rest = `${minutes}:${pad(Math.floor(totalMs / 1000) % 60)}`;
  const ms = withMilliseconds ? `.${pad(totalMs % 1000, 3)}` : '';
  return `${hours ? `${hours}:` : ''}${rest}${ms}`;
}

/** A level for the screen: one decimal, a real minus sign, `−∞` for silence. */
export function formatDb(db: number, unit = 'dB'): string {
  if (!Number.isFinite(db)) return db > 0 ? '∞' : '−∞';
  const rounded = Math.round(db * 10) / 10;
  return `${rounded < 0 ? '−' : ''}${decimal(Math.abs(rounded), 1)}${unit ? ` ${unit}` : ''}`;
}

/** Bytes for the screen, decimal units as file managers and mail limits use them. */
export function formatBytes(bytes: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  let value = bytes;
  let unit = 0;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${unit === 0 || value >= 99.5 ? Math.round(value) : decimal(value, 1)} ${units[unit]}`;
}
import { decimal } from '../../texts/say';
