import { hearCueTake, heardTakes, originOfTake, type CuePlacement } from '@/core/timeline/cueTakes';
import type { Cue } from '@/core/timeline/cues';
import { recordedOf } from '@/storage/sources';
import type { SourceRecord } from '@/storage/schema';
import { cueNow } from '../cues/cues';
import { notify } from '../page/notices';
import { useProject } from '../project/openProject';
import { edit, usePart } from '../sheet/part';
import { placementOfCue, takesOfCue, tracksOfCue } from './cuePlan';
import { takeLength } from './takes';

/** Id of the take that is heard in a cue; null where there is none. */
export function chosenTake(cue: Cue): string | null {
  const { timeline } = usePart.getState();
  return heardTakes(timeline, cue, tracksOfCue(cue))[0] ?? null;
}

/** Where a take of a cue stands: where it was put, or where one that is recorded now would. */
export function placementOfTake(cue: Cue, take: SourceRecord): CuePlacement {
  const { timeline } = usePart.getState();
  const usual = placementOfCue(cue);
  const origin = originOfTake(timeline.places, take.id);
  if (origin === null) return usual;
  const from = origin + take.handleFrames;
  return { ...usual, from, to: from + takeLength(take) };
}

/** Lets a take of a cue be heard in its place. */
export function hearTakeOfCue(cue: Cue, take: SourceRecord): void {
  if (chosenTake(cue) === take.id) return;
  const placement = placementOfTake(cue, take);
  edit(`hear take ${take.take} of cue ${cue.number}`, (before) =>
    hearCueTake(before, recordedOf(take, takeLength(take)), placement, take.id),
  );
}

/** Goes through the takes of the chosen cue: the one before or after the one that is heard is heard. */
export function stepTakeOfCue(by: -1 | 1): void {
  const cue = cueNow();
  if (!cue) return notify('info', 'Choose a cue first.');
  const { id } = usePart.getState();
  const takes = takesOfCue(cue.id, id, useProject.getState().sources.values());
  if (takes.length === 0) return notify('info', `Cue ${cue.number} has no takes yet.`);
  const at = takes.findIndex((take) => take.id === chosenTake(cue));
  const next = at < 0 ? (by > 0 ? 0 : takes.length - 1) : (at + by + takes.length) % takes.length;
  hearTakeOfCue(cue, takes[next]);
}
