import { say } from '../../texts/say';
import type { Chain } from '../chain/chain';
import { readChain } from '../chain/chainFile';
import type { Clip, ClipEdge, ClipLoop, Moment } from '../timeline/bedClips';
import { duckingLimits, type Ducking } from '../timeline/ducking';
import type { LevelPoint } from '../timeline/levelPoints';
import { stripLimits, type Bed, type Mix, type Strip } from '../timeline/mix';
import { limits } from './manifestLimits';
import { sourceOf } from './manifestLists';
import {
  bad,
  given,
  idOf,
  list,
  oneOf,
  real,
  record,
  text,
  whole,
  type ReadingContext,
} from './manifestValues';

/** Levels, places and beds of a part. */
const frameOf = (value: unknown, context: ReadingContext, what: string) =>
  whole(value, 0, context.mostFrames, context, what);

function readPoint(value: unknown, context: ReadingContext): LevelPoint {
  const raw = record(value, context, say`a level point`);
  return {
    at: frameOf(raw.at, context, say`the place of a level point`),
    db: real(raw.db, -120, 60, context, say`the level of a level point`),
    ...(given(raw.passage) && { passage: idOf(raw.passage, context, say`the passage of a level point`) }),
  };
}

function readDucking(value: unknown, context: ReadingContext): Ducking {
  const raw = record(value, context, say`how a bed goes down`);
  const within = (name: keyof Ducking) =>
    real(raw[name], duckingLimits[name].from, duckingLimits[name].to, context, say`how a bed goes down`);
  return {
    amountDb: within('amountDb'),
    downSeconds: within('downSeconds'),
    waitSeconds: within('waitSeconds'),
    upSeconds: within('upSeconds'),
  };
}

function readStrip(value: unknown, context: ReadingContext): Strip {
  const raw = record(value, context, say`a level`);
  const points = list(raw.points, limits.marks, context, say`level point`).map((one) =>
    readPoint(one, context),
  );
  return {
    id: idOf(raw.id, context, say`the id of a level`),
    levelDb: real(raw.levelDb, stripLimits.lowestDb, stripLimits.highestDb, context, say`a level`),
    place: real(raw.place, -1, 1, context, say`a place in the mix`),
    points: points.sort((a, b) => a.at - b.at),
    ...(given(raw.ducking) && { ducking: readDucking(raw.ducking, context) }),
    ...(given(raw.chain) && { chain: readVoiceChain(raw.chain, context) }),
  };
}

/** What is wrong with a chain is told as what is wrong with the part. */
function readVoiceChain(value: unknown, context: ReadingContext): Chain {
  try {
    const { name, steps } = readChain(value);
    return { name, steps };
  } catch {
    throw bad(context, say`the chain of a voice`);
  }
}

const bareMoments = ['start', 'end', 'firstWord', 'lastWord'] as const;

function readMoment(value: unknown, context: ReadingContext): Moment {
  const raw = record(value, context, say`what a clip holds on to`);
  const what = say`what a clip holds on to`;
  const kind = oneOf(raw.kind, [...bareMoments, 'mark', 'line', 'clip', 'place'] as const, context, what);
  const at = () => frameOf(raw.at, context, what);
  switch (kind) {
    case 'mark':
      return { kind, mark: idOf(raw.mark, context, what), at: at() };
    case 'line':
      return { kind, line: idOf(raw.line, context, what), at: at() };
    case 'clip':
      return { kind, clip: idOf(raw.clip, context, what), at: at() };
    case 'place':
      return { kind, at: at() };
    default:
      return { kind };
  }
}

function readEdge(value: unknown, context: ReadingContext): ClipEdge {
  const raw = record(value, context, say`an end of a clip`);
  const { mostFrames } = context;
  return {
    moment: readMoment(raw.moment, context),
    after: whole(raw.after, -mostFrames, mostFrames, context, say`an end of a clip`),
  };
}

function readLoop(value: unknown, end: number, context: ReadingContext): ClipLoop {
  const raw = record(value, context, say`the loop of a clip`);
  const to = whole(raw.to, 1, end, context, say`the end of a loop`);
  const from = whole(raw.from, 0, to - 1, context, say`the start of a loop`);
  return {
    from,
    to,
    fadeFrames: whole(raw.fadeFrames, 0, Math.min(from, to - from), context, say`the fade of a loop`),
    shape: oneOf(raw.shape, ['smooth', 'power'] as const, context, say`the shape of a loop`),
  };
}

function readClip(value: unknown, context: ReadingContext): Clip {
  const raw = record(value, context, say`a clip`);
  const channels = whole(raw.channels, 1, 2, context, say`the channels of a clip`) as 1 | 2;
  const from = frameOf(raw.from, context, say`the start of a clip`);
  const length = whole(raw.length, 1, context.mostFrames, context, say`the length of a clip`);
  const { source } = sourceOf({ ...raw, channel: channels - 1 }, from + length, context, say`a clip`);
  return {
    id: idOf(raw.id, context, say`the id of a clip`),
    source,
    channels,
    from,
    length,
    levelDb: real(
      raw.levelDb,
      stripLimits.lowestDb,
      stripLimits.highestDb,
      context,
      say`the level of a clip`,
    ),
    begin: readEdge(raw.begin, context),
    end: raw.end === 'sound' ? 'sound' : readEdge(raw.end, context),
    fadeIn: frameOf(raw.fadeIn, context, say`the fade of a clip`),
    fadeOut: frameOf(raw.fadeOut, context, say`the fade of a clip`),
    loop: given(raw.loop) ? readLoop(raw.loop, from + length, context) : null,
  };
}

function readBed(value: unknown, context: ReadingContext): Bed {
  const raw = record(value, context, say`a bed`);
  return {
    id: idOf(raw.id, context, say`the id of a bed`),
    name: text(raw.name, limits.nameLetters, context, say`the name of a bed`),
    clips: list(raw.clips, limits.clips, context, 'clip').map((one) => readClip(one, context)),
  };
}

/** Throws ParolaError `damaged-file` for what is not valid, or two of one id. */
export function readMix(value: unknown, context: ReadingContext): Mix {
  const raw = record(value, context, say`the mix`);
  const strips = list(raw.strips, 2 * limits.tracks + 1, context, 'level').map((one) =>
    readStrip(one, context),
  );
  const beds = list(raw.beds, limits.tracks, context, 'bed').map((one) => readBed(one, context));
  const ids = [
    strips.map(({ id }) => say`strip ${id}`),
    beds.map(({ id }) => say`bed ${id}`),
    beds.flatMap(({ clips }) => clips.map(({ id }) => say`clip ${id}`)),
  ].flat();
  if (new Set(ids).size < ids.length) throw bad(context, say`the id of a level, a bed or a clip`);
  const words = given(raw.words) ? record(raw.words, context, say`the place of the words`) : null;
  return {
    strips,
    beds,
    ...(words && {
      words: {
        first: frameOf(words.first, context, say`the place of the first word`),
        last: frameOf(words.last, context, say`the place of the last word`),
      },
    }),
  };
}
