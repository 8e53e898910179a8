import { say } from '../../texts/say';
/**
 * `clipped` and `faint` are set by the recorder itself: full scale reached, or speech that stayed under the
 * floor. `line` is where the reading of a line of the script begins.
 */
export const markKinds = ['flub', 'note', 'part', 'clipped', 'faint', 'line'] as const;
export type MarkKind = (typeof markKinds)[number];

/** What is true of a kind of mark wherever it is met; how it is drawn stands in `ui/canvas/markSigns.ts`. */
export interface MarkTraits {
  /** What a new one is called, before its number. */
  readonly name: string;
  /**
   * It is about its passage: removing the passage removes it. The others are the user's words and stay at the
   * joint.
   */
  readonly goesWithPassage: boolean;
  /** It is about a reading: a new reading over it removes it. */
  readonly goesWithReading: boolean;
  /** It stands in the list of marks, is walked to, and is snapped to. */
  readonly listed: boolean;
  /** It is written into delivered files, as a chapter or marker. */
  readonly chapter: boolean;
  /** Something to be looked at before a part is done. */
  readonly toDo: boolean;
  /** Found wrong by the recorder. */
  readonly fault: boolean;
  /** A reading of a line with one of these in it is not a clean one. */
  readonly spoilsReading: boolean;
  /** The reading of a line ends here. */
  readonly endsReading: boolean;
}

const about: MarkTraits = {
  name: '',
  goesWithPassage: true,
  goesWithReading: true,
  listed: true,
  chapter: false,
  toDo: true,
  fault: false,
  spoilsReading: true,
  endsReading: false,
};

const said: MarkTraits = {
  ...about,
  goesWithPassage: false,
  goesWithReading: false,
  chapter: true,
  spoilsReading: false,
};

export const markTraits: Readonly<Record<MarkKind, MarkTraits>> = {
  flub: { ...about, name: say`Flub` },
  note: { ...said, name: say`Note` },
  part: { ...said, name: say`Part`, toDo: false, endsReading: true },
  clipped: { ...about, name: say`Clipped`, fault: true },
  faint: { ...about, name: say`Too faint`, fault: true },
  line: {
    ...said,
    name: say`Line`,
    goesWithReading: true,
    listed: false,
    chapter: false,
    toDo: false,
    endsReading: true,
  },
};
