import { say } from '../../texts/say';
import { ParolaError } from '../base/errors';
import { limits } from './manifestLimits';

/**
 * Values of a project file, read by hand rather than by a schema: a part can have hundreds of thousands of
 * pieces, and only known fields are taken over. Each reader throws ParolaError `damaged-file` with what is
 * wrong and where.
 */
export const damaged = (what: string) =>
  new ParolaError(
    'damaged-file',
    say`This project file is damaged: ${what}. Nothing was opened; try another copy of it.`,
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

export type Raw = Readonly<Record<string, unknown>>;

export const bad = ({ part }: ReadingContext, what: string) =>
  damaged(say`${what} of part “${part}” is not valid`);

export function record(value: unknown, context: ReadingContext, what: string): Raw {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) throw bad(context, what);
  return value as Raw;
}

export function list(
  value: unknown,
  most: number,
  context: ReadingContext,
  what: string,
): readonly unknown[] {
  if (!Array.isArray(value)) throw bad(context, what);
  if (value.length > most)
    throw damaged(say`part “${context.part}” has ${value.length} ${what}s, and ${most} are the most`);
  return value;
}

/** A number from `least` to `most`, both included. */
type NumberReader = (
  value: unknown,
  least: number,
  most: number,
  context: ReadingContext,
  what: string,
) => number;

export const real: NumberReader = (value, least, most, context, what) => {
  if (typeof value !== 'number' || !(value >= least && value <= most)) throw bad(context, what);
  return value;
};

export const whole: NumberReader = (value, least, most, context, what) => {
  const number = real(value, least, most, context, what);
  if (!Number.isInteger(number)) throw bad(context, what);
  return number;
};

export function text(value: unknown, most: number, context: ReadingContext, what: string): string {
  if (typeof value !== 'string' || value.length > most) throw bad(context, what);
  return value;
}

export function idOf(value: unknown, context: ReadingContext, what: string): string {
  const id = text(value, limits.idLetters, context, what);
  if (id === '' || id === '__proto__') throw bad(context, what);
  return id;
}

export function oneOf<T extends string>(
  value: unknown,
  all: readonly T[],
  context: ReadingContext,
  what: string,
): T {
  if (!all.includes(value as T)) throw bad(context, what);
  return value as T;
}

export const given = (value: unknown) => value !== undefined && value !== null;
