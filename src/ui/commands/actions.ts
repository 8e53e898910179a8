import { say } from '@/texts/say';
import { sheetFramesOf } from '@/core/timeline/timeline';
import { findAll } from '@/state/finds/finding';
import { endPlaying, play, playRange } from '@/state/hearing/playing';
import { headFrame, useTransport } from '@/state/hearing/transport';
import { notify } from '@/state/page/notices';
import { prompterSizeChoices, setView, speedChoices, stepOf, useView } from '@/state/page/view';
import { rateOfProject, type RecordMode } from '@/state/project/openProject';
import { recordSettings, setRecordSettings } from '@/state/project/settings';
import { dryRun } from '@/state/recording/dryRun';
import { startNextPart } from '@/state/recording/readingOn';
import { record, stopRecording } from '@/state/recording/recording';
import * as editing from '@/state/sheet/editing';
import { addMark, endMark } from '@/state/sheet/marks';
import { partClock, setCaret, usePart } from '@/state/sheet/part';

/** What commands do that takes more than one call: each is for whoever has the button or the key. */
export function togglePlay(): void {
  const { mode } = useTransport.getState();
  if (mode === 'playing') endPlaying();
  else if (mode === 'recording' || mode === 'rolling') void stopRecording();
  else void play();
}

/** Starts as the button says; ends a take, or calls its run-up off. */
export function toggleRecord(): void {
  const { mode } = useTransport.getState();
  if (mode === 'recording' || mode === 'rolling') void stopRecording();
  else void record();
}

/** Runs the chosen cue through dry; ends that where it is under way. */
export function toggleDryRun(): void {
  const { mode, cueRun } = useTransport.getState();
  if (cueRun?.dry) endPlaying();
  else if (mode === 'idle' || mode === 'playing') void dryRun();
}

export function escape() {
  if (useView.getState().prompter) return setView({ prompter: false });
  if (useTransport.getState().mode === 'rolling') void stopRecording();
  else endPlaying({ back: true });
}

/** What Record does from now on; not while it is doing something. */
export function setMode(mode: RecordMode): void {
  if (useTransport.getState().mode === 'idle') setRecordSettings({ mode });
}

/** Only what is heard while recording changes, never what is recorded. */
export const toggleHearOthers = () =>
  setRecordSettings({ hearOthers: recordSettings().hearOthers === false });

/**
 * Marks where the head is, or at the caret; a flub with the caret in the selection marks all of the
 * selection.
 */
export function mark(kind: 'flub' | 'note' | 'part'): void {
  const { caret, selection } = usePart.getState();
  const { live, mode } = useTransport.getState();
  const head = headFrame();
  if (mode === 'recording' && live && head !== null) {
    live.markIds.add(addMark(kind, head));
    if (kind === 'part' && recordSettings().keepGoing) void startNextPart();
    return;
  }
  const inside = selection !== null && caret >= selection.from && caret <= selection.to;
  if (head !== null) addMark(kind, head);
  else if (kind === 'flub' && selection && inside)
    addMark(kind, selection.from, selection.to - selection.from);
  else addMark(kind, caret);
}

/** A flub as a range: begun at the mistake, ended at the pickup. */
export function markFlubRange(): void {
  const { caret } = usePart.getState();
  const at = headFrame() ?? caret;
  if (endMark('flub', at)) return;
  const id = addMark('flub', at, 0, true);
  useTransport.getState().live?.markIds.add(id);
}

/** Shows the finds, and looks for more. */
export function lookThroughPart() {
  setView({ panel: 'finds' });
  void findAll();
}

/** Plays the selection; without one, across the nearest join. */
export function playSelection() {
  const { selection } = usePart.getState();
  if (selection) void playRange(selection);
  else playJoin();
}

const joinSeconds = 1.5;

/** Across the join nearest the caret, from 1.5 s before it to 1.5 s after it. */
export function playJoin() {
  const cut = editing.nearestCut();
  if (!cut) return notify('info', say`There is no join in this part yet.`);
  const clock = partClock();
  const reach = joinSeconds * rateOfProject();
  const at = clock.sheetToHeard(cut.to);
  void playRange({
    from: clock.heardToSheet(Math.max(0, at - reach)),
    to: clock.heardToSheet(Math.min(clock.heardFrames, at + reach)),
  });
}

export const stepSpeed = (step: -1 | 1) =>
  setView({ speed: stepOf(speedChoices, useView.getState().speed, step) });
export const stepPrompter = (step: -1 | 1) =>
  setView({ prompterSize: stepOf(prompterSizeChoices, useView.getState().prompterSize, step) });

/** The same place one row up or down; the selection is left alone. */
export function stepRow(direction: -1 | 1) {
  const framesPerRow = useView.getState().secondsPerRow * rateOfProject();
  setCaret(usePart.getState().caret + direction * framesPerRow);
}

export const sheetEnd = () => sheetFramesOf(usePart.getState().timeline);
