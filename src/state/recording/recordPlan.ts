import { decimal, say } from '@/texts/say';
import { formatTime } from '@/core/base/units';
import { guidesOf, isInStep } from '@/core/timeline/guides';
import { continuation, type Placement } from '@/core/timeline/takes';
import type { RecordMode, SourceRecord } from '@/storage/schema';
import { cueNow } from '../cues/cues';
import { armedForCue, cuePlacementNow, nextCueTake } from './cuePlan';
import { heardBeside } from './companions';
import { armedNow, missingMicrophone, unreachableNow, useInput, type ArmedTrack } from './input';
import { usePart } from '../sheet/part';
import { cueSettings, recordSettings } from '../project/settings';
import { isReadOnly, rateOfProject, sourceList } from '../project/openProject';
import { useTransport } from '../hearing/transport';

export const modeNames: Record<RecordMode, string> = {
  continue: say`Continue`,
  retake: say`Retake`,
  insert: say`Insert`,
  patch: say`Patch`,
  cue: say`Cue`,
};

/** How Record works in the open part: where there are no cues none is recorded. */
export function recordModeNow(): RecordMode {
  const { mode } = recordSettings();
  const { cueSheet } = usePart.getState().timeline;
  return mode === 'cue' && !cueSheet?.cues.length ? 'continue' : mode;
}

/** The tracks that Record would write: in a cue those of who speaks it. */
export function armedToRecord(): ArmedTrack[] {
  const cue = recordModeNow() === 'cue' ? cueNow() : null;
  return cue ? armedForCue(cue) : armedNow();
}

/** Takes of a part, in the order they were recorded; deleted ones only where asked for. */
export const takesOf = (partId: string | null, sources: Iterable<SourceRecord>, deleted = false) =>
  [...sources]
    .filter(
      (source) =>
        source.partId === partId && (source.role ?? 'take') === 'take' && (deleted || !source.deleted),
    )
    .sort((a, b) => a.take - b.take || a.startedAt - b.startedAt);

export const nextTake = (partId: string | null) =>
  takesOf(partId, sourceList(), true)
    .filter(({ cue }) => !cue)
    .reduce((highest, { take }) => Math.max(highest, take), 0) + 1;

/**
 * Where a take would go now; null for a patch without a selection. A part in step has its end already: there
 * the reading is continued where it ends, over what is to be spoken to.
 */
export function placementNow(): Placement | null {
  const { patchLength } = recordSettings();
  const mode = recordModeNow();
  const { caret, selection, timeline } = usePart.getState();
  switch (mode) {
    case 'cue':
      return cuePlacementNow();
    case 'continue':
      return continuation(timeline, new Set(armedNow().map(({ id }) => id)), caret);
    case 'retake':
    case 'insert':
      return { mode, at: caret };
    case 'patch':
      return selection && { mode, ...selection, length: patchLength };
  }
}

/** Why nothing can be recorded now, or null. */
function obstacle(): string | null {
  const { status } = useInput.getState();
  if (isReadOnly()) return say`read-only here`;
  if (useTransport.getState().mode === 'finishing') return say`storing the take`;
  if (!usePart.getState().id) return say`add a part first`;
  if (status === 'opening') return say`opening the input`;
  const missing = missingMicrophone();
  if (missing) return say`“${missing}” is not there`;
  if (status !== 'open') return say`choose an input first`;
  // A cue is recorded from a microphone that is there, whatever its track would have.
  const isCue = recordModeNow() === 'cue' && cueSettings().voices === 'own';
  const [unreachable] = isCue ? [] : unreachableNow();
  if (unreachable) return say`no input ${unreachable.channel + 1} for ${unreachable.name}`;
  if (armedToRecord().length === 0) return say`no track is armed`;
  if (!placementNow())
    return recordModeNow() === 'cue' ? say`choose a cue first` : say`select what to replace`;
  if (recordSettings().mode === 'insert' && isInStep(usePart.getState().timeline))
    return say`no gap in step with a guide: Retake, or let go of step`;
  return null;
}

/** What Record will do, or why it cannot; shown on the button before it is pressed. */
export function recordIntent(): { can: boolean; label: string } {
  const reason = obstacle();
  if (reason) return { can: false, label: reason };
  const { id, timeline } = usePart.getState();
  const armed = armedToRecord();
  const cue = recordModeNow() === 'cue' ? cueNow() : null;
  const names = timeline.tracks.length > 1 ? `${armed.map(({ name }) => name).join(' + ')} · ` : '';
  return {
    can: true,
    label: say`take ${cue ? nextCueTake(cue.id) : nextTake(id)} · ${names}${describePlacement()}`,
  };
}

/** What is heard while it is recorded, where there is anything else to hear. */
function describeCompanions(placement: Placement | null): string {
  const { timeline } = usePart.getState();
  const guides = guidesOf(timeline);
  if (timeline.tracks.length + guides.length < 2) return '';
  const heard = heardBeside(placement, new Set(armedToRecord().map(({ id }) => id)));
  const names = [...timeline.tracks, ...guides]
    .filter(({ id }) => heard.includes(id))
    .map(({ name }) => name);
  if (names.length > 0) return say`hearing ${names.join(', ')}`;
  if (guides.length > 0) return say`guide not heard`;
  return recordSettings().hearOthers === false ? say`others not heard` : '';
}

function describePlacement(): string {
  const placement = placementNow();
  const { fixedSeconds, keepGoing } = recordSettings();
  const time = (frame: number) => formatTime(frame / rateOfProject(), true);
  const extras = [
    fixedSeconds && placement?.mode !== 'cue' ? `${fixedSeconds} s` : '',
    keepGoing ? say`P: next part` : '',
    describeCompanions(placement),
  ].filter(Boolean);
  const where = () => {
    switch (placement?.mode) {
      case 'cue':
        return cueSettings().end === 'out' ? say`to its end` : say`runs on`;
      case 'retake':
        return say`over ${time(placement.at)} on`;
      case 'insert':
        return say`gap at ${time(placement.at)}`;
      case 'patch':
        return placement.length === 'selection'
          ? say`exactly ${decimal((placement.to - placement.from) / rateOfProject(), 1)} s`
          : say`selection, own length`;
      default:
        return say`at the end`;
    }
  };
  return [where(), ...extras].join(' · ');
}
