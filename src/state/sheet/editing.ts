import { say } from '@/texts/say';
import { create } from 'zustand';
import { secondsToFrames } from '@/core/base/units';
import { stet, strike } from '@/core/timeline/edits';
import { isInStep } from '@/core/timeline/guides';
import type { Range } from '@/core/timeline/range';
import * as joints from '@/core/timeline/joints';
import { PieceTable, type FadeShape } from '@/core/timeline/pieces';
import * as passages from '@/core/timeline/passages';
import { muteStave, setPauseLength, strikeMarked } from '@/core/timeline/roomEdits';
import { sheetFramesOf } from '@/core/timeline/timeline';
import { hearTake, stackAt } from '@/core/timeline/takes';
import { newId } from '@/storage/projects';
import { notify } from '../page/notices';
import { edit, partClock, refusedInStep, select, setCaret, usePart } from './part';
import { whenProjectCloses } from '../page/resets';
import { rateOfProject, useProject } from '../project/openProject';
import { levelsAround, meanSquares, speechLevel } from '../pictures/sheetLevels';
import { focusedTable, focusedTracks } from './staveFocus';
import { toneLookup } from '../project/tones';
import { pauseAround, pieceAroundCaret } from './selecting';

/** What was cut or copied last; pieces of any part of the project. */
export const useClipboard = create<{ passage: passages.Passage | null }>(() => ({ passage: null }));

/** A passage holds on to recordings of its project: another project does not have them. */
whenProjectCloses(() => useClipboard.setState({ passage: null }));

/** How a pause, a fade and a join are set by key; changed in the strip's menus. */
export const useEditSettings = create<{
  pauseSeconds: number;
  fadeShape: FadeShape;
  joinMs: number | null;
  joinShape: FadeShape;
}>(() => ({ pauseSeconds: 0.7, fadeShape: 'power', joinMs: null, joinShape: 'power' }));

const selectFirst = (what: string) =>
  notify(
    'info',
    say`Select ${what} first: drag over it, or set its ends with {key:selectionStart} and {key:selectionEnd}.`,
  );

function selected(what: string): Range | null {
  const { selection } = usePart.getState();
  if (!selection) selectFirst(what);
  return selection;
}

// — Struck and standing —

/** Strikes the selection; on one stave of several the time stays, and room tone is heard there. */
export function strikeSelection(): void {
  const range = selected(say`the passage to strike`);
  if (!range) return;
  const only = focusedTracks();
  if (!only) {
    edit('strike', (timeline) => strike(timeline, range));
    return;
  }
  const [track] = only;
  const lookup = toneLookup(usePart.getState().id);
  edit(say`strike on one stave`, (timeline) => muteStave(timeline, track, range, lookup));
}

/**
 * Lets the selection stand again; without one, the struck passage under the caret. On one stave the latest
 * reading is heard again.
 */
export function stetSelection(): void {
  const { selection, caret } = usePart.getState();
  const only = focusedTracks();
  if (only && selection) return restoreStave(only, selection);
  const range = selection ?? partClock().struckAround(caret);
  if (!range)
    return notify('info', say`Nothing is struck here. Put the caret into a struck passage, or select it.`);
  edit('stet', (before) => stet(before, range));
}

/** On one stave of several the latest reading that is still there is heard again. */
function restoreStave(only: ReadonlySet<string>, range: Range): void {
  const { sources } = useProject.getState();
  const takes = [...stackAt(usePart.getState().timeline, range)].filter(
    ([source, places]) => sources.has(source) && places.some(({ track }) => only.has(track)),
  );
  const last = takes[takes.length - 1]?.[0];
  if (!last) return notify('info', say`No recording of this stave is known here.`);
  edit(say`stet on one stave`, (before) => hearTake(before, last, range, only));
}

export function strikeFlubs(): void {
  const done = edit(say`strike all flubs`, (timeline) => strikeMarked(timeline, 'flub'));
  if (!done)
    notify(
      'info',
      say`No flub is marked as a range. While recording, {key:flubRange} begins one and ends it at the pickup.`,
    );
}

