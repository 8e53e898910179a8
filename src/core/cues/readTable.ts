import { say } from '../../texts/say';
import Papa from 'papaparse';
import { ParolaError } from '../base/errors';

/** The largest list that is read: hundreds of thousands of lines. */
export const largestTableBytes = 16_000_000;
const mostRows = 50_000;
const mostColumns = 100;

/** A list as it is in its file: rows of cells, all as many as the longest has. */
export interface Table {
  readonly rows: readonly (readonly string[])[];
  readonly columns: number;
  readonly delimiter: string;
}

/**
 * The text of bytes: UTF-8 or UTF-16 by its mark, UTF-8 where it is that, else Windows-1252, which
 * spreadsheets write (*common practice*). Throws ParolaError `unsupported` for what is no text.
 */
export function textOf(bytes: Uint8Array): string {
  const decode = (name: string, fatal = false) => new TextDecoder(name, { fatal }).decode(bytes);
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return decode('utf-16le');
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return decode('utf-16be');
  if (bytes.subarray(0, 100_000).some((byte) => byte === 0 || (byte < 32 && !white.has(byte))))
    throw new ParolaError(
      'unsupported',
      say`This file is no text, so there are no cues to be read in it. A cue list is a CSV file: save the table as CSV first.`,
    );
  try {
    return decode('utf-8', true);
  } catch {
    // Some hosts take it for Latin-1, which has control characters there (Node 20 does).
    return decode('windows-1252').replace(/[\u0080-\u009f]/g, (letter) => above[letter.charCodeAt(0) - 0x80]);
  }
}

/** What Windows-1252 has from 80 to 9f (WHATWG Encoding, index windows-1252). */
const above = [...'€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ'];

/** Tab, line feed, form feed, carriage return, and what old systems end a file with. */
const white = new Set([9, 10, 11, 12, 13, 26]);

/**
 * Reads a list with `,`, `;` or tabs between its cells, quoted or not, with any ends of lines (RFC 4180 and
 * what spreadsheets make of it). Rows without anything in them are left out. Throws ParolaError
 * `too-large`, or `not-found` where there is nothing in it.
 */
export function readTable(text: string): Table {
  const bare = text.replace(/^\uFEFF/, '').replace(/\u001A+$/, '');
  const { data, meta } = Papa.parse<string[]>(bare, {
    delimiter: delimiterOf(bare),
    skipEmptyLines: 'greedy',
  });
  if (data.length === 0) throw new ParolaError('not-found', say`There is nothing in this list.`);
  if (data.length > mostRows)
    throw new ParolaError(
      'too-large',
      say`This list has ${data.length} rows, and ${mostRows} are the most that are read. Cut it in two.`,
    );
  const columns = Math.min(mostColumns, Math.max(...data.map((row) => row.length)));
  const rows = data.map((row) =>
    Array.from({ length: columns }, (_, column) => unquoted((row[column] ?? '').trim())),
  );
  return { rows, columns, delimiter: meta.delimiter };
}

/** A quote before what a spreadsheet would take for a formula is none of the text. */
const unquoted = (cell: string) => (/^'\s*[=+\-@]/.test(cell) ? cell.slice(1) : cell);

/** What stands between cells: what cuts most rows into the same number of them. */
function delimiterOf(text: string): string {
  const head = text.slice(0, 200_000);
  const scores = [',', ';', '\t'].map((delimiter) => {
    const { data } = Papa.parse<string[]>(head, { delimiter, preview: 200, skipEmptyLines: 'greedy' });
    const counts = new Map<number, number>();
    for (const { length } of data) counts.set(length, (counts.get(length) ?? 0) + 1);
    const [width, often] = [...counts].reduce((best, next) => (next[1] > best[1] ? next : best), [1, 0]);
    return { delimiter, score: width < 2 ? 0 : often / Math.max(1, data.length) + width / 1000 };
  });
  return scores.reduce((best, next) => (next.score > best.score ? next : best)).delimiter;
}
