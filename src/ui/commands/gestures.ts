import { say } from '@/texts/say';
/**
 * What can be done with the pointer alone, or with a key held; `{mod}` is Ctrl or ⌘. Told beside the keys.
 */
export const gestures: readonly { how: string; what: string }[] = [
  { how: say`Click`, what: say`Caret` },
  { how: say`Drag`, what: say`Select` },
  { how: say`Shift click`, what: say`Select up to there` },
  { how: say`{mod} drag sideways, in the selection`, what: say`Slide the passage` },
  { how: say`{mod} drag up or down, in the selection`, what: say`Louder or softer` },
  { how: say`Alt held`, what: say`No snapping to pauses and marks` },
  { how: say`Click the name of a stave`, what: say`Edits of sound are for it alone, or for all` },
  { how: say`Drag a line’s number`, what: say`The line is read from there on` },
  { how: say`Loupe: drag a joint`, what: say`More of one reading, less of the other` },
  { how: say`Loupe: Shift drag a joint`, what: say`Length of the crossfade` },
  { how: say`Loupe: drag the end of a strike`, what: say`Strike more or less` },
  { how: say`Loupe: Shift drag the end of a strike`, what: say`Move the strike` },
  { how: say`Loupe: drag elsewhere`, what: say`Hear what is under the pointer` },
  { how: say`Loupe: wheel`, what: say`Nearer or further` },
];
