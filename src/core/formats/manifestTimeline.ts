import { say } from '../../texts/say';
import {
  apply,
  inverse,
  type Difference,
  type Splice,
  type Step,
  type StoredGuide,
  type StoredTrack,
} from '../timeline/history';
import { silence } from '../timeline/pieces';
import { union } from '../timeline/range';
import { loadTimeline } from '../timeline/stored';
import { historyOfStruckPieces, type StruckStep, type StruckTimeline } from '../timeline/struckPieces';
import { sheetFramesOf, type Timeline } from '../timeline/timeline';
import { readCue, readCueHead, readCueSheet } from './manifestCues';
import { limits } from './manifestLimits';
import {
  readGuides,
  readMark,
  readMarks,
  readOutput,
  readPiece,
  readPlace,
  readPlaces,
  readRange,
  readTrack,
  readTracks,
} from './manifestLists';
import { readMix } from './manifestMix';
import { bad, given, idOf, list, record, text, whole, type ReadingContext } from './manifestValues';

function readSplice<T>(
  value: unknown,
  read: (value: unknown, context: ReadingContext) => T,
  context: ReadingContext,
): Splice<T> | null {
  if (!given(value)) return null;
  const raw = record(value, context, say`a step of the history`);
  const all = (items: unknown) =>
    list(items, limits.pieces, context, 'piece').map((one) => read(one, context));
  return {
    at: whole(raw.at, 0, limits.pieces, context, say`a step of the history`),
    removed: all(raw.removed),
    added: all(raw.added),
  };
}

const mixOrNull = (value: unknown, context: ReadingContext) =>
  given(value) ? readMix(value, context) : null;

const outputOrNull = (value: unknown, context: ReadingContext) =>
  given(value) ? readOutput(value, context) : null;

const headOrNull = (value: unknown, context: ReadingContext) =>
  given(value) ? readCueHead(value, context) : null;

function readDifference(value: unknown, context: ReadingContext): Difference {
  const raw = record(value, context, say`a step of the history`);
  const output = given(raw.output) ? record(raw.output, context, say`a step of the history`) : null;
  const guides = given(raw.guides) ? record(raw.guides, context, say`a step of the history`) : null;
  const mix = given(raw.mix) ? record(raw.mix, context, say`a step of the history`) : null;
  const cueHead = given(raw.cueHead) ? record(raw.cueHead, context, say`a step of the history`) : null;
  return {
    tracks: list(raw.tracks, limits.tracks, context, 'track').map((one) => {
      const track = record(one, context, say`a step of the history`);
      const pieces = readSplice(track.pieces, readPiece, context);
      if (!pieces) throw bad(context, say`a step of the history`);
      return { id: idOf(track.id, context, say`the track of a step`), pieces };
    }),
    struck: readSplice(raw.struck, readRange, context),
    marks: readSplice(raw.marks, readMark, context),
    places: readSplice(raw.places, readPlace, context),
    staves: readSplice(raw.staves, readTrack, context),
    output: output && {
      before: outputOrNull(output.before, context),
      after: outputOrNull(output.after, context),
    },
    mix: mix && { before: mixOrNull(mix.before, context), after: mixOrNull(mix.after, context) },
    guides: guides && {
      before: readGuides(guides.before, context),
      after: readGuides(guides.after, context),
    },
    cues: readSplice(raw.cues, readCue, context),
    cueHead: cueHead && {
      before: headOrNull(cueHead.before, context),
      after: headOrNull(cueHead.after, context),
    },
  };
}

function readStep(value: unknown, context: ReadingContext): Step {
  const raw = record(value, context, say`a step of the history`);
  return {
    label: text(raw.label, limits.nameLetters, context, say`the name of a step`),
    difference: readDifference(raw.difference, context),
  };
}

/** A state of the history that could be worked on. */
function isSound(timeline: Timeline, { mostFrames }: ReadingContext): boolean {
  const { tracks, struck, marks } = timeline;
  const end = sheetFramesOf(timeline);
  return (
    tracks.length > 0 &&
    tracks.length <= limits.tracks &&
    end <= mostFrames &&
    marks.length <= limits.marks &&
    tracks.every(({ table }) => table.frames === end && table.pieces.length <= limits.pieces) &&
    struck.every(({ to }, index) => to <= end && (index === 0 || struck[index - 1].to < struck[index].from))
  );
}

