import { tableCsv } from '../formats/markFiles';
import type { Cue, CueSheet } from '../timeline/cues';
import { pictureFrameAt, rates, timecodeOf } from './timecode';

/** The timecode that is seen at a sheet frame. */
export function timecodeAt(
  frame: number,
  { rate, start }: Pick<CueSheet, 'rate' | 'start'>,
  rateHz: number,
): string {
  return timecodeOf(start + pictureFrameAt(frame, rates[rate], rateHz), rates[rate]);
}

/** A cue sheet as CSV (RFC 4180), with columns that are known again when it is read. */
export function cueCsv(sheet: CueSheet, rateHz: number, cues: readonly Cue[] = sheet.cues): string {
  const names = new Map(sheet.characters.map(({ id, name }) => [id, name]));
  return tableCsv(
    cues.map(({ number, from, to, character = '', text, note, done }) => ({
      Number: number,
      In: timecodeAt(from, sheet, rateHz),
      Out: timecodeAt(to, sheet, rateHz),
      Character: names.get(character) ?? '',
      Text: text,
      Note: note,
      Done: done ? 'done' : '',
    })),
  );
}
