import { ParolaError } from '../base/errors';
import {
  apply,
  inverse,
  type Difference,
  type Splice,
  type Step,
  type StoredTrack,
} from '../timeline/history';
import { markKinds } from '../timeline/markTraits';
import type { Output } from '../timeline/output';
import { fadeShapes, silence, type Piece } from '../timeline/pieces';
import { union, type Range } from '../timeline/range';
import { loadTimeline } from '../timeline/stored';
import { historyOfStruckPieces, type StruckStep, type StruckTimeline } from '../timeline/struckPieces';
import { byTime } from '../timeline/timeChange';
import { sheetFramesOf, type Mark, type TakePlace, type Timeline } from '../timeline/timeline';
import { shortestToneFrames } from '../timeline/tone';
import { limits } from './manifestLimits';

/**
 * Reads the long lists of a part by hand rather than by a schema: a part can have hundreds of thousands of pieces, and only known fields are
 * taken over. Each reader throws ParolaError `damaged-file` with what is wrong and where.
 */
export const damaged = (what: string) =>
  new ParolaError(
    'damaged-file',
    `This project file is damaged: ${what}. Nothing was opened; try another copy of it.`,
  );

/** What a part's lists are read against. */
export interface ReadingContext {
  readonly part: string;
  readonly mostFrames: number;
  readonly rateHz: number;
  readonly sources: ReadonlyMap<string, { readonly frames: number; readonly channels: number }>;
  readonly renameSource: (id: string) => string;
  /** Pieces carry whether they are struck (files up to version 4). */
  readonly struckPieces: boolean;
}

type Raw = Readonly<Record<string, unknown>>;

const bad = ({ part }: ReadingContext, what: string) => damaged(`${what} of part “${part}” is not valid`);

function record(value: unknown, context: ReadingContext, what: string): Raw {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) throw bad(context, what);
  return value as Raw;
}

function list(value: unknown, most: number, context: ReadingContext, what: string): readonly unknown[] {
  if (!Array.isArray(value)) throw bad(context, what);
  if (value.length > most)
    throw damaged(`part “${context.part}” has ${value.length} ${what}s, and ${most} are the most`);
  return value;
}

function whole(value: unknown, least: number, most: number, context: ReadingContext, what: string): number {
  if (typeof value !== 'number' || !Number.isInteger(value) || value < least || value > most)
    throw bad(context, what);
  return value;
}

function real(value: unknown, least: number, most: number, context: ReadingContext, what: string): number {
  if (typeof value !== 'number' || !(value >= least && value <= most)) throw bad(context, what);
  return value;
}

function text(value: unknown, most: number, context: ReadingContext, what: string): string {
  if (typeof value !== 'string' || value.length > most) throw bad(context, what);
  return value;
}

function idOf(value: unknown, context: ReadingContext, what: string): string {
  const id = text(value, limits.idLetters, context, what);
  if (id === '' || id === '__proto__') throw bad(context, what);
  return id;
}

function oneOf<T extends string>(
  value: unknown,
  all: readonly T[],
  context: ReadingContext,
  what: string,
): T {
  if (!all.includes(value as T)) throw bad(context, what);
  return value as T;
}

const given = (value: unknown) => value !== undefined && value !== null;

// — Pieces —

const fade = (value: unknown, context: ReadingContext) => {
  const { frames, shape } = record(value, context, 'a fade');
  return {
    frames: whole(frames, 1, context.mostFrames, context, 'the length of a fade'),
    shape: oneOf(shape, fadeShapes, context, 'the shape of a fade'),
  };
};

function edges(raw: Raw, context: ReadingContext): Pick<Piece, 'joint' | 'fadeIn' | 'fadeOut'> {
  const result: { -readonly [K in 'joint' | 'fadeIn' | 'fadeOut']?: Piece[K] } = {};
  if (given(raw.joint)) {
    const { frames, shape } = record(raw.joint, context, 'a joint');
    const most = limits.joinSeconds * context.rateHz;
    result.joint = {
      frames: frames === null ? null : whole(frames, 0, most, context, 'the length of a joint'),
      shape: oneOf(shape, fadeShapes, context, 'the shape of a joint'),
    };
  }
  if (given(raw.fadeIn)) result.fadeIn = fade(raw.fadeIn, context);
  if (given(raw.fadeOut)) result.fadeOut = fade(raw.fadeOut, context);
  return result;
}

function sourceOf(raw: Raw, end: number, context: ReadingContext, what: string) {
  const old = idOf(raw.source, context, `the source of ${what}`);
  const source = context.sources.get(old);
  const channel = whole(raw.channel, 0, limits.channels - 1, context, `the channel of ${what}`);
  if (!source || channel >= source.channels || end > source.frames)
    throw damaged(`part “${context.part}” uses audio that is not in the file`);
  return { source: context.renameSource(old), channel };
}

