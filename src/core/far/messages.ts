import { array, boolean, number, object, string, ValidationError, type InferType } from 'yup';
import { parseForeignJson } from '../base/json';

/** Both ends speak this version, or say that they do not understand each other. */
export const lineVersion = 1;

/** The longest text message, in characters: a script of a chapter fits in, a flood does not. */
export const mostTextLength = 400_000;
export const mostTakes = 64;
export const mostLines = 3000;
const mostRecordings = 256;

const uuid = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
const id = () => string().strict().required().matches(uuid);
const text = (most: number) => string().strict().defined().max(most);
const name = () => text(200);
/** Seconds of a clock that began when its end of the line was opened. */
const seconds = () => number().strict().required().min(-1e6).max(1e9);
const whole = (most: number) => number().strict().required().integer().min(0).max(most);
const rate = () => number().strict().required().integer().min(8000).max(192_000);

const clockLine = object({
  own: seconds(),
  other: seconds(),
  ppm: number().strict().required().min(-1000).max(1000),
  errorSeconds: number().strict().required().min(0).max(1e6),
});

/** A take the far side is to record: from a second of the studio's clock on, to one, or until it is told. */
const wantedTake = object({
  id: id(),
  name: name(),
  /** The clock of the studio that its seconds are of. */
  life: id(),
  from: seconds(),
  to: seconds().nullable().defined(),
});

/** A recording of one of them, as far as it has come. */
export const farRecordingSchema = object({
  id: id(),
  take: id(),
  rateHz: rate(),
  channels: whole(8).min(1),
  /** Frames on disk; `closed` when no more will come. */
  frames: whole(1e10),
  closed: boolean().strict().required(),
  /**
   * Of its own clock at its first frame, in seconds, and how the studio's clock goes by it, where it was
   * compared.
   */
  startsAt: seconds(),
  life: id(),
  clock: clockLine.nullable().defined(),
  studioLife: id().nullable().defined(),
});

const scriptLine = object({ text: text(20_000), label: name() });

const cueShown = object({
  number: name(),
  character: name(),
  text: text(20_000),
  note: text(2000),
  next: text(20_000),
});

const filmShown = object({
  id: id(),
  bytes: whole(1e11),
  width: whole(20_000),
  height: whole(20_000),
});

/** What is to be seen at the far side. Times are seconds of the studio's clock. */
const moving = object({
  mode: string().strict().required().oneOf(['idle', 'playing', 'rolling', 'recording', 'finishing']),
  /** The line that is read, counted from 0. */
  line: whole(mostLines),
  /** A moment of the studio's clock, and what is heard then, in seconds of the part. */
  at: seconds(),
  heard: seconds(),
  /** When the talent begins, and ends, where that is known. */
  begins: seconds().nullable().defined(),
  ends: seconds().nullable().defined(),
  runUpSeconds: number().strict().required().min(0).max(60),
  cue: cueShown.nullable().defined(),
  /** Where the part’s picture is at the moment `at`, in seconds of it, and whether it runs. */
  film: object({ seconds: seconds(), runs: boolean().strict().required() }).nullable().default(null),
  sweep: boolean().strict().required(),
});

export const fromStudio = {
  /** The talent is let in. */
  welcome: object({
    version: whole(1e6),
    life: id(),
    project: name(),
    studio: name(),
    you: name(),
    /** Echo and noise are taken out of the line. */
    cleaned: boolean().strict().required(),
  }),
  /**
   * The answer to a tick of a talent's clock: the second it was sent comes back, with two of the studio's.
   */
  tock: object({ life: id(), of: id(), sent: seconds(), received: seconds(), answered: seconds() }),
  takes: object({ takes: array(wantedTake).strict().required().max(mostTakes) }),
  have: object({ recording: id(), next: whole(1e7), beyond: array(whole(1e7)).strict().required().max(64) }),
  /** These stand whole at the studio. */
  kept: object({ recordings: array(id()).strict().required().max(mostRecordings) }),
  script: object({ part: name(), lines: array(scriptLine).strict().required().max(mostLines) }),
  moving,
  /** The picture of the part, which is asked for in pieces; null where it has none. */
  picture: object({ film: filmShown.nullable().defined() }),
  bye: object({ reason: text(500) }),
} as const;

export const fromTalent = {
  hello: object({
    version: whole(1e6),
    key: id(),
    name: name(),
    life: id(),
    rateHz: rate(),
    input: name(),
    /** What the browser says of the input. */
    granted: text(500),
    /** When consent to be recorded was given, in ms of the talent's calendar. */
    consentAt: number().strict().required().integer().min(0).max(1e14),
  }),
  tick: object({ life: id(), sent: seconds() }),
  recordings: object({ recordings: array(farRecordingSchema).strict().required().max(mostRecordings) }),
  /** Level of the last moment, dBFS. */
  level: object({
    peakDb: number().strict().required().min(-200).max(20),
    rmsDb: number().strict().required().min(-200).max(20),
  }),
  /**
   * How long the line takes to the talent's ears, in seconds, as found by a line check; null where it was
   * not.
   */
  held: object({ seconds: number().strict().min(0).max(5).nullable().defined() }),
  /** Pieces of a picture are wanted from that byte on. */
  pull: object({ film: id(), from: whole(1e11) }),
  trouble: object({ code: text(40), text: text(500) }),
  bye: object({ reason: text(500) }),
} as const;

type Table = typeof fromStudio | typeof fromTalent;
type MessageOf<T extends Table> = {
  [K in keyof T & string]: { readonly kind: K } & (T[K] extends { __outputType: infer O } ? O : never);
}[keyof T & string];

export type FromStudio = MessageOf<typeof fromStudio>;
export type FromTalent = MessageOf<typeof fromTalent>;
export type WantedTake = InferType<typeof wantedTake>;
export type FarRecording = InferType<typeof farRecordingSchema>;
export type Moving = InferType<typeof moving>;
export type FilmShown = InferType<typeof filmShown>;
export type ScriptShown = InferType<(typeof fromStudio)['script']>;
export type Hello = InferType<(typeof fromTalent)['hello']>;

export type Parsed<M> =
  { readonly message: M } | { readonly refused: 'too-long' | 'unreadable' | 'unknown' | 'invalid' };

/**
 * A message from the other side, checked field by field; what is not known of it is left out. Never throws:
 * what cannot be taken for a message is refused, and why is said.
 */
function parse<M>(table: Table, data: string): Parsed<M> {
  if (data.length > mostTextLength) return { refused: 'too-long' };
  let value: unknown;
  try {
    value = parseForeignJson(data);
  } catch {
    return { refused: 'unreadable' };
  }
  const kind = (value as { kind?: unknown } | null)?.kind;
  if (typeof kind !== 'string' || !Object.hasOwn(table, kind)) return { refused: 'unknown' };
  try {
    const schema = table[kind as keyof Table] as ReturnType<typeof object>;
    return { message: { ...schema.validateSync(value, { stripUnknown: true }), kind } as M };
  } catch (thrown) {
    if (thrown instanceof ValidationError) return { refused: 'invalid' };
    throw thrown;
  }
}

export const readFromStudio = (data: string) => parse<FromStudio>(fromStudio, data);
export const readFromTalent = (data: string) => parse<FromTalent>(fromTalent, data);
export const writeMessage = (message: FromStudio | FromTalent): string => JSON.stringify(message);
