import { say } from '@/texts/say';
import { hearCueTake, heardTakes, takeInPlace, type CuePlacement } from '@/core/timeline/cueTakes';
import type { Cue } from '@/core/timeline/cues';
import { recordedFrames, type Recorded } from '@/core/timeline/overlay';
import { recordedOf } from '@/storage/sources';
import type { SourceRecord } from '@/storage/schema';
import { cueNow } from '../cues/cues';
import { notify } from '../page/notices';
import { useProject } from '../project/openProject';
import { edit, usePart } from '../sheet/part';
import { placementOfCue, takesOfCue, tracksOfCue } from './cuePlan';
import { changeTake, takeLength } from './takes';

/** Id of the take that is heard in a cue; null where there is none. */
export function chosenTake(cue: Cue): string | null {
  const { timeline } = usePart.getState();
  return heardTakes(timeline, cue, tracksOfCue(cue))[0] ?? null;
}

/** A take of a cue with where it stands: where it was put, or where one that is recorded now would. */
export function takeAsPlaced(cue: Cue, take: SourceRecord): { placement: CuePlacement; recorded: Recorded } {
  const { places } = usePart.getState().timeline;
  const usual = placementOfCue(cue);
  const tracks = tracksOfCue(cue);
  const own = places.filter(({ track }) => tracks.has(track));
  const placed = takeInPlace(take.cue === cue.id ? places : own, take.id);
  if (!placed) return { placement: usual, recorded: recordedOf(take, takeLength(take)) };
  const to = placed.from + recordedFrames(placed.recorded);
  return { placement: { ...usual, from: placed.from, to }, recorded: placed.recorded };
}

/** What a take is called beside a cue: one of another cue bears that one's name. */
export const nameOfTake = (cue: Cue, take: SourceRecord): string =>
  take.cue === cue.id ? say`take ${take.take} of cue ${cue.number}` : take.name;

/** Lets a take of a cue be heard in its place. */
export function hearTakeOfCue(cue: Cue, take: SourceRecord): void {
  if (chosenTake(cue) === take.id) return;
  const { placement, recorded } = takeAsPlaced(cue, take);
  edit(say`hear ${nameOfTake(cue, take)}`, (before) => hearCueTake(before, recorded, placement, take.id));
}

/** The takes of the chosen cue; told where there are none. */
export function takesOfChosenCue(): { cue: Cue; takes: SourceRecord[] } | null {
  const cue = cueNow();
  if (!cue) {
    notify('info', say`Choose a cue first.`);
    return null;
  }
  const takes = takesOfCue(cue, useProject.getState().sources.values());
  if (takes.length > 0) return { cue, takes };
  notify('info', say`Cue ${cue.number} has no takes yet.`);
  return null;
}

/** Goes through the takes of the chosen cue: the one before or after the one that is heard is heard. */
export function stepTakeOfCue(by: -1 | 1): void {
  const chosen = takesOfChosenCue();
  if (!chosen) return;
  const { cue, takes } = chosen;
  const at = takes.findIndex(({ id }) => id === chosenTake(cue));
  const next = at < 0 ? (by > 0 ? 0 : takes.length - 1) : (at + by + takes.length) % takes.length;
  hearTakeOfCue(cue, takes[next]);
}

/** Circles the take that is heard in the chosen cue, or takes its circle away. */
export function circleTakeOfCue(): void {
  const chosen = takesOfChosenCue();
  const take = chosen?.takes.find(({ id }) => id === chosenTake(chosen.cue));
  if (take) changeTake(take, { circled: !take.circled });
}
