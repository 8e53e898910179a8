import { say } from '@/texts/say';
import { contextFrame } from '@/audio/contextFrame';
import { addTrack } from '@/core/timeline/tracks';
import type { Timeline } from '@/core/timeline/timeline';
import type { CuePlacement } from '@/core/timeline/cueTakes';
import { continuation, placementStart, type Placement } from '@/core/timeline/takes';
import { currentEngine } from '../hearing/engine';
import { useTransport } from '../hearing/transport';
import { notify } from '../page/notices';
import { partRecord, useProject } from '../project/openProject';
import { editPart, timelineOfPart, usePart } from '../sheet/part';
import { addPart, selectPart } from '../sheet/parts';
import { punchBefore } from '../sheet/sentenceSteps';
import type { ArmedTrack } from './input';
import { recordIntent } from './recordPlan';
import { begin, beginReading, newTake, runningTake, runOn, stopAt, stopRecording, tell } from './recording';

const get = useTransport.getState;

// — Retaking sentence by sentence —

/**
 * While sentences are retaken one after another: where the first one was given up, how many further back, and
 * by which take.
 */
let retaking: { head: number; back: number; takeId: string } | null = null;

/**
 * Stops, goes back to the start of the sentence that is being read, and punches in there after a run-up;
 * during that run-up, one sentence further back. What was read stays in the stack of takes.
 */
export async function retakeSentence(): Promise<void> {
  const { mode, live } = get();
  const mine = runningTake();
  if (!mine || (mode !== 'recording' && mode !== 'rolling')) return;
  const goesOn = retaking?.takeId === mine.live.sourceId ? retaking : null;
  const { head, back } =
    mode === 'recording' && live
      ? { head: live.startFrame + live.frames, back: 0 }
      : goesOn
        ? { head: goesOn.head, back: goesOn.back + 1 }
        : { head: mine.live.startFrame, back: 0 };
  const before = mine.placement;
  await stopRecording();
  // A cue is short: it is said again as a whole.
  if (before.mode === 'cue') return get().mode === 'idle' ? begin(before) : undefined;
  const punch = await punchBefore(head, back, new Set(mine.live.trackIds));
  if (get().mode !== 'idle' || recordIntent().can === false) return;
  const begun = begin(retakePlacement(before, punch, head));
  const next = runningTake();
  retaking = next && { head, back, takeId: next.live.sourceId };
  await begun;
}

/** A sentence of an insert or patch is replaced inside it: what follows on the sheet is not overwritten. */
function retakePlacement(before: Exclude<Placement, CuePlacement>, punch: number, head: number): Placement {
  switch (before.mode) {
    case 'continue':
    case 'retake':
      return { mode: 'retake', at: punch };
    case 'insert':
      return { mode: 'patch', from: punch, to: Math.max(punch, head), length: 'reading' };
    case 'patch':
      return before.length === 'selection'
        ? { ...before, from: Math.min(punch, before.to) }
        : { ...before, from: punch, to: Math.max(punch, head) };
  }
}

// — Several parts in one go —

/**
 * The tracks of another part that take over from those that are armed here; staves it lacks are added to it.
 */
function tracksIn(partId: string, armed: readonly ArmedTrack[]): ArmedTrack[] {
  const here = usePart.getState().timeline.tracks;
  const withStaves = (timeline: Timeline) =>
    armed
      .filter(({ id }) => !timeline.tracks.some((track) => track.id === id))
      .reduce((result, { id, name }) => {
        const side = here.find((track) => track.id === id)?.side;
        return addTrack(result, { id, name, ...(side && { side }) });
      }, timeline);
  editPart(partId, say`add track`, withStaves);
  return [...armed];
}

/** A part to go on in: the next one, or a new one with the staves of this. */
async function followingPart(): Promise<string | null> {
  const { parts } = useProject.getState();
  const { id, timeline } = usePart.getState();
  const next = parts[parts.findIndex((part) => part.id === id) + 1];
  if (next) return next.id;
  return addPart(say`Part ${parts.length + 1}`, false, timeline.tracks);
}

/** Ends the take at this moment and goes on with the next part, without a sample between them lost. */
export async function startNextPart(): Promise<void> {
  const before = runningTake();
  const engine = currentEngine();
  if (!before || !engine || get().mode !== 'recording') return;
  const { context } = engine;
  const pressed = contextFrame(context);
  const following = await followingPart();
  const timeline = following ? timelineOfPart(following) : null;
  if (!following || !timeline || !partRecord(following))
    return notify('warning', say`There is no next part to go on in: the recording goes on here.`);
  // Storage took its time: the take may have been stopped meanwhile.
  if (runningTake() !== before || get().mode !== 'recording') return;
  const tracks = tracksIn(following, before.tracks);
  const placement = continuation(timeline, new Set(tracks.map(({ id }) => id)), 0);
  const next = newTake(following, placement, placementStart(timeline, placement), tracks);
  // The recorder still has the last seconds: the new take begins where the key was pressed.
  const at = Math.max(pressed, contextFrame(context) - Math.round(heldSeconds * context.sampleRate));
  next.atFrame = at;
  runOn(next);
  stopAt(before, at);
  tell(next, waitMs);
  await before.done;
  await selectPart(following);
  if (runningTake() === next && get().mode === 'recording') useTransport.setState({ live: next.live });
  beginReading(next);
}

/** A take whose first frame has not come by then has no input. */
const waitMs = 4000;
const heldSeconds = 1.5;
