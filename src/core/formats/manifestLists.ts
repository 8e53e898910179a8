import { say } from '../../texts/say';
import type { StoredGuide, StoredTrack } from '../timeline/history';
import { markKinds } from '../timeline/markTraits';
import type { Output } from '../timeline/output';
import { fadeShapes, type Piece } from '../timeline/pieces';
import type { Range } from '../timeline/range';
import { byTime } from '../timeline/timeChange';
import type { Mark, TakePlace } from '../timeline/timeline';
import { shortestToneFrames } from '../timeline/tone';
import { limits } from './manifestLimits';
import {
  bad,
  damaged,
  given,
  idOf,
  list,
  oneOf,
  real,
  record,
  text,
  whole,
  type Raw,
  type ReadingContext,
} from './manifestValues';

const fade = (value: unknown, context: ReadingContext) => {
  const { frames, shape } = record(value, context, say`a fade`);
  return {
    frames: whole(frames, 1, context.mostFrames, context, say`the length of a fade`),
    shape: oneOf(shape, fadeShapes, context, say`the shape of a fade`),
  };
};

function edges(raw: Raw, context: ReadingContext): Pick<Piece, 'joint' | 'fadeIn' | 'fadeOut'> {
  const result: { -readonly [K in 'joint' | 'fadeIn' | 'fadeOut']?: Piece[K] } = {};
  if (given(raw.joint)) {
    const { frames, shape } = record(raw.joint, context, say`a joint`);
    const most = limits.joinSeconds * context.rateHz;
    result.joint = {
      frames: frames === null ? null : whole(frames, 0, most, context, say`the length of a joint`),
      shape: oneOf(shape, fadeShapes, context, say`the shape of a joint`),
    };
  }
  if (given(raw.fadeIn)) result.fadeIn = fade(raw.fadeIn, context);
  if (given(raw.fadeOut)) result.fadeOut = fade(raw.fadeOut, context);
  return result;
}

export function sourceOf(raw: Raw, end: number, context: ReadingContext, what: string) {
  const old = idOf(raw.source, context, say`the source of ${what}`);
  const source = context.sources.get(old);
  const channel = whole(raw.channel, 0, limits.channels - 1, context, say`the channel of ${what}`);
  if (!source || channel >= source.channels || end > source.frames)
    throw damaged(say`part “${context.part}” uses audio that is not in the file`);
  return { source: context.renameSource(old), channel };
}

/** A stretch of a source that is long enough to make room tone from. */
export function readToneRegion(raw: Raw, context: ReadingContext) {
  const end = whole(raw.end, 1, context.mostFrames, context, say`the end of a room tone`);
  const start = whole(raw.start, 0, end - shortestToneFrames, context, say`the start of a room tone`);
  return { ...sourceOf(raw, end, context, say`a room tone`), start, end };
}

export function readPiece(value: unknown, context: ReadingContext): Piece {
  const raw = record(value, context, say`a piece`);
  const length = whole(raw.length, 1, context.mostFrames, context, say`the length of a piece`);
  const more = {
    ...edges(raw, context),
    ...(context.struckPieces && { struck: raw.struck === true }),
  };
  if (raw.kind === 'silence')
    return { kind: 'silence', length, ...(raw.meant === true && { meant: true }), ...more };
  const gainDb = real(raw.gainDb, -120, 60, context, say`the gain of a piece`);
  if (raw.kind === 'audio') {
    const from = whole(raw.from, 0, context.mostFrames, context, say`the start of a piece`);
    return {
      kind: 'audio',
      ...sourceOf(raw, from + length, context, say`a piece`),
      from,
      length,
      gainDb,
      ...more,
    };
  }
  if (raw.kind !== 'tone') throw bad(context, say`the kind of a piece`);
  const most = 2 * context.mostFrames;
  return {
    kind: 'tone',
    ...readToneRegion(raw, context),
    seed: whole(
      raw.seed,
      -Number.MAX_SAFE_INTEGER,
      Number.MAX_SAFE_INTEGER,
      context,
      say`the seed of a room tone`,
    ),
    from: whole(raw.from, -most, most, context, say`the start of a room tone`),
    length,
    gainDb,
    ...more,
  };
}

function readPieces(value: unknown, context: ReadingContext): Piece[] {
  const pieces = list(value, limits.pieces, context, 'piece').map((one) => readPiece(one, context));
  const frames = pieces.reduce((sum, { length }) => sum + length, 0);
  if (frames > context.mostFrames)
    throw damaged(say`part “${context.part}” is longer than ${limits.hours} hours`);
  return pieces;
}

// — What stands beside the pieces —

