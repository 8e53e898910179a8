import { say } from '@/texts/say';
import { isInStep, writtenFramesOf } from '@/core/timeline/guides';
import { removeMarks, removeTime, strike } from '@/core/timeline/edits';
import { copyPassage, partRanges, pastePassage, putIn, timelineOfRange } from '@/core/timeline/passages';
import type { Range } from '@/core/timeline/range';
import { lineReadings } from '@/core/timeline/scriptLines';
import { storeTimeline } from '@/core/timeline/stored';
import { sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import { updatePart } from '@/storage/parts';
import { newId } from '@/storage/projects';
import { create } from 'zustand';
import { notify } from '../page/notices';
import { ask } from '../page/questions';
import { whenProjectCloses } from '../page/resets';
import { save, saved } from '../page/saving';
import { isReadOnly, partRecord, rememberPart, useProject, type ScriptLine } from '../project/openProject';
import { edit, editPart, openPartRecord, refusedInStep, timelineOfPart, usePart } from './part';
import { addPart, selectPart } from './parts';

/** Stores a timeline as the first state of a part that is not open. */
async function fillPart(id: string, timeline: Timeline, script: ScriptLine[]): Promise<void> {
  const changes = { timeline: storeTimeline(timeline), heardFrames: writtenFramesOf(timeline), script };
  rememberPart(id, changes);
  await save(() => updatePart(id, changes));
}

/** Copies the selection into a part of its own, without a sample changed. The open part stays as it is. */
export async function copyToNewPart(): Promise<void> {
  const { selection, timeline } = usePart.getState();
  if (!selection) return notify('info', say`Select what the new part is to hold first.`);
  const { parts } = useProject.getState();
  const name = say`Part ${parts.length + 1}`;
  const id = await addPart(name, false);
  if (!id) return;
  await fillPart(id, timelineOfRange(timeline, selection), []);
  notify('success', say`The passage is in “${name}” now. This part is as it was.`);
}

/** Whether the user is choosing a part: the one a passage goes to, or the one that is put in. */
export const useMoveDialog = create<{ wanted: 'move' | 'put' | null }>(() => ({ wanted: null }));
export const closeMoveDialog = () => useMoveDialog.setState({ wanted: null });
whenProjectCloses(closeMoveDialog);

export function openMoveDialog(): void {
  if (isReadOnly()) return;
  if (!usePart.getState().selection) return notify('info', say`Select the passage that is to move first.`);
  useMoveDialog.setState({ wanted: 'move' });
}

export function openPutDialog(): void {
  if (!isReadOnly()) useMoveDialog.setState({ wanted: 'put' });
}

/** At most so many marks are offered to stop at. */
const mostStops = 6;

/**
 * Puts another part, all of it or up to a mark, in at the caret: its tracks, marks and the lines read there.
 * A step that can be undone; the other part stays as it is.
 */
export async function putPartIn(partId: string): Promise<void> {
  const target = partRecord(partId);
  const other = timelineOfPart(partId);
  const open = openPartRecord();
  if (!target || !other || !open || isReadOnly()) return;
  const end = sheetFramesOf(other);
  if (end === 0) return notify('info', say`Nothing is recorded in “${target.name}” yet.`);
  const stops = other.marks
    .filter(({ kind, at }) => (kind === 'part' || kind === 'note') && at > 0 && at < end)
    .slice(0, mostStops);
  const answer =
    stops.length === 0
      ? 'all'
      : await ask({
          title: say`How much of “${target.name}”`,
          text: say`It goes in at the caret with its tracks, marks and lines; what follows moves.`,
          choices: [
            { id: 'all', label: say`All of it` },
            ...stops.map(({ id, name }) => ({ id, label: say`Up to “${name}”` })),
          ],
        });
  if (answer === null || usePart.getState().id !== open.id) return;
  const to = stops.find(({ id }) => id === answer)?.at ?? end;
  const { caret } = usePart.getState();
  const range = { from: 0, to };
  const known = new Set(open.script.map(({ id }) => id));
  const lines = linesOf(other, target.script, range).filter(({ id }) => !known.has(id));
  if (!edit(say`put in “${target.name}”`, (before) => putIn(before, other, range, caret, { newId }))) return;
  if (lines.length > 0) {
    const script = [...open.script, ...lines];
    rememberPart(open.id, { script });
    await save(() => updatePart(open.id, { script }));
  }
  notify(
    'success',
    say`${to < end ? say`The beginning of` : say`All of`} “${target.name}” stands at the caret now.`,
  );
}

/**
 * Moves the selection to the end of another part: it is cut here and stands there, each as a step that can be
 * undone.
 */
export function moveToPart(partId: string): void {
  const { selection, timeline } = usePart.getState();
  const target = partRecord(partId);
  if (!selection || !target || isReadOnly()) return;
  const there = timelineOfPart(partId);
  if (there && isInStep(there))
    return notify(
      'info',
      say`“${target.name}” is in step with its guide: nothing goes in at its end. Let go of step there, under Inputs and tracks, or copy the passage and paste it over there.`,
    );
  const passage = copyPassage(timeline, selection);
  // First there, then here: writes are stored in this order, so nothing is ever in neither.
  editPart(partId, say`passage from another part`, (there) =>
    pastePassage(there, passage, sheetFramesOf(there), { newId }),
  );
  // In step the time stays here, and what was moved falls silent.
  edit(say`move to “${target.name}”`, (old) =>
    isInStep(old) ? strike(old, selection) : removeTime(old, selection),
  );
  usePart.setState({ selection: null });
  notify('success', say`The passage stands at the end of “${target.name}” now.`);
}

/** The script lines read inside a range, in the order of the script. */
function linesOf(timeline: Timeline, script: readonly ScriptLine[], range: Range): ScriptLine[] {
  const inside = new Set(
    lineReadings(timeline)
      .filter(({ from }) => from >= range.from && from < range.to)
      .map(({ line }) => line),
  );
  return script.filter(({ id }) => inside.has(id));
}

/**
 * Part marks split one long recording: what follows each mark becomes a part of its own, named as the mark.
 */
export async function splitAtPartMarks(): Promise<void> {
  const { id, timeline } = usePart.getState();
  const ranges = partRanges(timeline);
  const open = openPartRecord();
  if (!id || !open || isReadOnly()) return;
  if (refusedInStep()) return;
  if (ranges.length < 2)
    return notify(
      'info',
      say`There is no part mark inside this part. {key:partMark} sets one where the next part begins.`,
    );
  const { script } = open;
  for (const range of ranges.slice(1)) {
    const part = await addPart(range.name ?? say`Part`, false);
    if (!part) return;
    await fillPart(
      part,
      withoutFirstMark(timelineOfRange(timeline, range)),
      linesOf(timeline, script, range),
    );
  }
  edit(say`split into parts`, (before) =>
    removeTime(before, { from: ranges[0].to, to: sheetFramesOf(before) }),
  );
  await saved();
  await selectPart(id);
  notify(
    'success',
    say`${ranges.length - 1} parts were split off. Undo brings their audio back into this one as well.`,
  );
}

const withoutFirstMark = (timeline: Timeline): Timeline =>
  removeMarks(timeline, ({ kind, at }) => kind === 'part' && at === 0);
