import type { RateName } from '../cues/timecode';
import type { Range } from './range';

/** Who speaks: with a track of their own, or on whatever is armed. */
export interface Character {
  readonly id: string;
  readonly name: string;
  readonly track?: string;
}

/** A line with its place in time, in sheet frames; what is said in [from, to). */
export interface Cue extends Range {
  readonly id: string;
  /** As the client counts it: “12”, “12a”. */
  readonly number: string;
  /** Id of a character; nobody's when missing. */
  readonly character?: string;
  readonly text: string;
  readonly note: string;
  /** The user says that it is done. */
  readonly done?: true;
}

/** How the time of a part is told: picture frames, the first of which has this number. */
export interface CueTime {
  readonly rate: RateName;
  /** Picture frames from 00:00:00:00 to the beginning of the sheet. */
  readonly start: number;
}

/** The lines of a part that are recorded one by one, in order of time, and who speaks them. */
export interface CueSheet extends CueTime {
  readonly cues: readonly Cue[];
  readonly characters: readonly Character[];
}

/** What of a cue sheet is not its cues. */
export type CueHead = Omit<CueSheet, 'cues'>;

export const emptyCueSheet: CueSheet = { cues: [], characters: [], rate: '25', start: 0 };

export const cueLimits = { cues: 20_000, characters: 1000 } as const;

/** By time, and those at the same time by number as people count, so that 9 comes before 10. */
export const byCueTime = (a: Cue, b: Cue) =>
  a.from - b.from || a.number.localeCompare(b.number, 'en', { numeric: true }) || (a.id < b.id ? -1 : 1);

export const equalCues = (a: Cue, b: Cue) =>
  a === b ||
  (a.id === b.id &&
    a.number === b.number &&
    a.from === b.from &&
    a.to === b.to &&
    a.character === b.character &&
    a.text === b.text &&
    a.note === b.note &&
    a.done === b.done);

export const headOf = ({ characters, rate, start }: CueSheet): CueHead => ({ characters, rate, start });

export const sameHead = (a: CueSheet | undefined, b: CueSheet | undefined): boolean =>
  a === b || (!!a && !!b && JSON.stringify(headOf(a)) === JSON.stringify(headOf(b)));