/** The steps that lead from the present back, and on, for as far as each fits the state before it. */
function fitting(present: Timeline, steps: readonly Step[], historyAt: number, context: ReadingContext) {
  const walk = (list: readonly Step[], turn: (step: Step) => Difference): Step[] => {
    const fine: Step[] = [];
    let timeline = present;
    for (const step of list) {
      try {
        timeline = apply(timeline, turn(step));
      } catch {
        break;
      }
      if (!isSound(timeline, context)) break;
      fine.push(step);
    }
    return fine;
  };
  const undone = walk(steps.slice(0, historyAt).reverse(), ({ difference }) => inverse(difference)).reverse();
  const redone = walk(steps.slice(historyAt), ({ difference }) => difference);
  return { steps: [...undone, ...redone], historyAt: undone.length };
}

/** All tracks as long as the longest, and none shorter than a guide. */
function padded(tracks: readonly StoredTrack[], guides: readonly StoredGuide[] = []): StoredTrack[] {
  const lengths = [...tracks, ...guides].map(({ pieces }) =>
    pieces.reduce((sum, { length }) => sum + length, 0),
  );
  const end = Math.max(...lengths);
  return tracks.map((track, index) =>
    lengths[index] === end ? track : { ...track, pieces: [...track.pieces, silence(end - lengths[index])] },
  );
}

export interface ReadTimeline {
  readonly timeline: Timeline;
  readonly history: readonly Step[];
  readonly historyAt: number;
  /** Steps that do not fit and were left out. */
  readonly dropped: number;
}

/**
 * The timeline and the history of a part, as today's. A history is gone through once: what does not fit is
 * dropped, since undoing it would throw; the sheet itself is whole then all the same.
 */
export function readTimeline(
  raw: { readonly timeline: unknown; readonly history: unknown; readonly historyAt: unknown },
  context: ReadingContext,
): ReadTimeline {
  const stored = record(raw.timeline, context, say`the sheet`);
  const rest = {
    marks: readMarks(stored.marks, context),
    ...(given(stored.output) && { output: readOutput(stored.output, context) }),
    ...(given(stored.mix) && { mix: readMix(stored.mix, context) }),
    ...(given(stored.guides) && { guides: readGuides(stored.guides, context) }),
    ...(given(stored.cueSheet) && { cueSheet: readCueSheet(stored.cueSheet, context) }),
  };
  const places = given(stored.places) ? { places: readPlaces(stored.places, context) } : {};
  const tracks = readTracks(stored.tracks, context);
  const { steps, historyAt, asked } = readHistory(raw, context);
  const kept = (timeline: Timeline, told: { steps: Step[]; historyAt: number }): ReadTimeline => {
    const { steps: history, historyAt: at } = fitting(timeline, told.steps, told.historyAt, context);
    return { timeline, history, historyAt: at, dropped: asked - history.length };
  };
  if (context.struckPieces) {
    const old = { tracks, ...rest, ...places } as unknown as StruckTimeline;
    const told = historyOfStruckPieces(old, steps as unknown as StruckStep[], historyAt);
    return kept(loadTimeline(old as never), told);
  }
  const whole = padded(tracks, rest.guides);
  const end = Math.max(0, ...whole.map(({ pieces }) => pieces.reduce((sum, { length }) => sum + length, 0)));
  const struck = list(stored.struck ?? [], limits.pieces, context, say`struck passage`)
    .map((one) => readRange(one, context))
    .map(({ from, to }) => ({ from: Math.min(from, end), to: Math.min(to, end) }));
  const timeline = loadTimeline({ tracks: whole, struck: union(struck), places: [], ...places, ...rest });
  return kept(timeline, { steps, historyAt });
}

/** A history that cannot be read at all is none. */
function readHistory(
  { history, historyAt }: { readonly history: unknown; readonly historyAt: unknown },
  context: ReadingContext,
): { steps: Step[]; historyAt: number; asked: number } {
  const all = list(history, limits.steps, context, 'step');
  const at = whole(historyAt, 0, all.length, context, say`the history`);
  const read = (one: unknown): Step | null => {
    try {
      return readStep(one, context);
    } catch {
      return null;
    }
  };
  const steps = all.map(read);
  const first = steps.slice(0, at).lastIndexOf(null) + 1;
  const beyond = steps.indexOf(null, at);
  const fine = steps.slice(first, beyond < 0 ? steps.length : beyond);
  return { steps: fine.filter((step) => step !== null), historyAt: at - first, asked: all.length };
}
