import { tableCsv } from '../formats/markFiles';
import type { CueSheet } from '../timeline/cues';
import { timecodeAt } from './cueCsv';

/** What is known of a take of a cue; seconds and LUFS, null where nothing is known. */
export interface ListedTake {
  readonly cue: string;
  readonly take: number;
  /** Sheet frames [from, to) at which it belongs. */
  readonly from: number;
  readonly to: number;
  readonly loudnessLufs: number | null;
  readonly peakDbfs: number | null;
  readonly late: number | null;
  readonly long: number | null;
  readonly circled: boolean;
  readonly heard: boolean;
  readonly note: string;
}

const rounded = (value: number | null, digits: number) =>
  value === null ? null : Number(value.toFixed(digits));

/** The takes of a cue sheet as CSV (RFC 4180), by cue in order of time and by take. */
export function takesCsv(sheet: CueSheet, rateHz: number, takes: readonly ListedTake[]): string {
  const names = new Map(sheet.characters.map(({ id, name }) => [id, name]));
  return tableCsv(
    sheet.cues.flatMap((cue) =>
      takes
        .filter((take) => take.cue === cue.id)
        .sort((a, b) => a.take - b.take)
        .map((take) => ({
          Cue: cue.number,
          Character: names.get(cue.character ?? '') ?? '',
          Take: take.take,
          In: timecodeAt(take.from, sheet, rateHz),
          Out: timecodeAt(take.to, sheet, rateHz),
          'Length (s)': rounded((take.to - take.from) / rateHz, 3),
          'Loudness (LUFS)': rounded(take.loudnessLufs, 1),
          'Peak (dBFS)': rounded(take.peakDbfs, 1),
          'Late (s)': rounded(take.late, 3),
          'Too long (s)': rounded(take.long, 3),
          Circled: take.circled ? 'circled' : '',
          Heard: take.heard ? 'heard' : '',
          Note: take.note,
        })),
    ),
  );
}
