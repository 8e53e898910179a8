import { say } from '@/texts/say';
import * as edits from '@/core/timeline/edits';
import { markTraits, type MarkKind } from '@/core/timeline/markTraits';
import type { Mark } from '@/core/timeline/timeline';
import { newId } from '@/storage/projects';
import { edit, usePart } from './part';

/** The range that is being marked: its end is not known yet. */
let openMark: string | null = null;

/** Returns the new mark's id. An open one becomes a range when `endMark` is called. */
export function addMark(kind: MarkKind, at: number, length = 0, open = false): string {
  const { timeline } = usePart.getState();
  const number = timeline.marks.filter((mark) => mark.kind === kind).length + 1;
  const mark: Mark = { id: newId(), kind, at, length, name: `${markTraits[kind].name} ${number}` };
  edit(say`${kind} mark`, (before) => edits.addMark(before, mark));
  if (open) openMark = mark.id;
  return mark.id;
}

/**
 * Ends the range that was begun last, at a sheet frame on either side of its start. False when none is open.
 */
export function endMark(kind: MarkKind, at: number): boolean {
  const mark = usePart.getState().timeline.marks.find(({ id }) => id === openMark);
  openMark = null;
  if (!mark || mark.kind !== kind || mark.length > 0 || mark.at === at) return false;
  const from = Math.min(mark.at, at);
  return edit(say`${kind} range`, (before) =>
    edits.changeMark(before, mark.id, { at: from, length: Math.max(mark.at, at) - from }),
  );
}

export const removeMark = (id: string) =>
  edit(say`delete mark`, (timeline) => edits.removeMark(timeline, id));
export const renameMark = (id: string, name: string) =>
  edit(say`rename mark`, (timeline) => edits.renameMark(timeline, id, name.trim() || say`Mark`));