/** A stretch of a source that is long enough to make room tone from. */
export function readToneRegion(raw: Raw, context: ReadingContext) {
  const end = whole(raw.end, 1, context.mostFrames, context, 'the end of a room tone');
  const start = whole(raw.start, 0, end - shortestToneFrames, context, 'the start of a room tone');
  return { ...sourceOf(raw, end, context, 'a room tone'), start, end };
}

function readPiece(value: unknown, context: ReadingContext): Piece {
  const raw = record(value, context, 'a piece');
  const length = whole(raw.length, 1, context.mostFrames, context, 'the length of a piece');
  const more = {
    ...edges(raw, context),
    ...(context.struckPieces && { struck: raw.struck === true }),
  };
  if (raw.kind === 'silence')
    return { kind: 'silence', length, ...(raw.meant === true && { meant: true }), ...more };
  const gainDb = real(raw.gainDb, -120, 60, context, 'the gain of a piece');
  if (raw.kind === 'audio') {
    const from = whole(raw.from, 0, context.mostFrames, context, 'the start of a piece');
    return {
      kind: 'audio',
      ...sourceOf(raw, from + length, context, 'a piece'),
      from,
      length,
      gainDb,
      ...more,
    };
  }
  if (raw.kind !== 'tone') throw bad(context, 'the kind of a piece');
  const most = 2 * context.mostFrames;
  return {
    kind: 'tone',
    ...readToneRegion(raw, context),
    seed: whole(
      raw.seed,
      -Number.MAX_SAFE_INTEGER,
      Number.MAX_SAFE_INTEGER,
      context,
      'the seed of a room tone',
    ),
    from: whole(raw.from, -most, most, context, 'the start of a room tone'),
    length,
    gainDb,
    ...more,
  };
}

function readPieces(value: unknown, context: ReadingContext): Piece[] {
  const pieces = list(value, limits.pieces, context, 'piece').map((one) => readPiece(one, context));
  const frames = pieces.reduce((sum, { length }) => sum + length, 0);
  if (frames > context.mostFrames)
    throw damaged(`part “${context.part}” is longer than ${limits.hours} hours`);
  return pieces;
}

// — What stands beside them —

function readMark(value: unknown, context: ReadingContext): Mark {
  const raw = record(value, context, 'a mark');
  return {
    id: idOf(raw.id, context, 'the id of a mark'),
    kind: oneOf(raw.kind, markKinds, context, 'the kind of a mark'),
    at: whole(raw.at, 0, context.mostFrames, context, 'the place of a mark'),
    length: whole(raw.length, 0, context.mostFrames, context, 'the length of a mark'),
    name: text(raw.name, limits.nameLetters, context, 'the name of a mark'),
    ...(given(raw.line) && { line: idOf(raw.line, context, 'the line of a mark') }),
  };
}

function readMarks(value: unknown, context: ReadingContext): Mark[] {
  const marks = list(value, limits.marks, context, 'mark').map((one) => readMark(one, context));
  if (new Set(marks.map(({ id }) => id)).size < marks.length) throw bad(context, 'the id of a mark');
  return marks.sort(byTime);
}

/** A place may name a recording that is not kept any more: nothing looks it up. */
function readPlace(value: unknown, context: ReadingContext): TakePlace {
  const raw = record(value, context, 'a place');
  const frames = (what: unknown, name: string) => whole(what, 0, context.mostFrames, context, name);
  return {
    source: context.renameSource(idOf(raw.source, context, 'the take of a place')),
    track: idOf(raw.track, context, 'the track of a place'),
    channel: whole(raw.channel, 0, limits.channels - 1, context, 'the channel of a place'),
    at: frames(raw.at, 'a place'),
    from: frames(raw.from, 'the start of a place'),
    length: frames(raw.length, 'the length of a place'),
  };
}

const readPlaces = (value: unknown, context: ReadingContext) =>
  list(value, limits.marks, context, 'place').map((one) => readPlace(one, context));

function readRange(value: unknown, context: ReadingContext): Range {
  const raw = record(value, context, 'a struck passage');
  const to = whole(raw.to, 1, context.mostFrames, context, 'the end of a struck passage');
  return { from: whole(raw.from, 0, to - 1, context, 'the start of a struck passage'), to };
}

