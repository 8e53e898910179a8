/**
 * What can be done with the pointer alone, or with a key held; `{mod}` is Ctrl or ⌘. Told beside the keys.
 */
export const gestures: readonly { how: string; what: string }[] = [
  { how: 'Click', what: 'Caret' },
  { how: 'Drag', what: 'Select' },
  { how: 'Shift click', what: 'Select up to there' },
  { how: '{mod} drag sideways, in the selection', what: 'Slide the passage' },
  { how: '{mod} drag up or down, in the selection', what: 'Louder or softer' },
  { how: 'Alt held', what: 'No snapping to pauses and marks' },
  { how: 'Click the name of a stave', what: 'Edits of sound are for it alone, or for all' },
  { how: 'Drag a line’s number', what: 'The line is read from there on' },
  { how: 'Loupe: drag a joint', what: 'More of one reading, less of the other' },
  { how: 'Loupe: Shift drag a joint', what: 'Length of the crossfade' },
  { how: 'Loupe: drag the end of a strike', what: 'Strike more or less' },
  { how: 'Loupe: Shift drag the end of a strike', what: 'Move the strike' },
  { how: 'Loupe: drag elsewhere', what: 'Hear what is under the pointer' },
  { how: 'Loupe: wheel', what: 'Nearer or further' },
];
