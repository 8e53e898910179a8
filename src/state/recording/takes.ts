import { say } from '@/texts/say';
import { create } from 'zustand';
import { hearTake, insertRecording, stackAt } from '@/core/timeline/takes';
import { clockOf, sheetFramesOf, sourcesOf, type TakePlace } from '@/core/timeline/timeline';
import { changeTake as storeTake, recordedOf } from '@/storage/sources';
import type { SourceRecord, TakeOfProject } from '@/storage/schema';
import { notify } from '../page/notices';
import { whenProjectCloses } from '../page/resets';
import { edit, timelineOfPart, usePart } from '../sheet/part';
import { focusedTracks } from '../sheet/staveFocus';
import { playTake, endPlaying, takeFrame } from '../hearing/playing';
import { nextTake } from './recordPlan';
import { save } from '../page/saving';
import { isReadOnly, rememberSource, useProject } from '../project/openProject';
import { useTransport } from '../hearing/transport';

/** What is chosen in the list of takes: for comparing and for exporting. */
export const useTakes = create<{ chosen: ReadonlySet<string> }>(() => ({ chosen: new Set() }));

whenProjectCloses(() => useTakes.setState({ chosen: new Set() }));

export function choose(id: string, on: boolean): void {
  useTakes.setState(({ chosen }) => {
    const next = new Set(chosen);
    if (on) next.add(id);
    else next.delete(id);
    return { chosen: next };
  });
}

export const chooseOnly = (ids: readonly string[]) => useTakes.setState({ chosen: new Set(ids) });

export const takeLength = (take: Pick<SourceRecord, 'frames' | 'handleFrames'>) =>
  take.frames - take.handleFrames;

/** Changes what the user says about a take; its audio never changes. */
export function changeTake(take: SourceRecord, changes: TakeOfProject): void {
  if (isReadOnly()) return;
  rememberSource({ ...take, ...changes });
  const { project } = useProject.getState();
  if (project) void save(() => storeTake(project.id, take.id, changes));
}

/** On whose sheet a take stands: '' for the open part's, the name of another part; null where on none. */
function partHearing(take: string): string | null {
  const { parts } = useProject.getState();
  const hearing = parts.find((part) => {
    const timeline = timelineOfPart(part.id);
    return timeline !== null && sourcesOf(timeline).has(take);
  });
  if (!hearing) return null;
  return hearing.id === usePart.getState().id ? '' : say` of “${hearing.name}”`;
}

/** Hides a take until the project is closed; then its audio goes. One that is on the sheet stays. */
export function deleteTake(take: SourceRecord): void {
  const where = partHearing(take.id);
  if (where !== null)
    return notify(
      'info',
      say`${take.name} is on the sheet${where}. Put another take in its place, or strike it and close up; then delete it.`,
    );
  choose(take.id, false);
  changeTake(take, { deleted: true });
}

export const restoreTake = (take: SourceRecord) => changeTake(take, { deleted: false });

/**
 * Gives takes that are not heard here to another part, where they can be put in place; those on the sheet
 * stay.
 */
export function moveTakes(takes: readonly SourceRecord[], partId: string): void {
  const onSheet = sourcesOf(usePart.getState().timeline);
  const free = takes.filter(({ id }) => !onSheet.has(id));
  if (free.length < takes.length)
    notify(
      'info',
      say`A take that is on the sheet stays in its part. Move its passage, or put another take in its place first.`,
    );
  for (const take of free) {
    choose(take.id, false);
    changeTake(take, { partId, take: nextTake(partId) });
  }
}

/** Circles the take that is being recorded or heard at the caret, or takes its circle away. */
export function circleAtCaret(): void {
  const { timeline, caret } = usePart.getState();
  const { sources } = useProject.getState();
  const at = Math.min(caret, sheetFramesOf(timeline) - 1);
  if (at < 0) return;
  const [take] = timeline.tracks.flatMap(({ id, table }) => {
    const [piece] = focusedTracks()?.has(id) === false ? [] : table.slice(at, at + 1);
    return piece?.kind === 'audio' ? (sources.get(piece.source) ?? []) : [];
  });
  if (take) changeTake(take, { circled: !take.circled });
}

// — Listening —

export async function listen(take: SourceRecord): Promise<void> {
  if (useTransport.getState().playingTake === take.id) return endPlaying();
  await playTake(take);
}

/**
 * Gains in dB that bring takes to the loudness of the quietest of them, so that louder does not seem better.
 */
export function equalGains(takes: readonly SourceRecord[]): ReadonlyMap<string, number> {
  const loudness = takes.map((take) => take.summary?.loudnessLufs ?? null);
  const known = loudness.filter((value) => value !== null);
  const quietest = Math.min(...known);
  return new Map(takes.map((take, i) => [take.id, loudness[i] === null ? 0 : quietest - (loudness[i] ?? 0)]));
}

/**
 * Plays one of the takes that are compared, at equal loudness; while another one plays, from the same moment
 * on.
 */
export async function playCompared(take: SourceRecord, compared: readonly SourceRecord[]): Promise<void> {
  const from = takeFrame() ?? 0;
  await playTake(take, from >= takeLength(take) ? 0 : from, equalGains(compared).get(take.id) ?? 0);
}

// — On the sheet —

const placesOf = (places: readonly TakePlace[], id: string) => places.filter(({ source }) => source === id);

/**
 * Puts a take where it belongs, in place of what is there now; one that belongs nowhere goes in at the caret.
 */
export function putInPlace(take: SourceRecord): void {
  const { timeline, caret } = usePart.getState();
  const places = placesOf(timeline.places, take.id);
  if (places.length === 0) {
    edit(say`insert take ${take.take}`, (before) =>
      insertRecording(before, recordedOf(take, takeLength(take)), caret),
    );
    return;
  }
  const changed = edit(say`hear take ${take.take}`, (before) =>
    places.reduce(
      (result, { at, length }) => hearTake(result, take.id, { from: at, to: at + length }),
      before,
    ),
  );
  if (!changed) notify('info', say`${take.name} is what is heard in its place already.`);
}

/** The takes that could be heard in the selection, and those that are. */
export function stackOfSelection(): { takes: SourceRecord[]; heard: ReadonlySet<string> } {
  const { timeline, selection } = usePart.getState();
  const { sources } = useProject.getState();
  if (!selection) return { takes: [], heard: new Set() };
  const takes = [...stackAt(timeline, selection).keys()].flatMap((id) => sources.get(id) ?? []);
  const heard = new Set(
    timeline.tracks.flatMap(({ table }) =>
      clockOf(timeline)
        .heardIn(selection)
        .flatMap(({ from, to }) => table.slice(from, to))
        .flatMap((piece) => (piece.kind === 'audio' ? [piece.source] : [])),
    ),
  );
  return { takes: takes.filter(({ deleted }) => !deleted).sort((a, b) => a.take - b.take), heard };
}

/** Lets a take be heard in the selection. */
export function hearInSelection(take: SourceRecord): void {
  const { selection } = usePart.getState();
  if (selection) edit(say`hear take ${take.take}`, (before) => hearTake(before, take.id, selection));
}
