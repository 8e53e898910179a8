import { create } from 'zustand';
import * as edits from '@/core/timeline/edits';
import { apply, difference, inverse, isEmpty, type Step } from '@/core/timeline/history';
import { fillGaps } from '@/core/timeline/roomEdits';
import {
  emptyTimeline,
  heardFramesOf,
  loadTimeline,
  sheetFramesOf,
  storeTimeline,
  type Mark,
  type MarkKind,
  type Timeline,
} from '@/core/timeline/timeline';
import {
  historyLength,
  readStep,
  saveHistoryPosition,
  saveStep,
  updatePart,
  type Placed,
} from '@/storage/parts';
import { newId } from '@/storage/projects';
import type { PartRecord } from '@/storage/schema';
import { notify } from './notices';
import { save } from './saving';
import { isReadOnly, rememberPart } from './session';
import { toneLookup } from './tones';

/** The open part: its timeline with history, the caret and the selection, all in frames of sheet time. */
interface Part {
  id: string | null;
  timeline: Timeline;
  historyAt: number;
  /** Steps as far as they have been read; earlier ones are in storage. */
  steps: ReadonlyMap<number, Step>;
  historyLength: number;
  caret: number;
  selection: edits.Range | null;
}

const none: Part = {
  id: null,
  timeline: emptyTimeline(['Voice']),
  historyAt: 0,
  steps: new Map(),
  historyLength: 0,
  caret: 0,
  selection: null,
};

export const usePart = create<Part>(() => none);

export async function openPart(part: PartRecord): Promise<void> {
  const length = await historyLength(part.id);
  const timeline = loadTimeline(part.timeline);
  const caret = Math.min(part.caret, sheetFramesOf(timeline));
  usePart.setState({
    ...none,
    id: part.id,
    timeline,
    historyAt: part.historyAt,
    historyLength: length,
    caret,
  });
  await readAround(part.id, part.historyAt);
}

export const closePart = () => usePart.setState(none);

/** Reads the steps that undo and redo would apply next, so that both can say what they will do. */
async function readAround(partId: string, historyAt: number) {
  for (const seq of [historyAt - 1, historyAt]) {
    if (seq < 0 || usePart.getState().steps.has(seq)) continue;
    const step = await readStep(partId, seq);
    if (step && usePart.getState().id === partId) {
      usePart.setState(({ steps }) => ({ steps: new Map(steps).set(seq, step) }));
    }
  }
}

function show(timeline: Timeline, changes: Partial<Part>) {
  const { id } = usePart.getState();
  usePart.setState({ timeline, ...changes });
  const end = sheetFramesOf(timeline);
  usePart.setState(({ caret, selection }) => ({
    caret: Math.min(caret, end),
    selection: selection && selection.to <= end ? selection : null,
  }));
  if (id)
    rememberPart(id, {
      timeline: storeTimeline(timeline),
      heardFrames: heardFramesOf(timeline),
      ...historyField(),
    });
}

const historyField = () => ({ historyAt: usePart.getState().historyAt });

/**
 * Applies an edit as one step that can be undone, and stores it. `placed` names the recording that this step puts into the part.
 * Returns false when the edit changes nothing.
 */
export function edit(
  label: string,
  change: (timeline: Timeline) => Timeline,
  placed: Placed | null = null,
): boolean {
  const { id, timeline, historyAt, steps } = usePart.getState();
  if (!id || isReadOnly()) return false;
  // What an edit leaves empty is filled with room tone, where there is some.
  const after = fillGaps(change(timeline), toneLookup(id));
  const step: Step = { label, difference: difference(timeline, after) };
  if (isEmpty(step.difference)) return false;
  const kept = new Map([...steps].filter(([seq]) => seq < historyAt)).set(historyAt, step);
  show(after, { historyAt: historyAt + 1, historyLength: historyAt + 1, steps: kept });
  void save(() => saveStep(id, after, historyAt, step, placed));
  return true;
}

let travelling: Promise<void> = Promise.resolve();
let waiting = 0;

/** One step after another: keys can be pressed faster than steps are read. A step that has been read is taken at once. */
function travel(direction: -1 | 1): Promise<void> {
  if (waiting === 0 && takeStep(direction)) {
    const { id, historyAt } = usePart.getState();
    return id ? readAround(id, historyAt) : Promise.resolve();
  }
  waiting++;
  travelling = travelling.then(async () => {
    const { id, historyAt } = usePart.getState();
    if (id) await readAround(id, historyAt);
    if (usePart.getState().historyAt === historyAt) takeStep(direction);
    waiting--;
  });
  return travelling;
}

