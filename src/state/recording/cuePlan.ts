import {
  cuePlacement,
  takesAcross,
  tracksOfCue as tracksOf,
  type CuePlacement,
} from '@/core/timeline/cueTakes';
import type { Cue } from '@/core/timeline/cues';
import { routeOf } from '@/core/recording/routing';
import { secondsToFrames } from '@/core/base/units';
import type { SourceRecord } from '@/storage/schema';
import { cueNow } from '../cues/cues';
import { rateOfProject, sourceList, useProject } from '../project/openProject';
import { cueSettings } from '../project/settings';
import { usePart } from '../sheet/part';
import { armedNow, type ArmedTrack } from './input';

/** Kept before the line begins: whoever starts early is on the sheet from the first breath. */
const leadSeconds = 0.5;

/** Where a take of a cue goes as cues are recorded now. */
export function placementOfCue(cue: Cue): CuePlacement {
  const rateHz = rateOfProject();
  const { end, runOutSeconds } = cueSettings();
  return cuePlacement(
    cue,
    secondsToFrames(leadSeconds, rateHz),
    end === 'out' ? secondsToFrames(runOutSeconds, rateHz) : null,
  );
}

/** Where Record would put a take of the cue that is chosen; null without one. */
export function cuePlacementNow(): CuePlacement | null {
  const cue = cueNow();
  return cue && placementOfCue(cue);
}

/**
 * The tracks a cue is recorded on: the character's own one, from its own microphone where it is armed and
 * from the first that is armed otherwise (one performer speaks several characters); all that are armed where
 * the character has none.
 */
export function armedForCue(cue: Cue): ArmedTrack[] {
  const armed = armedNow();
  const { timeline } = usePart.getState();
  const [own, another] = tracksOf(timeline, cue);
  if (another || armed.length === 0 || cueSettings().voices === 'armed') return armed;
  const index = timeline.tracks.findIndex(({ id }) => id === own);
  const { channel, input } = routeOf(own, index, useProject.getState().project?.routes ?? []);
  const itself = armed.find(({ id }) => id === own);
  const microphone =
    itself ?? armed.find((one) => one.channel === channel && one.input === input) ?? armed[0];
  return [{ ...microphone, id: own, name: timeline.tracks[index].name }];
}

/** The tracks on which takes of a cue of the open part are heard. */
export const tracksOfCue = (cue: Cue): ReadonlySet<string> => tracksOf(usePart.getState().timeline, cue);

const isOf = (cue: string) => (source: SourceRecord) =>
  source.cue === cue && source.partId === usePart.getState().id;

/**
 * The takes of a cue of the open part: its own in the order they were recorded, then those of other cues that
 * have its time as well.
 */
export function takesOfCue(cue: Cue, sources: Iterable<SourceRecord>): SourceRecord[] {
  const all = [...sources].filter(({ deleted }) => !deleted);
  const across = takesAcross(usePart.getState().timeline, cue);
  const byTime = (a: SourceRecord, b: SourceRecord) => a.take - b.take || a.startedAt - b.startedAt;
  return [
    ...all.filter(isOf(cue.id)).sort(byTime),
    ...all.filter(({ id, cue: own }) => own && own !== cue.id && across.has(id)).sort(byTime),
  ];
}

/** The own takes of all cues of the open part. */
export function takesByCue(sources: Iterable<SourceRecord>): ReadonlyMap<string, SourceRecord[]> {
  const { id } = usePart.getState();
  const takes = new Map<string, SourceRecord[]>();
  for (const source of sources)
    if (source.cue && source.partId === id && !source.deleted)
      takes.set(source.cue, [...(takes.get(source.cue) ?? []), source]);
  return takes;
}

/** The number the next take of a cue has. */
export const nextCueTake = (cue: string): number =>
  sourceList()
    .filter(isOf(cue))
    .reduce((highest, { take }) => Math.max(highest, take), 0) + 1;
