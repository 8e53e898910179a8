import { say } from '@/texts/say';
import { create } from 'zustand';
import * as edits from '@/core/timeline/edits';
import { isInStep, keepStep } from '@/core/timeline/guides';
import { apply, difference, inverse, isEmpty, type Difference, type Step } from '@/core/timeline/history';
import type { Range } from '@/core/timeline/range';
import { fillGaps } from '@/core/timeline/roomEdits';
import { changeTime, type TimeChange } from '@/core/timeline/timeChange';
import { clockOf, emptyTimeline, sheetFramesOf, type Timeline } from '@/core/timeline/timeline';
import { loadTimeline, plainTimeline, storeTimeline } from '@/core/timeline/stored';
import { substituteInStep, substituteSource } from '@/core/timeline/substitute';
import {
  historyLength,
  readStep,
  saveHistoryPosition,
  saveStep,
  withTimeline,
  updatePart,
  type Placed,
} from '@/storage/parts';
import { newId } from '@/storage/projects';
import type { PartRecord } from '@/storage/schema';
import { within } from '@/core/base/waiting';
import { notify, notifyError } from '../page/notices';
import { save, saved, savePassing } from '../page/saving';
import { whenProjectCloses } from '../page/resets';
import { isReadOnly, partRecord, rememberPart, useProject } from '../project/openProject';
import { toneLookup } from '../project/tones';

/** The open part: its timeline with history, the caret and the selection, all in frames of sheet time. */
interface Part {
  id: string | null;
  timeline: Timeline;
  historyAt: number;
  /** Steps as far as they have been read; earlier ones are in storage. */
  steps: ReadonlyMap<number, Step>;
  historyLength: number;
  caret: number;
  selection: Range | null;
}

const none: Part = {
  id: null,
  timeline: emptyTimeline([say`Voice`]),
  historyAt: 0,
  steps: new Map(),
  historyLength: 0,
  caret: 0,
  selection: null,
};

export const usePart = create<Part>(() => none);

/** A part that has been read, with what opens it at once. */
export interface PreparedPart {
  timeline: Timeline;
  caret: number;
  show: () => Promise<void>;
}

/** Reads what it takes to show a part; rejects with what reading its history throws. */
export async function preparePart(part: PartRecord): Promise<PreparedPart> {
  const length = await historyLength(part.id);
  const timeline = loadTimeline(part.timeline);
  const caret = Math.min(part.caret, sheetFramesOf(timeline));
  const show = async () => {
    usePart.setState({
      ...none,
      id: part.id,
      timeline,
      historyAt: part.historyAt,
      historyLength: length,
      caret,
    });
    // What cannot be read now is read again, or told of, when it is to be undone.
    await readAround(part.id, part.historyAt).catch(() => undefined);
  };
  return { timeline, caret, show };
}

export const openPart = async (part: PartRecord): Promise<void> => (await preparePart(part)).show();

export const closePart = () => usePart.setState(none);
whenProjectCloses(closePart);

/** The clock of the open part. */
export const partClock = () => clockOf(usePart.getState().timeline);

/** The timeline of any part of the project as it is now; null when there is no such part. */
export function timelineOfPart(id: string): Timeline | null {
  const open = usePart.getState();
  if (open.id === id) return open.timeline;
  const part = partRecord(id);
  return part ? loadTimeline(part.timeline) : null;
}

export const openPartRecord = () => partRecord(usePart.getState().id);

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

/** The open part has this timeline; as it is to be stored, null where no part is open. */
function show(timeline: Timeline, changes: Partial<Part>): PartRecord | null {
  const { id } = usePart.getState();
  usePart.setState({ timeline, ...changes });
  const end = sheetFramesOf(timeline);
  usePart.setState(({ caret, selection }) => ({
    caret: Math.min(caret, end),
    selection: selection && selection.to <= end ? selection : null,
  }));
  const part = partRecord(id);
  if (!part && id) notify('error', say`This part is not on this machine any more.`, 'kept');
  return part ? remembered(withTimeline(part, timeline, usePart.getState().historyAt)) : null;
}

