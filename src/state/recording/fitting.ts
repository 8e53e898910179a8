import { decimal, say } from '@/texts/say';
import type { Spoken } from '@/core/cues/againstGuide';
import { fitPieces, planFit, type FitPlan } from '@/core/cues/fitting';
import { secondsToFrames } from '@/core/base/units';
import { hearCueTake } from '@/core/timeline/cueTakes';
import type { Cue } from '@/core/timeline/cues';
import type { Recorded } from '@/core/timeline/overlay';
import { peakFrames } from '@/core/timeline/peaks';
import { silence, type Piece } from '@/core/timeline/pieces';
import { recordedOf, createSource, finishSource, removeSource } from '@/storage/sources';
import { newId } from '@/storage/projects';
import { importClient, runShown } from '../page/jobs';
import { notify } from '../page/notices';
import { isReadOnly, rateOfProject, rememberSource, type SourceRecord } from '../project/openProject';
import { cueSettings } from '../project/settings';
import { edit, usePart } from '../sheet/part';
import { measureTake, type MeasuredTake } from './cueFigures';
import { nextCueTake, tracksOfCue } from './cuePlan';
import { chosenTake, takeAsPlaced, takesOfChosenCue } from './cueTakes';
import { takeLength } from './takes';

/** A pause keeps at least so much. */
const leastPauseSeconds = 0.08;

/** Fits the take that is heard in the chosen cue. */
export async function fitChosenTake(): Promise<void> {
  const chosen = takesOfChosenCue();
  if (!chosen) return;
  const heard = chosenTake(chosen.cue);
  const take = chosen.takes.find(({ id }) => id === heard);
  if (take) await fitTake(chosen.cue, take);
  else notify('info', say`No take of cue ${chosen.cue.number} is heard: choose one first.`);
}

/**
 * Makes a take begin with the guide (or its cue) and last as long: moved, its pauses changed, and only then
 * faster or slower up to the limit that is set. One step that can be undone; the recording stays as it was.
 */
export async function fitTake(cue: Cue, take: SourceRecord): Promise<void> {
  const { id: partId } = usePart.getState();
  if (!partId || isReadOnly()) return;
  const stands = recordedFrom(cue, take);
  const whole = { from: stands, recorded: recordedInCue(cue, take) };
  const measured = await measureTake(cue, whole);
  if (!measured)
    return notify('info', say`Take ${take.take} cannot be fitted: nobody is heard speaking in it.`);
  const rateHz = rateOfProject();
  const spoken = spokenOf(take, stands, measured);
  const plan = planFit(spoken, Math.round(measured.figures.long * rateHz), {
    stretch: cueSettings().stretch,
    pauseFrames: secondsToFrames(leastPauseSeconds, rateHz),
  });
  const made = plan.speed === 1 ? take : await stretchedTake(cue, take, plan.speed, partId);
  if (!made || usePart.getState().id !== partId) return;
  const begins = Math.round(spoken.from / plan.speed);
  const wanted = stands + spoken.from - Math.round(measured.figures.late * rateHz);
  const { placement } = takeAsPlaced(cue, take);
  const from = Math.max(0, wanted - begins);
  const recorded = fittedPieces(recordedInCue(cue, made), made, spoken, plan, Math.max(0, begins - wanted));
  const done = edit(say`fit take ${take.take} of cue ${cue.number}`, (before) =>
    hearCueTake(
      before,
      recorded,
      { ...placement, from, to: Math.max(cue.to, endOf(recorded, from)) },
      made.id,
    ),
  );
  notify(done ? 'success' : 'info', done ? told(take, measured, plan) : say`It fits as it is.`);
}

const endOf = (recorded: ReadonlyMap<string, readonly Piece[]>, from: number) =>
  from +
  Math.max(...[...recorded.values()].map((pieces) => pieces.reduce((sum, { length }) => sum + length, 0)));

/** A take as it was recorded, on the tracks of a cue alone: the others are of those who spoke beside it. */
function recordedInCue(cue: Cue, take: SourceRecord): Recorded {
  const whole = recordedOf(take, takeLength(take));
  const tracks = tracksOfCue(cue);
  const own = [...whole].filter(([track]) => tracks.has(track));
  return own.length > 0 ? new Map(own) : whole;
}