// — Passages —

export function copySelection(): void {
  const range = selected(say`the passage to copy`);
  if (!range) return;
  useClipboard.setState({ passage: passages.copyPassage(usePart.getState().timeline, range) });
}

export function cutSelection(): void {
  const range = selected(say`the passage to cut`);
  if (!range) return;
  copySelection();
  // In step the time stays, and what was cut falls silent.
  edit('cut', (timeline) =>
    isInStep(timeline) ? strike(timeline, range) : passages.cutPassage(timeline, range),
  );
  usePart.setState({ selection: null });
  setCaret(range.from);
}

export function pasteAtCaret(): void {
  const { passage } = useClipboard.getState();
  const { caret } = usePart.getState();
  if (!passage) return notify('info', say`Nothing was cut or copied yet.`);
  if (edit('paste', (timeline) => passages.pastePassage(timeline, passage, caret, { newId })))
    select(caret, caret + passage.frames);
}

/** The passage replaces what follows the caret, as loud as what is beside it. */
export async function pasteOverAtCaret(): Promise<void> {
  const { passage } = useClipboard.getState();
  const { caret, selection, timeline } = usePart.getState();
  if (!passage) return notify('info', say`Nothing was cut or copied yet.`);
  const at = selection?.from ?? caret;
  const table = focusedTable(timeline);
  const end = Math.min(table.frames, at + passage.frames);
  const around = speechLevel(
    await levelsAround(table, { from: at, to: end }, secondsToFrames(6, rateOfProject())),
  );
  const own = speechLevel(await passageLevels(passage));
  const gainDb = Number.isFinite(around) && Number.isFinite(own) ? rounded(around - own) : 0;
  if (edit(say`paste over`, (before) => passages.pasteOver(before, passage, at, { newId, gainDb })))
    select(at, at + passage.frames);
}

const rounded = (db: number) => Math.max(-20, Math.min(20, Math.round(db * 10) / 10));

async function passageLevels(passage: passages.Passage): Promise<Float32Array> {
  const only = focusedTracks();
  const track = passage.tracks.find(({ id }) => only?.has(id)) ?? passage.tracks[0];
  return track ? meanSquares(PieceTable.of(track.pieces), 0, passage.frames) : new Float32Array(0);
}

/**
 * Moves the selection, or the piece around the caret, by so many milliseconds; what it leaves is filled with
 * room tone.
 */
export function nudge(milliseconds: number): void {
  const range = usePart.getState().selection ?? pieceAroundCaret();
  if (!range) return notify('info', say`There is nothing here to move.`);
  const by = Math.round((milliseconds / 1000) * rateOfProject());
  slide(range, by, say`nudge ${milliseconds} ms`);
}

export function slide(range: Range, by: number, label = 'slide'): void {
  const end = sheetFramesOf(usePart.getState().timeline);
  const move = Math.max(-range.from, Math.min(by, end - range.to));
  if (edit(label, (timeline) => passages.slidePassage(timeline, range, by)))
    select(range.from + move, range.to + move);
}

// — Joints, fades, gain —

export function splitAtCaret(): void {
  const { caret } = usePart.getState();
  if (!edit('split', (timeline) => joints.split(timeline, caret)))
    notify('info', say`There is an end of a piece here already.`);
}

export function trimAtCaret(end: 'start' | 'end'): void {
  const { caret } = usePart.getState();
  if (
    !edit(end === 'start' ? say`trim start` : say`trim end`, (timeline) =>
      joints.trimPiece(timeline, caret, end),
    )
  )
    notify('info', say`The caret stands at the edge of its piece: there is nothing to trim on that side.`);
}