function remembered(part: PartRecord): PartRecord {
  rememberPart(part.id, part);
  return part;
}

/**
 * The steps made since the project was opened, by part: each has a name of its own at its place in the
 * history.
 */
const trails = new Map<string, (string | undefined)[]>();
whenProjectCloses(() => trails.clear());

function trailWith(trail: readonly (string | undefined)[], seq: number) {
  const next = trail.slice(0, seq);
  next[seq] = newId();
  return next;
}

/** A step that was made: it stands for as long as it is not undone, and not replaced by another. */
export interface MadeStep {
  readonly partId: string;
  readonly seq: number;
  readonly name: string;
}

/** The step that was made last in the open part. */
export function lastStep(): MadeStep | null {
  const { id, historyAt } = usePart.getState();
  const name = id && trails.get(id)?.[historyAt - 1];
  return id && name ? { partId: id, seq: historyAt - 1, name } : null;
}

/** Whether a step is done now in the open part. */
export const stands = (
  { partId, seq, name }: MadeStep,
  { id, historyAt }: Pick<Part, 'id' | 'historyAt'> = usePart.getState(),
) => id === partId && seq < historyAt && trails.get(partId)?.[seq] === name;

/** Why an edit of time is refused in a part in step, and the way round. */
const inStepRefusal = say`This part is in step with its guide: its time cannot move. Strike, Retake and Patch leave the time; or let go of step, or take the guide away, under Inputs and tracks.`;

/** True, and told, where the time of the open part cannot move: for whatever needs more than one edit. */
export function refusedInStep(): boolean {
  const inStep = isInStep(usePart.getState().timeline);
  if (inStep) notify('info', inStepRefusal);
  return inStep;
}

/**
 * What an edit makes of a part. What it leaves empty is filled with room tone, where there is some; null, and
 * told, where it would move the time of a part in step.
 */
function outcome(id: string, before: Timeline, change: (timeline: Timeline) => Timeline): Timeline | null {
  const kept = keepStep(before, change(before));
  if (!kept) notify('info', inStepRefusal);
  return kept && fillGaps(kept, toneLookup(id));
}

/**
 * Applies an edit as one step that can be undone, and stores it. `placed` names the recording that this step
 * puts into the part. Returns false when the edit changes nothing.
 */
export function edit(
  label: string,
  change: (timeline: Timeline) => Timeline,
  placed: Placed | null = null,
): boolean {
  const { id, timeline, historyAt, steps } = usePart.getState();
  if (!id || isReadOnly()) return false;
  const after = outcome(id, timeline, change);
  if (!after) return false;
  const step: Step = { label, difference: difference(timeline, after) };
  if (isEmpty(step.difference)) return false;
  const kept = new Map([...steps].filter(([seq]) => seq < historyAt)).set(historyAt, step);
  trails.set(id, trailWith(trails.get(id) ?? [], historyAt));
  const part = show(after, { historyAt: historyAt + 1, historyLength: historyAt + 1, steps: kept });
  if (part) void save(() => saveStep(part, step, placed));
  return true;
}

/**
 * One recording stands for another from now on, in all parts and in all steps that have been read: no step of
 * any history. Whoever calls stores it (see storage/substitute).
 */
export function substituteRecording(from: string, { id: to }: { id: string }): void {
  for (const part of useProject.getState().parts) {
    const before = loadTimeline(part.timeline);
    if (JSON.stringify(plainTimeline(before)).includes(from))
      rememberPart(part.id, { timeline: storeTimeline(substituteSource(before, from, to)) });
  }
  const { id, timeline, steps } = usePart.getState();
  if (!id) return;
  usePart.setState({
    timeline: substituteSource(timeline, from, to),
    steps: new Map([...steps].map(([seq, step]) => [seq, substituteInStep(step, from, to)])),
  });
}