export function readMark(value: unknown, context: ReadingContext): Mark {
  const raw = record(value, context, say`a mark`);
  return {
    id: idOf(raw.id, context, say`the id of a mark`),
    kind: oneOf(raw.kind, markKinds, context, say`the kind of a mark`),
    at: whole(raw.at, 0, context.mostFrames, context, say`the place of a mark`),
    length: whole(raw.length, 0, context.mostFrames, context, say`the length of a mark`),
    name: text(raw.name, limits.nameLetters, context, say`the name of a mark`),
    ...(given(raw.line) && { line: idOf(raw.line, context, say`the line of a mark`) }),
  };
}

export function readMarks(value: unknown, context: ReadingContext): Mark[] {
  const marks = list(value, limits.marks, context, 'mark').map((one) => readMark(one, context));
  if (new Set(marks.map(({ id }) => id)).size < marks.length) throw bad(context, say`the id of a mark`);
  return marks.sort(byTime);
}

/** A place may name a recording that is not kept any more: nothing looks it up. */
export function readPlace(value: unknown, context: ReadingContext): TakePlace {
  const raw = record(value, context, say`a place`);
  const frames = (what: unknown, name: string) => whole(what, 0, context.mostFrames, context, name);
  return {
    source: context.renameSource(idOf(raw.source, context, say`the take of a place`)),
    track: idOf(raw.track, context, say`the track of a place`),
    channel: whole(raw.channel, 0, limits.channels - 1, context, say`the channel of a place`),
    at: frames(raw.at, say`a place`),
    from: frames(raw.from, say`the start of a place`),
    length: frames(raw.length, say`the length of a place`),
  };
}

export const readPlaces = (value: unknown, context: ReadingContext) =>
  list(value, limits.marks, context, 'place').map((one) => readPlace(one, context));

export function readRange(value: unknown, context: ReadingContext): Range {
  const raw = record(value, context, say`a struck passage`);
  const to = whole(raw.to, 1, context.mostFrames, context, say`the end of a struck passage`);
  return { from: whole(raw.from, 0, to - 1, context, say`the start of a struck passage`), to };
}

export function readOutput(value: unknown, context: ReadingContext): Output {
  const raw = record(value, context, say`the output`);
  const offsets = list(raw.dcOffsets, 2, context, say`DC offset`);
  if (offsets.length === 0) throw bad(context, say`the DC offset`);
  const ceiling = raw.ceiling === null ? null : record(raw.ceiling, context, say`the ceiling`);
  return {
    gainDb: real(raw.gainDb, -120, 60, context, say`the gain`),
    dcOffsets: offsets.map((offset) => real(offset, -1, 1, context, say`the DC offset`)),
    ceiling: ceiling && {
      dbfs: real(ceiling.dbfs, -60, 0, context, say`the ceiling`),
      kind: oneOf(ceiling.kind, ['sample', 'true'] as const, context, say`the kind of the ceiling`),
    },
  };
}

export function readTrack(value: unknown, context: ReadingContext): StoredTrack {
  const raw = record(value, context, say`a track`);
  return {
    id: idOf(raw.id, context, say`the id of a track`),
    name: text(raw.name, limits.nameLetters, context, say`the name of a track`),
    ...(given(raw.side) && {
      side: oneOf(raw.side, ['left', 'right'] as const, context, say`the side of a track`),
    }),
    pieces: readPieces(raw.pieces, context),
  };
}

function readGuide(value: unknown, context: ReadingContext): StoredGuide {
  const raw = record(value, context, say`a guide`);
  return {
    id: idOf(raw.id, context, say`the id of a guide`),
    name: text(raw.name, limits.nameLetters, context, say`the name of a guide`),
    ...(raw.free === true && { free: true }),
    pieces: readPieces(raw.pieces, context),
  };
}

export function readGuides(value: unknown, context: ReadingContext): StoredGuide[] {
  const guides = list(value, limits.tracks, context, 'guide').map((one) => readGuide(one, context));
  if (new Set(guides.map(({ id }) => id)).size < guides.length) throw bad(context, say`the list of guides`);
  return guides;
}

export function readTracks(value: unknown, context: ReadingContext): StoredTrack[] {
  const tracks = list(value, limits.tracks, context, 'track').map((one) => readTrack(one, context));
  if (tracks.length === 0 || new Set(tracks.map(({ id }) => id)).size < tracks.length)
    throw bad(context, say`the list of tracks`);
  if (tracks.reduce((sum, { pieces }) => sum + pieces.length, 0) > limits.pieces)
    throw damaged(say`part “${context.part}” has more than ${limits.pieces} pieces`);
  return tracks;
}
