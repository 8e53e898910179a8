import { say } from '../../texts/say';
import { ValidationError } from 'yup';
import { ParolaError } from './errors';
import { parseForeignJson } from './json';

/** A kind of JSON file of Parola's own, told by a field that has the version of its form. */
export interface OwnFile<Read> {
  /** What it is called in messages: “spec file”. */
  what: string;
  /** What a file without the field is not: “a spec”. */
  kind: string;
  field: string;
  version: number;
  /** Throws yup's ValidationError where something is wrong with it. */
  read: (parsed: object) => Read;
  /** A problem in words; its path and message where missing. */
  tell?: (problem: ValidationError, parsed: object) => string;
}

/** What yup says of itself where nothing is there; everything else is in our own words. */
const unsaid = / is a required field$/;
const byPath = ({ path, message }: ValidationError) =>
  unsaid.test(message) ? say`${path} is missing.` : path ? `${path}: ${message}` : message;

/** A file that has little of what it should have is told by this many fields. */
const mostTold = 5;

/** Reads such a file. Throws ParolaError `damaged-file` with the fields that are wrong, and how. */
export function readOwnFile<Read>(
  text: string,
  { what, kind, field, version, read, tell = byPath }: OwnFile<Read>,
): Read {
  const refuse = (why: string) => new ParolaError('damaged-file', say`This ${what} cannot be used: ${why}`);
  let parsed: unknown;
  try {
    parsed = parseForeignJson(text);
  } catch {
    throw refuse(say`it is not JSON. Export it again from Parola, or check its commas and brackets.`);
  }
  if (typeof parsed !== 'object' || parsed === null || !(field in parsed))
    throw refuse(say`it has no field “${field}”, so it is not ${kind}.`);
  const written = (parsed as Record<string, unknown>)[field];
  if (typeof written !== 'number' || written > version)
    throw refuse(say`it was written by a newer version of Parola.`);
  try {
    return read(parsed);
  } catch (thrown) {
    if (!(thrown instanceof ValidationError))
      throw refuse(
        say`one of its fields is of another kind than it should be, such as a list in place of a name.`,
      );
    const problems = thrown.inner.length > 0 ? thrown.inner : [thrown];
    const told = problems.slice(0, mostTold).map((problem) => tell(problem, parsed as object));
    const more = problems.length - told.length;
    throw refuse([...told, more > 0 && say`And ${more} more.`].filter(Boolean).join(' '));
  }
}