export function fadeSelection(side: 'fadeIn' | 'fadeOut'): void {
  const range = selected(say`what the fade is to cover`);
  if (!range) return;
  const { fadeShape } = useEditSettings.getState();
  const table = focusedTable(usePart.getState().timeline);
  const [edge] =
    side === 'fadeIn' ? table.slice(range.from, range.from + 1) : table.slice(range.to - 1, range.to);
  // Pressed again on the same stretch, the fade goes away.
  const there = edge?.[side]?.frames === range.to - range.from && edge[side]?.shape === fadeShape;
  edit(there ? say`no fade` : side === 'fadeIn' ? say`fade in` : say`fade out`, (timeline) =>
    joints.setFade(timeline, range, side, there ? null : fadeShape, focusedTracks()),
  );
}

export function setJoinAtCaret(): void {
  const cut = nearestCut();
  if (!cut) return notify('info', say`There is no join near the caret.`);
  const { joinMs, joinShape } = useEditSettings.getState();
  const frames = joinMs === null ? null : secondsToFrames(joinMs / 1000, rateOfProject());
  edit('join', (timeline) => joints.setJoin(timeline, cut.to, frames, joinShape, focusedTracks()));
}

/** Takes back what was set at the join nearest the caret: its length and shape, or the split itself. */
export function clearJoinAtCaret(): void {
  const cut = nearestCut();
  if (!cut || !edit(say`usual join`, (timeline) => joints.clearJoin(timeline, cut.to)))
    notify('info', say`Nothing was set by hand at the join nearest the caret.`);
}

/** The cut nearest the caret, as the struck passage (or nothing) between two heard pieces. */
export function nearestCut(): { from: number; to: number } | null {
  const { caret, timeline } = usePart.getState();
  const away = ({ from, to }: Range) => Math.min(Math.abs(from - caret), Math.abs(to - caret));
  return joints
    .allCuts(timeline)
    .reduce<Range | null>((best, cut) => (best === null || away(cut) < away(best) ? cut : best), null);
}

export function changeGain(gainDb: number): void {
  const range = usePart.getState().selection ?? pieceAroundCaret();
  if (!range) return selectFirst(say`the passage whose level is to change`);
  edit(say`gain ${gainDb > 0 ? '+' : '−'}${Math.abs(gainDb)} dB`, (timeline) =>
    joints.changeGain(timeline, range, gainDb, focusedTracks()),
  );
}

/** Makes the selection as loud as the speech around it. */
export async function matchGain(): Promise<void> {
  const range = selected(say`the passage to match`);
  if (!range) return;
  const { timeline } = usePart.getState();
  const only = focusedTracks();
  const table = focusedTable(timeline);
  const around = speechLevel(await levelsAround(table, range, secondsToFrames(8, rateOfProject())));
  const own = speechLevel(await meanSquares(table, range.from, range.to));
  if (!Number.isFinite(around) || !Number.isFinite(own))
    return notify('info', say`There is no speech here, or none around it, to match with.`);
  const gainDb = rounded(around - own);
  if (gainDb === 0) return notify('info', say`This passage is as loud as its neighbours already.`);
  edit(say`match level, ${gainDb > 0 ? '+' : '−'}${Math.abs(gainDb)} dB`, (before) =>
    joints.changeGain(before, range, gainDb, only),
  );
}

export function silenceSelection(): void {
  const range = selected(say`what is to be silent`);
  if (range) edit('silence', (timeline) => joints.silenceRange(timeline, range, focusedTracks()));
}

// — Pauses —

/** Gives the pause around the caret, or the selection, the length that is set. */
export async function setPause(seconds = useEditSettings.getState().pauseSeconds): Promise<void> {
  if (refusedInStep()) return;
  const { selection } = usePart.getState();
  const range = selection ?? (await pauseAround());
  if (!range)
    return notify('info', say`The caret stands in no pause. Put it between two words, or select the pause.`);
  const frames = secondsToFrames(seconds, rateOfProject());
  if (edit(say`pause of ${seconds} s`, (timeline) => setPauseLength(timeline, range, frames)))
    usePart.setState({ selection: null });
}
