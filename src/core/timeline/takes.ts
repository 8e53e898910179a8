import { exhaustive } from '../base/errors';
import { placeCueTake, type CuePlacement } from './cueTakes';
import { addMarks, insertTime, mapTables, removeMarks, removeTime, stetAll, strike, within } from './edits';
import { isInStep, recordedTo } from './guides';
import { fallSilent, overlay, recordedFrames, type Recorded } from './overlay';
import type { Range } from './range';
import { sheetFramesOf, type TakePlace, type Timeline } from './timeline';
import { padTo } from './tracks';

/** Continue: a recording at the end of the part. Tracks that were not armed get silence for that time. */
export const appendRecording = (timeline: Timeline, recorded: Recorded, keptMarks?: ReadonlySet<string>) =>
  overlay(padTo(timeline, sheetFramesOf(timeline)), recorded, sheetFramesOf(timeline), keptMarks);

/**
 * Retake: the recording overwrites what follows `at` as far as it goes. What is left over of the abandoned
 * sentence, up to sheet frame `abandonedTo`, is struck; where only some tracks were armed it falls silent on
 * those, because striking takes the time of all.
 */
export function retake(
  timeline: Timeline,
  recorded: Recorded,
  at: number,
  abandonedTo: number,
  keptMarks?: ReadonlySet<string>,
): Timeline {
  const laid = overlay(timeline, recorded, at, keptMarks);
  const rest = { from: at + recordedFrames(recorded), to: Math.min(abandonedTo, sheetFramesOf(timeline)) };
  if (rest.to <= rest.from) return laid;
  if (laid.tracks.every(({ id }) => recorded.has(id))) return strike(laid, rest);
  return fallSilent(laid, recorded, rest);
}

/**
 * Insert: a gap opens at `at`, everything after it moves. Marks set while recording stand in the gap already.
 */
export function insertRecording(
  timeline: Timeline,
  recorded: Recorded,
  at: number,
  keptMarks: ReadonlySet<string> = new Set(),
): Timeline {
  const kept = timeline.marks.filter(({ id }) => keptMarks.has(id));
  const others = removeMarks(timeline, ({ id }) => keptMarks.has(id));
  const opened = insertTime(others, at, recordedFrames(recorded));
  return overlay(addMarks(opened, kept), recorded, at, keptMarks);
}

/**
 * Patch with the new reading's own length: it stands in the place of the selection, and what follows moves by
 * the difference. With other tracks beside it nothing may be cut from them: a shorter reading then leaves
 * silence behind it.
 */
export function replaceRange(
  timeline: Timeline,
  recorded: Recorded,
  { from, to }: Range,
  keptMarks?: ReadonlySet<string>,
): Timeline {
  const length = recordedFrames(recorded);
  const more = length - (to - from);
  if (more > 0) return overlay(insertTime(timeline, to, more), recorded, from, keptMarks);
  const laid = overlay(timeline, recorded, from, keptMarks);
  const rest = { from: from + length, to };
  if (laid.tracks.every(({ id }) => recorded.has(id))) return removeTime(laid, rest);
  return fallSilent(laid, recorded, rest);
}

/** Where a take goes when it ends, or when it is recovered; sheet frames as they were when it began. */
export type Placement =
  | { readonly mode: 'continue' }
  | { readonly mode: 'retake'; readonly at: number }
  | { readonly mode: 'insert'; readonly at: number }
  | {
      readonly mode: 'patch';
      readonly from: number;
      readonly to: number;
      readonly length: 'selection' | 'reading';
    }
  | CuePlacement;

/**
 * Where a reading on these tracks is continued: at the end of the part, or, where the part is in step and has
 * its end already, where the reading ends; at `otherwise` while there is none.
 */
export function continuation(
  timeline: Timeline,
  trackIds: ReadonlySet<string>,
  otherwise: number,
): Placement {
  if (!isInStep(timeline)) return { mode: 'continue' };
  const to = recordedTo(timeline, trackIds);
  return { mode: 'retake', at: to > 0 ? to : otherwise };
}