/** The sheet frame at which a take begins as it was recorded, whatever has been cut out of it since. */
function recordedFrom(cue: Cue, take: SourceRecord): number {
  const { placement, recorded } = takeAsPlaced(cue, take);
  const [[piece]] = recorded.values();
  return placement.from - (piece.kind === 'audio' ? piece.from - take.handleFrames : 0);
}

/** Where somebody speaks in a take, in its own frames. */
function spokenOf(take: SourceRecord, stands: number, { levels, spoken }: MeasuredTake): Spoken {
  const within = (step: number) =>
    Math.min(takeLength(take), Math.max(0, levels.from + step * peakFrames - stands));
  const range = ({ from, to }: { from: number; to: number }) => ({ from: within(from), to: within(to) });
  return { ...range(spoken), pauses: spoken.pauses.map(range) };
}

/** The pieces of a fitted take by track, without its first `skipped` frames. */
function fittedPieces(whole: Recorded, take: SourceRecord, spoken: Spoken, plan: FitPlan, skipped: number) {
  const frames = takeLength(take);
  const pieces = fitPieces(spoken, plan, frames);
  return new Map(
    [...whole].map(([track, [piece]]) => {
      const fitted = pieces.map((one): Piece => {
        if (one.kind === 'room' || piece.kind !== 'audio')
          return silence(one.kind === 'room' ? one.frames : 0);
        const from = Math.max(one.from, skipped);
        return { ...piece, from: piece.from + from, length: Math.max(0, one.to - from) };
      });
      return [track, fitted.filter(({ length }) => length > 0)];
    }),
  );
}

/** The take at another speed, as a take of its own; null when that was cancelled or failed, which is told. */
async function stretchedTake(
  cue: Cue,
  take: SourceRecord,
  speed: number,
  partId: string,
): Promise<SourceRecord | null> {
  const number = nextCueTake(cue.id);
  const source: SourceRecord = {
    ...take,
    id: newId(),
    partId,
    cue: cue.id,
    take: number,
    name: say`Cue ${cue.number}, take ${number}`,
    note: say`take ${take.take}, fitted`,
    state: 'receiving',
    frames: 0,
    handleFrames: Math.round(take.handleFrames / speed),
    circled: false,
  };
  return runShown(say`Fitting ${take.name}`, async (options) => {
    try {
      await createSource(source);
      const { id, frames, channels, rateHz } = take;
      const input = { source: { id, frames, channels }, sourceId: source.id, speed, rateHz };
      const made = await importClient.run('stretch', input, options);
      const kept = { ...source, ...made, state: 'kept' as const };
      await finishSource(source.id, kept);
      rememberSource(kept);
      return kept;
    } catch (thrown) {
      await removeSource(source.id).catch(() => undefined);
      throw thrown;
    }
  });
}

const seconds = (frames: number) => decimal(Math.abs(frames) / rateOfProject(), 2);

/** What was done, and what is left. */
function told(
  { take }: SourceRecord,
  { figures }: MeasuredTake,
  { pauses, speed, restFrames }: FitPlan,
): string {
  const given = pauses.reduce((sum, one) => sum + one, 0);
  const percent = decimal(Math.abs((speed - 1) * 100), 1);
  const parts = [
    Math.abs(figures.late) >= 0.005 &&
      say`moved ${decimal(Math.abs(figures.late), 2)} s ${figures.late > 0 ? say`earlier` : say`later`}`,
    given !== 0 && say`pauses ${seconds(given)} s ${given > 0 ? say`longer` : say`shorter`}`,
    speed !== 1 && `${percent} % ${speed > 1 ? say`faster` : say`slower`}`,
  ].filter(Boolean);
  const rest =
    Math.abs(restFrames) > 0.02 * rateOfProject()
      ? say` It is still ${seconds(restFrames)} s too ${restFrames > 0 ? say`long` : say`short`}: more than ${decimal(cueSettings().stretch * 100, 0)} % is not allowed.`
      : '';
  return say`Take ${take} is fitted: ${parts.join(', ') || say`put in its place`}.${rest}`;
}