/** Keeps with the open part what was found out about it: no step of its history. */
export function noteFound(change: (timeline: Timeline) => Timeline): void {
  const { id, timeline, historyAt } = usePart.getState();
  const after = change(timeline);
  if (!id || after === timeline || isReadOnly()) return;
  const part = show(after, { historyAt });
  if (part) void save(() => updatePart(part.id, { timeline: part.timeline }));
}

/**
 * The same for any part of the project, open or not: a step of its history like any other. Returns false when
 * the edit changes nothing, or the part is not there.
 */
export function editPart(
  partId: string,
  label: string,
  change: (timeline: Timeline) => Timeline,
  placed: Placed | null = null,
): boolean {
  if (usePart.getState().id === partId) return edit(label, change, placed);
  const part = partRecord(partId);
  if (!part || isReadOnly()) return false;
  const before = loadTimeline(part.timeline);
  const after = outcome(partId, before, change);
  if (!after) return false;
  const step: Step = { label, difference: difference(before, after) };
  if (isEmpty(step.difference)) return false;
  const { historyAt } = part;
  const edited = remembered(withTimeline(part, after, historyAt + 1));
  trails.set(partId, trailWith(trails.get(partId) ?? [], historyAt));
  void save(() => saveStep(edited, step, placed));
  return true;
}

/** The step that was made last in any part of the project, as long as it is its last one. */
export function lastStepOf(partId: string): MadeStep | null {
  if (usePart.getState().id === partId) return lastStep();
  const historyAt = partRecord(partId)?.historyAt ?? 0;
  const name = trails.get(partId)?.[historyAt - 1];
  return name ? { partId, seq: historyAt - 1, name } : null;
}

/** Undoes a step of any part, if it is the last one there; false where it is not, or cannot be read. */
export async function takeBack({ partId, seq, name }: MadeStep): Promise<boolean> {
  const last = lastStepOf(partId);
  if (last?.seq !== seq || last.name !== name || isReadOnly()) return false;
  if (usePart.getState().id === partId) {
    await undo();
    return true;
  }
  const noAnswer = say`The storage of this browser does not answer.`;
  // It may be on its way into storage still.
  await within(saved(), readMs, noAnswer);
  const step = await within(readStep(partId, seq), readMs, noAnswer);
  const part = partRecord(partId);
  const after = part && step && applied(loadTimeline(part.timeline), inverse(step.difference));
  if (!part || !after) return false;
  const edited = remembered(withTimeline(part, after, seq));
  void save(() => saveHistoryPosition(edited));
  return true;
}

let travelling: Promise<void> = Promise.resolve();
let waiting = 0;

/**
 * One step after another: keys can be pressed faster than steps are read. A step that has been read is taken
 * at once.
 */
function travel(direction: -1 | 1): Promise<void> {
  if (waiting === 0 && takeStep(direction)) {
    const { id, historyAt } = usePart.getState();
    // Nobody waits for what the next one needs.
    if (id) void readAround(id, historyAt).catch(() => undefined);
    return Promise.resolve();
  }
  waiting++;
  travelling = travelling
    .then(async () => {
      const { id, historyAt } = usePart.getState();
      if (!id || !isWithin(historyAt + (direction < 0 ? -1 : 0))) return;
      await within(readAround(id, historyAt), readMs, say`The storage of this browser does not answer.`);
      if (usePart.getState().historyAt === historyAt && !takeStep(direction)) tellUnreadable(direction);
    })
    .catch(notifyError)
    .finally(() => waiting--);
  return travelling;
}

const readMs = 10_000;

const isWithin = (seq: number) => seq >= 0 && seq < usePart.getState().historyLength;

