import { say } from '../../texts/say';
import type { ColumnMeaning, TimeForm } from './cueColumns';
import type { Table } from './readTable';
import { audioFrameOf, frameOfTimecode, rates } from './timecode';
import { cueLimits, type Cue, type CueTime } from '../timeline/cues';

/** A cue as a list tells it; who speaks is told by name. */
export type ListedCue = Omit<Cue, 'id' | 'character'> & { readonly character: string };

/** What could not be read in a row of the list, counted from 1 as its file has them, with the row itself. */
export interface RowFault {
  readonly row: number;
  readonly reason: string;
  readonly cells: readonly string[];
}

export interface ReadCues {
  readonly cues: readonly ListedCue[];
  readonly faults: readonly RowFault[];
}

export interface CueReading {
  readonly hasHeader: boolean;
  readonly meanings: readonly ColumnMeaning[];
  readonly times: TimeForm;
  readonly time: CueTime;
  readonly rateHz: number;
}

/** Where a list has no ends a cue lasts as long as saying it does: 150 words a minute (*common practice*). */
const wordsPerSecond = 2.5;
const leastSeconds = 1;

export function spokenFrames(text: string, rateHz: number): number {
  const words = text.split(/\s+/).filter(Boolean).length;
  return Math.round(Math.max(leastSeconds, words / wordsPerSecond) * rateHz);
}

class Unreadable extends Error {}

/**
 * The cues of a list. What cannot be read is told row by row with the reason; the rest can be taken. Ends
 * that are not told are where the next cue begins, or where the text would end at 150 words a minute.
 */
export function readCues({ rows }: Table, reading: CueReading): ReadCues {
  const faults: RowFault[] = [];
  const cues: (ListedCue & { open: boolean })[] = [];
  const columnOf = (meaning: ColumnMeaning) => reading.meanings.indexOf(meaning);
  const columns = {
    ...{ number: columnOf('number'), in: columnOf('in'), out: columnOf('out'), length: columnOf('length') },
    ...{
      character: columnOf('character'),
      text: columnOf('text'),
      note: columnOf('note'),
      done: columnOf('done'),
    },
  };
  rows.slice(reading.hasHeader ? 1 : 0).forEach((cells, index) => {
    const row = index + (reading.hasHeader ? 2 : 1);
    try {
      if (cues.length >= cueLimits.cues)
        throw new Unreadable(say`a part has no more than ${cueLimits.cues} cues`);
      cues.push(cueOf(cells, columns, reading, cues.length + 1));
    } catch (thrown) {
      if (!(thrown instanceof Unreadable)) throw thrown;
      faults.push({ row, reason: thrown.message, cells });
    }
  });
  const sorted = [...cues].sort((a, b) => a.from - b.from);
  return {
    faults,
    cues: sorted.map(({ open, ...cue }, index): ListedCue => {
      if (!open) return cue;
      const spoken = cue.from + spokenFrames(cue.text, reading.rateHz);
      const next = sorted.slice(index + 1).find(({ from }) => from > cue.from)?.from ?? Infinity;
      return { ...cue, to: Math.min(next, spoken) };
    }),
  };
}

function cueOf(
  cells: readonly string[],
  columns: Readonly<Record<Exclude<ColumnMeaning, 'ignored'>, number>>,
  reading: CueReading,
  count: number,
): ListedCue & { open: boolean } {
  const cell = (meaning: Exclude<ColumnMeaning, 'ignored'>) => cells[columns[meaning]] ?? '';
  if (columns.in < 0) throw new Unreadable(say`no column says where it begins`);
  if (cell('in') === '') throw new Unreadable(say`it has no beginning`);
  const from = placeOf(cell('in'), reading);
  const told = cell('out') !== '' ? placeOf(cell('out'), reading) : null;
  const to = told ?? (cell('length') !== '' ? from + lengthOf(cell('length'), reading) : null);
  if (to !== null && to <= from)
    throw new Unreadable(to === from ? say`it ends where it begins` : say`it ends before it begins`);
  return {
    number: cell('number') || String(count),
    from,
    to: to ?? from,
    open: to === null,
    character: cell('character'),
    text: cell('text').replace(/\s*\n\s*/g, ' '),
    note: cell('note'),
    ...(isDone(cell('done')) && { done: true as const }),
  };
}

