import { say } from '@/texts/say';
import type { MarkKind } from '@/core/timeline/markTraits';
import type { InkPalette } from '../theme/palette';

/** How a kind of mark is drawn; what is true of it stands in `core/timeline/markTraits.ts`. */
export interface MarkSign {
  /** In the margin of its row, and in the list. */
  readonly sign: string;
  readonly colour: keyof Pick<InkPalette, 'blue' | 'ochre'>;
  /** Where the sign stands in the margin: beside the top or the bottom of the row. */
  readonly margin: 'top' | 'bottom';
  /**
   * A wave under its passage, a flag where it stands, a line over it, dots under it, or nothing of its own.
   */
  readonly drawn: 'wave' | 'flag' | 'lineOver' | 'dotsUnder' | 'none';
}

/** Proofreader's signs: a wave under a flub, a dagger at a note, a pilcrow where a part begins. */
export const markSigns: Readonly<Record<MarkKind, MarkSign>> = {
  flub: { sign: '∿', colour: 'ochre', margin: 'bottom', drawn: 'wave' },
  note: { sign: '†', colour: 'blue', margin: 'top', drawn: 'flag' },
  part: { sign: '¶', colour: 'blue', margin: 'top', drawn: 'flag' },
  clipped: { sign: say`clip`, colour: 'ochre', margin: 'top', drawn: 'lineOver' },
  faint: { sign: say`faint`, colour: 'ochre', margin: 'bottom', drawn: 'dotsUnder' },
  line: { sign: '', colour: 'blue', margin: 'top', drawn: 'none' },
};