function tellUnreadable(direction: -1 | 1) {
  if (isReadOnly()) return;
  notify(
    'warning',
    say`The step to ${direction < 0 ? say`undo` : say`redo`} cannot be read any more. What is on the sheet stays as it is; new steps can be undone as ever.`,
    'kept',
  );
}

/**
 * Undoes or redoes a step that is in memory; false where there is none, it has not been read yet, or does not
 * fit what is there.
 */
function takeStep(direction: -1 | 1): boolean {
  const { id, historyAt, steps, timeline } = usePart.getState();
  const step = steps.get(direction < 0 ? historyAt - 1 : historyAt);
  if (!id || isReadOnly() || !step) return false;
  const after = applied(timeline, direction < 0 ? inverse(step.difference) : step.difference);
  if (!after) return false;
  const part = show(after, { historyAt: historyAt + direction });
  if (part) void save(() => saveHistoryPosition(part));
  return true;
}

function applied(timeline: Timeline, change: Difference): Timeline | null {
  try {
    return apply(timeline, change);
  } catch {
    return null;
  }
}

export const undo = () => travel(-1);
export const redo = () => travel(1);

/**
 * Changes time by what `plan` says, as one step; the caret stays with its audio. False where it says nothing.
 */
export function changeTimeOf(label: string, plan: (timeline: Timeline) => TimeChange | null): boolean {
  const { timeline, caret } = usePart.getState();
  const change = plan(timeline);
  if (!change || !edit(label, (old) => changeTime(old, change))) return false;
  setCaret(change.frame(caret));
  return true;
}

/** Closes up the struck passages of a range. */
function closeUpRange(range: Range, label: string): void {
  if (refusedInStep()) return;
  if (!changeTimeOf(label, (timeline) => edits.closingUp(timeline, range)))
    return notify('info', say`There is nothing struck to close up here.`);
  usePart.setState({ selection: null });
}

const wholeSheet = (): Range => ({ from: 0, to: sheetFramesOf(usePart.getState().timeline) });

/** Closes up the struck passages of the selection; without one, all of the part. */
export const closeUpSelection = () =>
  closeUpRange(usePart.getState().selection ?? wholeSheet(), say`close up`);
export const closeUpAll = () => closeUpRange(wholeSheet(), say`close up all`);

let caretSave: ReturnType<typeof setTimeout> | undefined;
const caretRestMs = 400;

/** Moves the caret, clamped to the sheet; where it stands is stored when it rests. */
export function setCaret(frame: number): void {
  const { id, timeline } = usePart.getState();
  const caret = Math.max(0, Math.min(Math.round(frame), sheetFramesOf(timeline)));
  usePart.setState({ caret });
  clearTimeout(caretSave);
  caretSave = setTimeout(() => storeCaret(id, caret), caretRestMs);
}

function storeCaret(id: string | null, caret: number) {
  if (!id || isReadOnly()) return;
  rememberPart(id, { caret });
  void savePassing(() => updatePart(id, { caret }));
}

/** Stores where the caret stands now, for whoever is about to leave or to write a project file. */
export function restCaret(): void {
  const { id, caret } = usePart.getState();
  clearTimeout(caretSave);
  storeCaret(id, caret);
}

/** Selects between two sheet frames in either order; nothing when they are the same. */
export function select(a: number, b: number): void {
  const end = sheetFramesOf(usePart.getState().timeline);
  const clamp = (frame: number) => Math.max(0, Math.min(Math.round(frame), end));
  const from = clamp(Math.min(a, b));
  const to = clamp(Math.max(a, b));
  usePart.setState({ selection: to > from ? { from, to } : null });
}

/**
 * Sets one end of the selection at the caret; the other end stays, or is the end of the sheet on that side.
 */
export function selectFromCaret(end: 'start' | 'end'): void {
  const { caret, selection, timeline } = usePart.getState();
  if (end === 'start') select(caret, Math.max(caret, selection?.to ?? sheetFramesOf(timeline)));
  else select(Math.min(caret, selection?.from ?? 0), caret);
}