const isDone = (cell: string) =>
  /^(done|yes|y|x|1|true|ok|✓|✔|ja|erledigt|fertig|oui|sí|si|approved)$/i.test(cell);

/** The sheet frame of a time of the list. */
function placeOf(cell: string, reading: CueReading): number {
  const { time, rateHz } = reading;
  if (reading.times !== 'timecode') {
    const seconds = secondsOf(cell, reading.times);
    if (seconds < 0) throw new Unreadable(say`“${cell}” is before the picture begins`);
    return Math.round(seconds * rateHz);
  }
  const rate = rates[time.rate];
  const read = frameOfTimecode(cell, rate);
  if ('fault' in read) throw new Unreadable(read.fault);
  if (read.frame < time.start) throw new Unreadable(say`“${cell}” is before the picture begins`);
  return audioFrameOf(read.frame - time.start, rate, rateHz);
}

function lengthOf(cell: string, { times, time, rateHz }: CueReading): number {
  if (times !== 'timecode' || !cell.includes(':'))
    return Math.round(secondsOf(cell, cell.includes(':') ? 'clock' : 'seconds') * rateHz);
  const read = frameOfTimecode(cell, { ...rates[time.rate], dropped: 0 });
  if ('fault' in read) throw new Unreadable(read.fault);
  return audioFrameOf(read.frame, rates[time.rate], rateHz);
}

/** A day: no cue is later. */
const longestSeconds = 86_400;

function secondsOf(cell: string, form: TimeForm): number {
  const text = cell.replace(',', '.');
  const match =
    form === 'seconds'
      ? /^()()(-?\d+(?:\.\d+)?)$/.exec(text)
      : /^(?:(\d{1,3}):)?(?:(\d{1,3}):)?(-?\d{1,5}(?:\.\d+)?)$/.exec(text);
  if (!match)
    throw new Unreadable(
      form === 'seconds'
        ? say`“${cell}” is no number of seconds`
        : say`“${cell}” is no time: minutes and seconds, as 1:23.45`,
    );
  // With one colon there are minutes and seconds, with two also hours.
  const [hours, minutes] = match[2] ? [match[1], match[2]] : [undefined, match[1]];
  const seconds = Number(hours ?? 0) * 3600 + Number(minutes || 0) * 60 + Number(match[3]);
  if (form === 'clock' && minutes && Number(match[3]) >= 60)
    throw new Unreadable(say`there is no time “${cell}”`);
  if (seconds > longestSeconds) throw new Unreadable(say`“${cell}” is later than a day`);
  return seconds;
}

/**
 * The timecode a list begins with, in whole hours, where all of it is in there or later: many pictures begin
 * at 01:00:00:00 or 10:00:00:00 (*common practice*). 0 for other forms of time.
 */
export function guessStart(
  { rows }: Table,
  { meanings, times, time, hasHeader }: Omit<CueReading, 'rateHz'>,
): number {
  if (times !== 'timecode') return 0;
  const column = meanings.indexOf('in');
  const rate = rates[time.rate];
  const frames = rows.slice(hasHeader ? 1 : 0).flatMap((row) => {
    const read = frameOfTimecode(row[column] ?? '', rate);
    return 'frame' in read ? [read.frame] : [];
  });
  if (frames.length === 0) return 0;
  const first = frames.reduce((least, frame) => Math.min(least, frame), Infinity);
  const hours = [...Array(24).keys()].map((hour) => {
    const read = frameOfTimecode(`${hour}:00:00:00`, rate);
    return 'frame' in read ? read.frame : 0;
  });
  return hours.filter((frame) => frame <= first).at(-1) ?? 0;
}