/** Undoes or redoes a step that is in memory; false where there is none, or it has not been read yet. */
function takeStep(direction: -1 | 1): boolean {
  const { id, historyAt, steps, timeline } = usePart.getState();
  const step = steps.get(direction < 0 ? historyAt - 1 : historyAt);
  if (!id || isReadOnly() || !step) return false;
  const after = apply(timeline, direction < 0 ? inverse(step.difference) : step.difference);
  show(after, { historyAt: historyAt + direction });
  void save(() => saveHistoryPosition(id, after, historyAt + direction));
  return true;
}

export const undo = () => travel(-1);
export const redo = () => travel(1);

/** Closes up the struck passages of the selection; without one, all of the part. The caret stays with its audio. */
export function closeUpSelection(): void {
  const { selection, timeline, caret } = usePart.getState();
  const range = selection ?? { from: 0, to: sheetFramesOf(timeline) };
  const removed = timeline.tracks[0].table.struckRanges(range.from, range.to);
  if (removed.length === 0) return notify('info', 'There is nothing struck to close up here.');
  const before = removed.reduce((sum, { from, to }) => sum + Math.max(0, Math.min(caret, to) - from), 0);
  if (edit('close up', (old) => edits.closeUp(old, range))) {
    usePart.setState({ selection: null });
    setCaret(caret - before);
  }
}

const markNames: Record<MarkKind, string> = {
  flub: 'Flub',
  note: 'Note',
  part: 'Part',
  clipped: 'Clipped',
  faint: 'Too faint',
  line: 'Line',
};

/** The range that is being marked: its end is not known yet. */
let openMark: string | null = null;

/** Returns the new mark's id. An open one becomes a range when `endMark` is called. */
export function addMark(kind: MarkKind, at: number, length = 0, open = false): string {
  const { timeline } = usePart.getState();
  const number = timeline.marks.filter((mark) => mark.kind === kind).length + 1;
  const mark: Mark = { id: newId(), kind, at, length, name: `${markNames[kind]} ${number}` };
  edit(`${kind} mark`, (before) => edits.addMark(before, mark));
  if (open) openMark = mark.id;
  return mark.id;
}

/** Ends the range that was begun last, at a sheet frame on either side of its start. False when none is open. */
export function endMark(kind: MarkKind, at: number): boolean {
  const mark = usePart.getState().timeline.marks.find(({ id }) => id === openMark);
  openMark = null;
  if (!mark || mark.kind !== kind || mark.length > 0 || mark.at === at) return false;
  const from = Math.min(mark.at, at);
  return edit(`${kind} range`, (before) =>
    edits.changeMark(before, mark.id, { at: from, length: Math.max(mark.at, at) - from }),
  );
}

export const removeMark = (id: string) => edit('delete mark', (timeline) => edits.removeMark(timeline, id));
export const renameMark = (id: string, name: string) =>
  edit('rename mark', (timeline) => edits.renameMark(timeline, id, name.trim() || 'Mark'));

let caretSave: ReturnType<typeof setTimeout> | undefined;

/** Moves the caret, clamped to the sheet; where it stands is stored when it rests. */
export function setCaret(frame: number): void {
  const { id, timeline } = usePart.getState();
  const caret = Math.max(0, Math.min(Math.round(frame), sheetFramesOf(timeline)));
  usePart.setState({ caret });
  clearTimeout(caretSave);
  if (!id || isReadOnly()) return;
  caretSave = setTimeout(() => {
    rememberPart(id, { caret });
    void save(() => updatePart(id, { caret }));
  }, 400);
}

/** Selects between two sheet frames in either order; nothing when they are the same. */
export function select(a: number, b: number): void {
  const end = sheetFramesOf(usePart.getState().timeline);
  const clamp = (frame: number) => Math.max(0, Math.min(Math.round(frame), end));
  const from = clamp(Math.min(a, b));
  const to = clamp(Math.max(a, b));
  usePart.setState({ selection: to > from ? { from, to } : null });
}

/** Sets one end of the selection at the caret; the other end stays, or is the end of the sheet on that side. */
export function selectFromCaret(end: 'start' | 'end'): void {
  const { caret, selection, timeline } = usePart.getState();
  if (end === 'start') select(caret, Math.max(caret, selection?.to ?? sheetFramesOf(timeline)));
  else select(Math.min(caret, selection?.from ?? 0), caret);
}
