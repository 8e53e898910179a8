import Papa from 'papaparse';
import { formatTime } from '../base/units';
import type { MarkKind } from '../timeline/markTraits';
import type { FileMark } from './fileMarks';

/** A mark with its kind, for lists; in frames of the audio beside it. */
export type ListedMark = FileMark & { kind: MarkKind };

/** `h:mm:ss.mmm`, hours always: what WebVTT and spreadsheets read alike. */
export const clock = (seconds: number) => {
  const time = formatTime(seconds, true);
  return time.length > 9 ? time.padStart(12, '0') : `00:${time}`;
};

/**
 * Keeps spreadsheets from taking a name for a formula (a quote before =, +, − or @, also after white space,
 * which some pass over; *common practice*).
 */
const harmless = (text: string) => (/^\s*[=+\-@\t\r\n]/.test(text) && !isNumber(text) ? `'${text}` : text);

/** A number is no formula, whatever its sign. */
const isNumber = (text: string) => /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(text);

/** Marks as CSV (RFC 4180): kind, name, start and end as time, start and length in frames. */
export function marksCsv(marks: readonly ListedMark[], rateHz: number): string {
  const rows = marks.map(({ kind, name, at, length }) => ({
    kind,
    name: harmless(name),
    start: clock(at / rateHz),
    end: clock((at + length) / rateHz),
    start_frame: at,
    length_frames: length,
    rate_hz: rateHz,
  }));
  return `${Papa.unparse(rows, { newline: '\r\n' })}\r\n`;
}

/** Lists as any table: objects to CSV (RFC 4180). */
export const tableCsv = (rows: readonly Record<string, string | number | boolean | null>[]): string =>
  `${Papa.unparse(
    rows.map((row) =>
      Object.fromEntries(
        Object.entries(row).map(([key, value]) => [key, typeof value === 'string' ? harmless(value) : value]),
      ),
    ),
    { newline: '\r\n' },
  )}\r\n`;

/** A cue has to last: a mark at a point is shown this long, or until the next one. */
const pointSeconds = 2;

/** Marks as WebVTT (W3C): one cue each, in order of time. */
export function marksVtt(marks: readonly FileMark[], rateHz: number): string {
  const sorted = [...marks].sort((a, b) => a.at - b.at);
  const cues = sorted.map(({ at, length, name }, index) => {
    const next = sorted.slice(index + 1).find((mark) => mark.at > at)?.at ?? Infinity;
    const to = length > 0 ? at + length : Math.min(next, at + pointSeconds * rateHz);
    const text = name
      .replaceAll('&', '&amp;')
      .replaceAll('<', '&lt;')
      .replaceAll('-->', '→')
      .replace(/\s*\n\s*/g, ' ');
    return `${index + 1}\n${clock(at / rateHz)} --> ${clock(to / rateHz)}\n${text}\n`;
  });
  return ['WEBVTT\n', ...cues].join('\n');
}

/** A script with the time each line is read at, where it is known. */
export const scriptWithTimes = (
  title: string,
  lines: readonly { text: string; seconds: number | null }[],
): string =>
  [
    title,
    '',
    ...lines.map(({ text, seconds }) => `${seconds === null ? '            ' : clock(seconds)}  ${text}`),
    '',
  ].join('\n');