function readOutput(value: unknown, context: ReadingContext): Output {
  const raw = record(value, context, 'the output');
  const offsets = list(raw.dcOffsets, 2, context, 'DC offset');
  if (offsets.length === 0) throw bad(context, 'the DC offset');
  const ceiling = raw.ceiling === null ? null : record(raw.ceiling, context, 'the ceiling');
  return {
    gainDb: real(raw.gainDb, -120, 60, context, 'the gain'),
    dcOffsets: offsets.map((offset) => real(offset, -1, 1, context, 'the DC offset')),
    ceiling: ceiling && {
      dbfs: real(ceiling.dbfs, -60, 0, context, 'the ceiling'),
      kind: oneOf(ceiling.kind, ['sample', 'true'] as const, context, 'the kind of the ceiling'),
    },
  };
}

function readTrack(value: unknown, context: ReadingContext): StoredTrack {
  const raw = record(value, context, 'a track');
  return {
    id: idOf(raw.id, context, 'the id of a track'),
    name: text(raw.name, limits.nameLetters, context, 'the name of a track'),
    ...(given(raw.side) && {
      side: oneOf(raw.side, ['left', 'right'] as const, context, 'the side of a track'),
    }),
    pieces: readPieces(raw.pieces, context),
  };
}

function readTracks(value: unknown, context: ReadingContext): StoredTrack[] {
  const tracks = list(value, limits.tracks, context, 'track').map((one) => readTrack(one, context));
  if (tracks.length === 0 || new Set(tracks.map(({ id }) => id)).size < tracks.length)
    throw bad(context, 'the list of tracks');
  if (tracks.reduce((sum, { pieces }) => sum + pieces.length, 0) > limits.pieces)
    throw damaged(`part “${context.part}” has more than ${limits.pieces} pieces`);
  return tracks;
}

/** All tracks as long as the longest. */
function padded(tracks: readonly StoredTrack[]): StoredTrack[] {
  const lengths = tracks.map(({ pieces }) => pieces.reduce((sum, { length }) => sum + length, 0));
  const end = Math.max(...lengths);
  return tracks.map((track, index) =>
    lengths[index] === end ? track : { ...track, pieces: [...track.pieces, silence(end - lengths[index])] },
  );
}

// — History —

function readSplice<T>(
  value: unknown,
  read: (value: unknown, context: ReadingContext) => T,
  context: ReadingContext,
): Splice<T> | null {
  if (!given(value)) return null;
  const raw = record(value, context, 'a step of the history');
  const all = (items: unknown) =>
    list(items, limits.pieces, context, 'piece').map((one) => read(one, context));
  return {
    at: whole(raw.at, 0, limits.pieces, context, 'a step of the history'),
    removed: all(raw.removed),
    added: all(raw.added),
  };
}

const outputOrNull = (value: unknown, context: ReadingContext) =>
  given(value) ? readOutput(value, context) : null;

function readDifference(value: unknown, context: ReadingContext): Difference {
  const raw = record(value, context, 'a step of the history');
  const output = given(raw.output) ? record(raw.output, context, 'a step of the history') : null;
  return {
    tracks: list(raw.tracks, limits.tracks, context, 'track').map((one) => {
      const track = record(one, context, 'a step of the history');
      const pieces = readSplice(track.pieces, readPiece, context);
      if (!pieces) throw bad(context, 'a step of the history');
      return { id: idOf(track.id, context, 'the track of a step'), pieces };
    }),
    struck: readSplice(raw.struck, readRange, context),
    marks: readSplice(raw.marks, readMark, context),
    places: readSplice(raw.places, readPlace, context),
    staves: readSplice(raw.staves, readTrack, context),
    output: output && {
      before: outputOrNull(output.before, context),
      after: outputOrNull(output.after, context),
    },
  };
}

function readStep(value: unknown, context: ReadingContext): Step {
  const raw = record(value, context, 'a step of the history');
  return {
    label: text(raw.label, limits.nameLetters, context, 'the name of a step'),
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

export interface ReadTimeline {
  readonly timeline: Timeline;
  readonly history: readonly Step[];
  readonly historyAt: number;
  /** Steps that do not fit and were left out. */
  readonly dropped: number;
}

/**
 * The timeline and the history of a part, as today's. A history is gone through once: what does not fit is dropped, since undoing it would throw; the
 * sheet itself is whole then all the same.
 */
export function readTimeline(
  raw: { readonly timeline: unknown; readonly history: unknown; readonly historyAt: unknown },
  context: ReadingContext,
): ReadTimeline {
  const stored = record(raw.timeline, context, 'the sheet');
  const rest = {
    marks: readMarks(stored.marks, context),
    ...(given(stored.output) && { output: readOutput(stored.output, context) }),
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
  const whole = padded(tracks);
  const end = Math.max(0, ...whole.map(({ pieces }) => pieces.reduce((sum, { length }) => sum + length, 0)));
  const struck = list(stored.struck ?? [], limits.pieces, context, 'struck passage')
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
  const at = whole(historyAt, 0, all.length, context, 'the history');
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