/** The sheet frame at which a take placed so begins. */
export function placementStart(timeline: Timeline, placement: Placement): number {
  switch (placement.mode) {
    case 'continue':
      return sheetFramesOf(timeline);
    case 'retake':
    case 'insert':
      return placement.at;
    case 'patch':
    case 'cue':
      return placement.from;
    default:
      return exhaustive(placement);
  }
}

/** The sheet frame at which the talent begins: a run-up ends there. */
export const punchOf = (timeline: Timeline, placement: Placement): number =>
  placement.mode === 'cue' ? placement.in : placementStart(timeline, placement);

export interface PlaceOptions {
  /** Marks set while this take was recorded. */
  keptMarks?: ReadonlySet<string>;
  /** Retake: where the sentence ends in which the new reading stops. */
  abandonedTo?: number;
}

/** Puts a recording where it belongs. A patch that was stopped early replaces only as much as was read. */
export function placeRecording(
  timeline: Timeline,
  recorded: Recorded,
  placement: Placement,
  { keptMarks, abandonedTo = 0 }: PlaceOptions = {},
): Timeline {
  if (placement.mode === 'cue') return placeCueTake(timeline, recorded, placement, keptMarks);
  if (isInStep(timeline)) return placeInStep(timeline, recorded, placement, { keptMarks, abandonedTo });
  switch (placement.mode) {
    case 'continue':
      return appendRecording(timeline, recorded, keptMarks);
    case 'retake':
      return retake(timeline, recorded, placement.at, abandonedTo, keptMarks);
    case 'insert':
      return insertRecording(timeline, recorded, placement.at, keptMarks);
    case 'patch':
      return placement.length === 'reading'
        ? replaceRange(timeline, recorded, placement, keptMarks)
        : overlay(timeline, recorded, placement.from, keptMarks);
    default:
      return exhaustive(placement);
  }
}

/**
 * The same in a part in step, whose time stays: a gap would move it, so the recording overwrites what follows
 * instead; one that is shorter than what it replaces leaves silence.
 */
function placeInStep(
  timeline: Timeline,
  recorded: Recorded,
  placement: Exclude<Placement, CuePlacement>,
  { keptMarks, abandonedTo = 0 }: PlaceOptions,
): Timeline {
  switch (placement.mode) {
    case 'continue':
      return overlay(timeline, recorded, recordedTo(timeline, new Set(recorded.keys())), keptMarks);
    case 'retake':
    case 'insert':
      return retake(timeline, recorded, placement.at, abandonedTo, keptMarks);
    case 'patch': {
      const laid = overlay(timeline, recorded, placement.from, keptMarks);
      const rest = { from: placement.from + recordedFrames(recorded), to: placement.to };
      if (placement.length === 'selection' || rest.to <= rest.from) return laid;
      return fallSilent(laid, recorded, rest);
    }
    default:
      return exhaustive(placement);
  }
}

/** The takes that could be heard in a range, each with its places there, in the order they were recorded. */
export function stackAt(timeline: Timeline, { from, to }: Range): ReadonlyMap<string, TakePlace[]> {
  const stack = new Map<string, TakePlace[]>();
  for (const place of timeline.places) {
    const here = within(place, from, to);
    if (here.length > 0) stack.set(place.source, [...(stack.get(place.source) ?? []), ...here]);
  }
  return stack;
}

/**
 * Lets a take be heard in a range, as far as it reaches; time does not move. What was struck there stands
 * again, on all tracks. `only` keeps it to some tracks.
 */
export function hearTake(
  timeline: Timeline,
  source: string,
  range: Range,
  only: ReadonlySet<string> | null = null,
): Timeline {
  const places = (stackAt(timeline, range).get(source) ?? []).filter(
    ({ track }) => only === null || only.has(track),
  );
  const heard = mapTables(timeline, (table, { id }) =>
    places
      .filter(({ track }) => track === id)
      .reduce(
        (result, { at, from, length, channel }) =>
          result.replace(at, at + length, [{ kind: 'audio', source, channel, from, length, gainDb: 0 }]),
        table,
      ),
  );
  return stetAll(
    heard,
    places.map(({ at, length }) => ({ from: at, to: at + length })),
  );
}
